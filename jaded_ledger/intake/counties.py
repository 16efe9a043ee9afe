"""The county that a row belongs to: the one that was chosen for the file, or the one that the row names."""

from __future__ import annotations

from jaded_ledger.intake.batches import SourceLine
from jaded_ledger.intake.drafts import COUNTY
from jaded_ledger.records.models import County


def county_key(named: str) -> str:
    """Return a county's name as it is compared.

    >>> county_key(" PIKE HOLLOW County ")
    'pike hollow'
    """
    return " ".join(named.casefold().split()).removesuffix(" county")


def counties_by_key() -> dict[str, County]:
    """Return the counties on record by all that a row may call them: the name, and the five-digit code."""
    counties = list(County.objects.order_by("name"))
    return {county_key(county.name): county for county in counties} | {county.fips: county for county in counties if county.fips}


class Belonging:
    """Tells the county of each row of a file; ``chosen`` is None where each row names its own."""

    def __init__(self, chosen: County | None) -> None:
        self.chosen = chosen
        self._by_key = counties_by_key()
        self.counties = {county.pk: county for county in self._by_key.values()}

    def county_of(self, line: SourceLine) -> County:
        """Return the county of a row. Raises RefusedRowError."""
        named = line.text(COUNTY)
        if self.chosen and not named.strip():
            return self.chosen
        county = self._by_key.get(county_key(named))
        if county is None:
            names = ", ".join(county.name for county in self.counties.values()) or "none yet"
            raise line.refuse(COUNTY, f"is no county on record (counties: {names})")
        if self.chosen and county != self.chosen:
            raise line.refuse(COUNTY, f"is not {self.chosen.name}, which the file was said to be of")
        return county
