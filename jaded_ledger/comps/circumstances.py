"""What is known of the sales in a pool beside what was sold: barriers on the way to the subject, distress, and the sale before."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import date, timedelta

from django.contrib.gis.geos import LineString, Polygon

from jaded_ledger.comps.models import ConditionGrade
from jaded_ledger.core.comps.sales import House, Sales
from jaded_ledger.core.comps.warnings import Circumstances
from jaded_ledger.core.ground import Way, box_around
from jaded_ledger.core.letter_case import in_reading_case
from jaded_ledger.core.market.listings import SpecialListingConditions, StandardStatus
from jaded_ledger.core.ownership.kinds import OwnerKind
from jaded_ledger.core.title.sales import Transfer, flips, in_time, is_sale
from jaded_ledger.records.models import OF_WAY, County, Listing, MapFeature
from jaded_ledger.records.reading import read_titles

_NEAR = timedelta(60)
_ORDINARY = {"", SpecialListingConditions.STANDARD, SpecialListingConditions.TRUST, SpecialListingConditions.THIRD_PARTY_APPROVAL}
_BARRIERS = ("highway", "rail", "water")
Key = tuple[int, date]
"""A sale: of which parcel, on which day."""


def key_of(sales: Sales, row: int) -> Key:
    return int(sales.parcel[row]), date.fromordinal(int(sales.day[row]))


def crossed_barriers(sales: Sales, house: House) -> dict[int, set[str]]:
    """Return the names of the barriers that lie between a house and each sale, by the sale's row."""
    if house.longitude is None or house.latitude is None or not len(sales):
        return {}
    placed = [row for row in sales if sales.longitude[row] == sales.longitude[row]]
    far = max((float(sales.meters_from(house)[row]) for row in placed), default=0.0)
    if not far:
        return {}
    around = Polygon.from_bbox(box_around(house.longitude, house.latitude, far))
    around.srid = 4326
    standing = MapFeature.objects.filter(superseded_at=None, geometry__intersects=around)
    ways = standing.filter(OF_WAY[Way.HIGHWAY] | OF_WAY[Way.RAIL] | OF_WAY[Way.WATER]) | standing.filter(is_barrier=True)
    features = [(in_reading_case(one.name) or one.get_layer_display().lower(), one.geometry.prepared) for one in ways.distinct()]
    found = {}
    for row in placed:
        there = float(sales.longitude[row]), float(sales.latitude[row])
        if there == (house.longitude, house.latitude):
            continue
        way = LineString((house.longitude, house.latitude), there, srid=4326)
        if names := {name for name, geometry in features if geometry.intersects(way)}:
            found[row] = names
    return found


def _listed(keys: Sequence[Key]) -> dict[Key, str]:
    """Return the special conditions under which sales were listed, of those that were sold under some."""
    rows = Listing.objects.filter(
        parcel_id__in={pk for pk, _ in keys}, superseded_at=None, standard_status=StandardStatus.CLOSED
    ).exclude(special_listing_conditions__in=_ORDINARY)  # fmt: skip
    sales = list(rows.values_list("parcel_id", "close_date", "special_listing_conditions"))
    return {
        (pk, day): conditions.lower()
        for pk, day in keys
        for parcel, closed, conditions in sales
        if parcel == pk and closed and abs(closed - day) <= _NEAR
    }


def _before(transfers: Sequence[Transfer], day: date) -> tuple[str, float | None]:
    """Return how a parcel was sold on a day, blank for an ordinary sale, and for how much it had been bought if it is a resale for more."""
    sales = [one for one in in_time(transfers) if is_sale(one)]
    this = min(sales, key=lambda one: abs(one.sold_on - day), default=None)
    if this is None or abs(this.sold_on - day) > _NEAR:
        return "", None
    distress = "sold by a lender" if this.grantor.kind == OwnerKind.LENDER else ""
    bought = next((float(flip.paid) for flip in flips(sales) if flip.sold.key == this.key), None)
    return distress, bought


def circumstances_of(sales: Sales, house: House, county: County, grades: Mapping[tuple[int, date | None], str]) -> list[Circumstances]:
    """Return what is known of each sale, in their order."""
    keys = [key_of(sales, row) for row in sales]
    crossed, listed = crossed_barriers(sales, house), _listed(keys)
    titles = read_titles([pk for pk, _ in keys], county)
    found = []
    for row, key in enumerate(keys):
        record = titles.get(key[0])
        distress, bought = _before(record.transfers, key[1]) if record else ("", None)
        found.append(Circumstances(crossed.get(row, ()), listed.get(key, distress), bought, grades.get(key, "")))
    return found


def grades_of(team_id: int, ids: Sequence[int]) -> dict[tuple[int, date | None], str]:
    """Return the conditions that a team graded: by parcel and day of sale, no day for how it stands now."""
    rows = ConditionGrade.objects.filter(team_id=team_id, parcel_id__in=ids)
    return {(pk, day): grade for pk, day, grade in rows.values_list("parcel_id", "sold_on", "grade")}
