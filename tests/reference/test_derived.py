"""Derived figures against reference libraries: distances (pyproj), medians (DuckDB), people (nameparser, probablepeople)."""

from __future__ import annotations

import unittest
from collections import defaultdict
from datetime import date

import duckdb
import probablepeople
from nameparser import HumanName
from pyproj import Geod

from jaded_ledger.core.dates import CalendarUnit, Length, shift
from jaded_ledger.core.ownership.kinds import OwnerKind
from jaded_ledger.core.ownership.names import read_name
from jaded_ledger.records.models import AreaEntry, AreaFigures, County, ParcelFacts, ParcelSale, ParcelShape, RollEntry
from tests.support.demo import DemoTestCase
from tests.support.tiers import thorough

WGS84 = Geod(ellps="WGS84")
METERS_PER_MILE = 1609.344


class Distances(DemoTestCase):
    def test_against_pyprojs_geodesics(self) -> None:
        places = {pk: place.coords for pk, place in ParcelShape.objects.filter(superseded_at=None).values_list("parcel_id", "place")}
        at_address: dict[tuple[str, str], int] = {}
        entries = RollEntry.objects.filter(superseded_at=None).select_related("situs", "mailing_address").order_by("-parcel_id")
        for entry in entries:
            if entry.situs and entry.situs.street and entry.situs.zip5 and entry.parcel_id in places:
                at_address[entry.situs.street, entry.situs.zip5] = entry.parcel_id
        zips = {
            area_entry.area.text: area_entry.geometry.centroid.coords
            for area_entry in AreaEntry.objects.filter(superseded_at=None, kind="zip", geometry__isnull=False).select_related("area")
        }
        facts = dict(ParcelFacts.objects.values_list("parcel_id", "mailing_distance"))
        told = 0
        for entry in entries:
            mail = entry.mailing_address
            there = mail and (places.get(at_address.get((mail.street, mail.zip5), 0)) or zips.get(mail.zip5))
            if not there or entry.parcel_id not in places:
                self.assertIsNone(facts[entry.parcel_id], entry)
                continue
            meters = WGS84.inv(*places[entry.parcel_id], *there)[2]
            self.assertAlmostEqual(facts[entry.parcel_id], meters / METERS_PER_MILE, delta=0.051, msg=str(entry))
            told += 1
        self.assertGreater(told, 5_000)


@thorough
class Medians(DemoTestCase):
    """DuckDB's median over the rows that PostgreSQL counted; the twelve months end with the last month on file."""

    @classmethod
    def setUpClass(cls) -> None:
        # What setUpTestData keeps is copied for each test, which a connection can't be.
        super().setUpClass()
        cls.duck = duckdb.connect()
        cls.duck.execute(
            "CREATE TABLE sale (county INT, area INT, recorded_on DATE, sold_on DATE, price DOUBLE, class INT, sqft DOUBLE, "
            "homes DOUBLE, resale BOOL)"
        )
        names = ("county", "area", "recorded_on", "sold_on", "price", "property_class", "living_area", "dwellings", "is_resale")
        cls.duck.executemany("INSERT INTO sale VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)", list(ParcelSale.objects.values_list(*names)))

    def one(self, what: str, where: str) -> float | None:
        return self.duck.execute(f"SELECT {what} FROM sale WHERE {where}").fetchone()[0]

    def test_areas(self) -> None:
        told = 0
        for row in AreaFigures.objects.filter(area__kind="neighborhood").select_related("area"):
            last: date = row.through
            first, before = (shift(last, Length(months, CalendarUnit.MONTH), -1) for months in (12, 24))
            year = f"area = {row.area_id} AND recorded_on > '{first}' AND recorded_on <= '{last}'"
            earlier = f"area = {row.area_id} AND recorded_on > '{before}' AND recorded_on <= '{first}'"
            sold = self.one("count(*)", year)
            self.assertEqual(row.counts["sold"], sold)
            if sold < 5:
                self.assertIsNone(row.price)
                continue
            told += 1
            self.assertEqual(row.price, round(self.one("median(price)", year)), row.area)
            self.assertEqual(row.resales, round(100 * self.one("count(*) FILTER (WHERE resale)", year) / sold, 2))
            now, then = (self.one("median(price / sqft) FILTER (WHERE sqft > 0)", where) for where in (year, earlier))
            many = [self.one("count(*) FILTER (WHERE sqft > 0)", where) for where in (year, earlier)]
            self.assertEqual(row.growth is None, min(many) < 5)
            if row.growth is not None:
                self.assertAlmostEqual(row.growth, (now - then) / then * 100, delta=0.006)
        self.assertGreaterEqual(told, 8)

    def test_price_levels_by_year(self) -> None:
        for county in County.objects.all():
            context = AreaFigures.objects.get(area__county=county, area__kind="county")
            known = f"county = {county.pk} AND recorded_on <= '{context.through}' AND sqft > 0"
            for year, (middle, count) in context.context["levels"].items():
                where = f"{known} AND year(sold_on) = {year}"
                self.assertEqual(count, self.one("count(*)", where))
                self.assertAlmostEqual(float(middle), self.one("median(price / sqft)", where), places=5)

    def test_percent_of_median(self) -> None:
        """Of a listing's like: active now, same area, class and bedrooms, itself left out; unknown with fewer than five others."""
        groups: dict[tuple[int, int, int], list[tuple[int, float]]] = defaultdict(list)
        active = ParcelFacts.objects.filter(status=2, list_price__isnull=False)
        for pk, area, kind, beds, listed, price in active.values_list(
            "parcel_id", "area_id", "property_class", "beds", "listed_beds", "list_price"
        ):
            rooms = listed if beds is None else beds
            if area and kind and rooms is not None:
                groups[area, kind, rooms].append((pk, price))
        facts = dict(ParcelFacts.objects.values_list("parcel_id", "percent_of_median"))
        told = 0
        for members in groups.values():
            for pk, price in members:
                others = [other for key, other in members if key != pk]
                if len(others) < 5:
                    self.assertIsNone(facts[pk])
                    continue
                told += 1
                (middle,) = self.duck.execute("SELECT median(x) FROM (SELECT unnest(?) AS x)", [[float(one) for one in others]]).fetchone()
                self.assertAlmostEqual(facts[pk], price / middle * 100, delta=0.006)
        self.assertGreater(told, 10)


class People(unittest.TestCase):
    """Names made for the purpose, last name first as counties write them."""

    PEOPLE = (
        ("OSTROM HELEN M", "HELEN", "OSTROM"), ("KELM ARVID", "ARVID", "KELM"), ("TOLLIVER INES R", "INES", "TOLLIVER"),
        ("HOLLOWAY-PIKE JUNE", "JUNE", "HOLLOWAY-PIKE"), ("QUILLFEATHER DORA", "DORA", "QUILLFEATHER"), ("SMITH JOHN JR", "JOHN", "SMITH"),
        ("ABERNATHY-COLE OSCAR", "OSCAR", "ABERNATHY-COLE"), ("BANKS MARIA", "MARIA", "BANKS"), ("CHURCH JOSEPH A", "JOSEPH", "CHURCH"),
        ("STATE JOHN", "JOHN", "STATE"), ("ESTES MARY", "MARY", "ESTES"), ("RASMUSSEN WALTER D", "WALTER", "RASMUSSEN"),
        ("OSTROM, HELEN", "HELEN", "OSTROM"), ("VAN TONGEREN LISE", "LISE", "VAN TONGEREN"), ("KITTREDGE PRIYA", "PRIYA", "KITTREDGE"),
    )  # fmt: skip
    COMPANIES = (
        "TWO LAMPS HOLDINGS LLC", "COPPERLINE INC", "HARROW POINT RENTALS LLC", "BRASS KEY PROPERTIES LLC", "NORTHING STREET HOLDINGS CORP",
        "LAKEPORT SAVINGS BANK", "ALDER MUTUAL MORTGAGE CORP", "OSTROM FOUNDATION INC", "MILLRACE HOLDINGS LLC", "ANCHORAGE ROW LTD",
    )  # fmt: skip

    def test_given_and_last_names_as_nameparser_reads_them(self) -> None:
        for recorded, given, last in self.PEOPLE:
            with self.subTest(recorded):
                found = read_name(recorded)
                self.assertEqual(found.kind, OwnerKind.INDIVIDUAL)
                read = HumanName(found.mailing_name)
                self.assertEqual((read.first, read.last), (given, last))

    def test_people_and_companies_as_probablepeople_tells_them(self) -> None:
        for recorded, *_ in self.PEOPLE:
            # The library takes this one for a company.
            if recorded == "ABERNATHY-COLE OSCAR":
                continue
            with self.subTest(recorded):
                self.assertEqual(probablepeople.tag(read_name(recorded).mailing_name.title())[1], "Person")
        for recorded in self.COMPANIES:
            with self.subTest(recorded):
                self.assertNotIn(read_name(recorded).kind, (OwnerKind.INDIVIDUAL, OwnerKind.COUPLE))
                self.assertEqual(probablepeople.tag(recorded)[1], "Corporation")
