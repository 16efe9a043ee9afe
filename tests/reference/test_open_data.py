"""A real open data set through the mapping step, its figures against DuckDB's of the same file.

Source: 211 house sales in Baltimore, 1978 (Dubin 1992, Regional Science and Urban Economics 22(3), 433-452), as the
package libpysal carries them. Prices are in thousands of dollars, areas in hundreds of square feet (the same paper).
"""

from __future__ import annotations

from importlib.util import find_spec
from pathlib import Path

import duckdb
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db.models import Avg, Count, Max, Min, Q, Sum
from django.test import TestCase
from django.urls import reverse

from jaded_ledger.accounts.models import Team, User
from jaded_ledger.intake.models import Upload
from jaded_ledger.intake.uploads import run
from jaded_ledger.records.models import County, Listing

FILE = Path(find_spec("libpysal").submodule_search_locations[0]) / "examples" / "baltim" / "baltimore.geojson"
FILLS = {"STATION": "ListingId", "PRICE": "ClosePrice", "LOTSZ": "LotSizeSquareFeet", "SQFT": "LivingArea", "NSTOR": "StoriesTotal",
         "geometry": "-"}  # fmt: skip


class Baltimore(TestCase):
    """From an empty installation: the county is added, the file brought, mapped, taken in."""

    def test_house_sales(self) -> None:
        user = User.objects.create_user("nora", password="x", team=Team.objects.create(name="Lantern Street Realty"), is_staff=True)
        self.client.force_login(user)
        for view in ("files", "reach", "fill"):
            self.assertContains(self.client.get(reverse("intake:records"), {"view": view}), "no county yet")
        self.assertContains(self.client.get(reverse("intake:bring")), "Add a county")
        county = {"name": "Baltimore City", "state": "MD", "fips": "24510", "parcel_number_mask": "NNNN", "assessment_ratio": "1"}
        self.client.post(reverse("intake:add-county"), county | {"relisting_gap_days": "30"})
        upload = self.brought()
        self.assertEqual((upload.form, upload.county.name, len(upload.sample)), ("GeoJSON", "Baltimore City", 211))
        address, given = (
            reverse("intake:upload", args=[upload.pk]),
            {"kind": "listings", "county": County.objects.get().pk, "as_of": upload.as_of},
        )
        self.client.post(address, given)
        mapped = given | {f"fills:{place}": FILLS.get(name, "") for place, name in enumerate(upload.header)} | {
            "times:ClosePrice": "1000", "times:LotSizeSquareFeet": "100", "times:LivingArea": "100",
            "fixed:OriginatingSystemName": "Dubin 1992", "fixed:StandardStatus": "Closed", "fixed:PropertyType": "Residential",
        }  # fmt: skip
        page = self.client.post(address, mapped | {"fix_what": "CloseDate", "fix_as": "1978-12-31"}).content.decode()
        self.assertIn("Of the first 211 rows, none would be refused", page)
        # The first house: 11.25 hundred square feet, 47 thousand dollars.
        self.assertRegex(page, r"<td>\s*1125</td>")
        self.assertRegex(page, r"<td>\s*47,000</td>")
        self.assertEqual(self.client.post(address, mapped | {"fixed:CloseDate": "1978-12-31", "do": "take"}).status_code, 302)
        run(upload.pk)
        upload.refresh_from_db()
        self.assertEqual(upload.error, "")
        self.assertEqual((upload.source_file.read, upload.source_file.new, upload.source_file.refused), (211, 211, 0))
        self.assert_same_figures()
        # The next file of the source needs no mapping.
        again = self.brought()
        self.assertEqual(again.columns, Upload.objects.get(pk=upload.pk).columns)

    def brought(self) -> Upload:
        response = self.client.post(reverse("intake:bring"), {"file": SimpleUploadedFile(FILE.name, FILE.read_bytes())})
        return Upload.objects.get(pk=response.url.rstrip("/").rpartition("/")[2])

    def assert_same_figures(self) -> None:
        sold = Listing.objects.filter(superseded_at=None)
        ours = sold.aggregate(
            rows=Count("id"), dearest=Max("close_price"), cheapest=Min("close_price"), total=Sum("close_price"), mean=Avg("close_price"),
            living=Sum("living_area"), land=Sum("lot_size_square_feet"), tall=Count("id", filter=Q(stories_total__gte=2)),
            cooled=Count("id", filter=Q(further__AC="1")), cooled_total=Sum("close_price", filter=Q(further__AC="1")),
        )  # fmt: skip
        theirs = (
            duckdb.connect()
            .execute(
                """SELECT count(*), max(PRICE) * 1000, min(PRICE) * 1000, round(sum(PRICE) * 1000), avg(PRICE) * 1000,
                      sum(round(SQFT * 100)), sum(round(LOTSZ * 100)), count(*) FILTER (NSTOR >= 2),
                      count(*) FILTER (AC = 1), round(sum(PRICE * 1000) FILTER (AC = 1))
                 FROM (SELECT unnest(feature.properties) FROM (
                       SELECT unnest(features) AS feature FROM read_json(?, format = 'unstructured', columns = {
                           features: 'STRUCT(properties STRUCT(PRICE DOUBLE, SQFT DOUBLE, LOTSZ DOUBLE, NSTOR DOUBLE, AC DOUBLE))[]'})))""",
                [str(FILE)],
            )
            .fetchone()
        )
        for (name, value), expected in zip(ours.items(), theirs, strict=True):
            self.assertAlmostEqual(float(value), float(expected), places=2, msg=name)
        self.assertEqual(ours["rows"], 211)
