"""Cases for the map: outlines as shapely has them, and places on tiles."""

from __future__ import annotations

from math import floor
from typing import Any

from django.urls import reverse
from shapely import wkb

from jaded_ledger.core.criteria.text import parse
from jaded_ledger.find.answer import Answer
from jaded_ledger.find.search_page import SearchPage
from jaded_ledger.records.models import ParcelFacts, ParcelShape
from tests.support.demo import DemoTestCase

WORLD = 20_037_508.342789244
SEARCH = "county: Tamarack\nclass: single-family, duplex\nowner-occupied: no"


def tile_at(x: float, y: float, zoom: int) -> tuple[int, int, int]:
    """Return the tile that holds a place in web mercator (OGC 17-083r4, WebMercatorQuad: rows are counted from the north)."""
    side = 2 * WORLD / 2**zoom
    return zoom, floor((x + WORLD) / side), floor((WORLD - y) / side)


class MapCase(DemoTestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        rows = ParcelShape.objects.filter(superseded_at=None).values_list("parcel", "drawn")
        cls.outlines = {pk: wkb.loads(bytes(drawn.wkb)) for pk, drawn in rows}
        # In the middle of Alder Bay's Harbour Wards.
        cls.lot = ParcelFacts.objects.get(parcel__number="12-090-008").pk
        cls.downtown = cls.outlines[cls.lot].centroid

    def answer(self, text: str = SEARCH) -> Answer:
        return Answer(SearchPage(parse(text)), self.scope)

    def get(self, name: str, *args: int, **query: Any) -> Any:
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")
        return self.client.get(reverse(f"maps:{name}", args=args), query)
