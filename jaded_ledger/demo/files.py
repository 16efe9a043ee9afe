"""The demo world as files: outlines in GeoJSON, roll and deeds in CSV, written as they are told."""

from __future__ import annotations

import csv
import json
from collections import Counter
from datetime import date, timedelta
from itertools import pairwise
from pathlib import Path
from random import Random

from jaded_ledger.demo.stories import Deed, Story, tell
from jaded_ledger.demo.town import PARCELS_PER_TOWN, Lot, blocks_of_town, degrees
from jaded_ledger.intake import deeds, roll

SEED = 20261124
TODAY = date(2026, 11, 24)
RECORDED_THROUGH = TODAY - timedelta(days=6)
TAMARACK = {
    "name": "Tamarack", "state": "WI", "fips": "55998", "parcel_number_mask": "NN-NNN-NNN[-UUU]", "assessment_ratio": 1,
}  # fmt: skip
"""A county code that is not in use."""


class _Writer:
    """The three files of a county, open for writing, and its document counter."""

    def __init__(self, folder: Path) -> None:
        folder.mkdir(parents=True, exist_ok=True)
        self._outlines = (folder / "parcels.geojson").open("w", encoding="utf-8")
        self._roll_file = (folder / "roll.csv").open("w", encoding="utf-8", newline="")
        self._deed_file = (folder / "deeds.csv").open("w", encoding="utf-8", newline="")
        self._roll = csv.DictWriter(self._roll_file, roll.COLUMNS)
        self._deeds = csv.DictWriter(self._deed_file, deeds.COLUMNS)
        self._roll.writeheader()
        self._deeds.writeheader()
        self._outlines.write('{"type": "FeatureCollection", "features": [\n')
        self._is_first = True
        self._documents: Counter[int] = Counter()

    def outline(self, number: str, parent: str, lot: Lot, town: int) -> None:
        feature = {
            "type": "Feature",
            "properties": {"parcel_number": number, "parent_parcel_number": parent},
            "geometry": {"type": "Polygon", "coordinates": [degrees(lot.corners, town)]},
        }
        self._outlines.write(("" if self._is_first else ",\n") + json.dumps(feature))
        self._is_first = False

    def row(self, number: str, lot: Lot, story: Story, *, city: str, zip_code: str, unit: int) -> None:
        mailing = story.mailing
        is_rural = story.lot_sqft is not None and lot.district.name == "country"
        cells = {
            "parcel_number": number, "house_number": lot.house_number, "street": lot.street,
            "unit": f"UNIT {unit}" if unit else "", "city": city, "zip": zip_code,
            "municipality": lot.district.municipality, "subdivision": lot.subdivision, "land_use": story.land_use,
            "class": story.property_class, "beds": story.beds, "baths": story.baths, "living_area": story.living_area,
            "lot_sqft": None if story.lot_sqft is None or is_rural else round(story.lot_sqft),
            "lot_acres": round(story.lot_sqft / 43_560, 3) if story.lot_sqft is not None and is_rural else None,
            "year_built": story.year_built, "land_value": story.land_value, "improvement_value": story.improvement_value,
            "homestead": {True: "Y", False: "N", None: ""}[story.homestead], "owner": story.owner,
            "mailing_address": mailing.line if mailing else "", "mailing_city": mailing.city if mailing else "",
            "mailing_state": mailing.state if mailing else "", "mailing_zip": mailing.zip_code if mailing else "",
        }  # fmt: skip
        self._roll.writerow(cells)

    def deed(self, number: str, deed: Deed) -> None:
        self._documents[deed.recorded.year] += 1
        self._deeds.writerow(
            {
                "document_number": f"{deed.recorded.year}-{self._documents[deed.recorded.year]:06d}",
                "recorded": deed.recorded.isoformat(), "dated": deed.dated.isoformat(), "deed": deed.deed,
                "price": deed.price, "grantor": deed.grantor, "grantee": deed.grantee,
                "parcel_number": deeds.SEVERAL.join([number, *deed.also]),
            }
        )  # fmt: skip

    def close(self) -> None:
        self._outlines.write("\n]}\n")
        for handle in (self._outlines, self._roll_file, self._deed_file):
            handle.close()


def _sell_pairs(told: list[tuple[str, Story]], rng: Random) -> None:
    """Now and then a company buys two neighbouring lots under one document."""
    for (_, first), (number, second) in pairwise(told):
        if first.deeds and not first.deeds[0].also and "LLC" in first.owner and rng.random() < 0.25:
            second.owner, second.mailing, second.homestead, second.deeds = first.owner, first.mailing, False, []
            first.deeds[0].also.append(number)


def write_county(folder: Path, parcels: int = PARCELS_PER_TOWN) -> None:
    """Write Tamarack County with so many parcels. The same number always gives the same files."""
    writer = _Writer(folder)
    block, left, town = 0, parcels, 0
    pages = 100 if parcels <= 60_000 else 900
    while left > 0:
        share = min(left, PARCELS_PER_TOWN)
        left -= share
        rng = Random(f"{SEED} town {town}")
        zip_base = 53_300 if town == 0 else 53_300 + town % 90
        for lots in blocks_of_town(town, rng, share):
            page = f"{(12 + block // pages) % 100:02d}-{block % pages + 1:03d}"
            block += 1
            told: list[tuple[str, Story]] = []
            standing: list[tuple[Lot, str, int]] = []
            for place, lot in enumerate(lots, start=1):
                ground = f"{page}-{place:03d}"
                city = lot.district.city if town == 0 else f"{lot.district.city} {town + 1}"
                for unit in range(lot.units + 1):
                    number = f"{ground}-{unit:03d}" if unit else ground
                    story = tell(lot, rng, zip_base=zip_base, today=TODAY, condominium_unit=unit)
                    writer.outline(number, ground if unit else "", lot, town)
                    told.append((number, story))
                    standing.append((lot, city, unit))
            _sell_pairs(told, rng)
            for (number, story), (lot, city, unit) in zip(told, standing, strict=True):
                zip_code = str(zip_base + lot.district.zip_offset)
                writer.row(number, lot, story, city=city, zip_code=zip_code, unit=unit)
                for deed in story.deeds:
                    writer.deed(number, deed)
        town += 1
    writer.close()
