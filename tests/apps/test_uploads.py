"""Files brought to Records: what they are guessed to be, mapped, run, refused rows corrected, the source remembered."""

from __future__ import annotations

import csv
import io
import json
import tempfile
from datetime import date
from pathlib import Path

from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management import call_command
from django.core.management.base import CommandError
from django.urls import reverse
from procrastinate.contrib.django.models import ProcrastinateJob

from jaded_ledger.accounts.models import User
from jaded_ledger.intake.drafts import COUNTY
from jaded_ledger.intake.guessing import guess, likely_kinds
from jaded_ledger.intake.kinds import KINDS
from jaded_ledger.intake.layouts import Form
from jaded_ledger.intake.mapping import ColumnMap, MappingError, Translator, column_map_from
from jaded_ledger.intake.models import Refusal, Source, Upload, UploadPart
from jaded_ledger.intake.services import IntakeError, IntakeOptions, take_in
from jaded_ledger.intake.uploads import run
from jaded_ledger.records.models import County, Coverage, Listing, Parcel, Permit, RollEntry, SourceFile, Transfer, Violation
from tests.support.demo import DemoTestCase
from tests.support.page_text import page_text
from tests.support.tiers import thorough

DAY = date(2026, 11, 24)
DEEDS = [
    ["DOCNO", "REC DATE", "SALE DATE", "INSTR TYPE", "CONSIDERATION", "SELLER", "BUYER", "TAX KEY", "LEGAL NOTE"],
    ["Z1", "11/02/2026", "10/30/2026", "WD", "$250,000", "OSTROM HELEN", "O'NEIL <script>x</script>", "12-001-001", ""],
    ["Z2", "13/45/2026", "10/30/2026", "WD", "$1", "OSTROM HELEN", "LARK ADA", "12-001-002", "see \"plat\""],
    ["Z3", "11/03/2026", "10/30/2026", "QC", "-100", "OSTROM HELEN", "LARK ADA", "12-001-003", ""],
    ["Z4", "11/03/2026", "10/30/2026", "QC", "", "OSTROM HELEN", "LARK ADA", "99-999-999", "=HYPERLINK(1)"],
]  # fmt: skip
WORDS = {"word:deed:0": "warranty", "theirs:deed:0": "WD", "word:deed:1": "quitclaim", "theirs:deed:1": "QC"}


def as_csv(rows: list[list[str]], delimiter: str = ";") -> bytes:
    out = io.StringIO()
    csv.writer(out, delimiter=delimiter).writerows(rows)
    return out.getvalue().encode()


class Guessing(DemoTestCase):
    """Headers as county offices and listing services write them (common practice)."""

    def guessed(self, kind: str, header: str, *rows: str) -> dict[str, str]:
        names = header.split(",")
        sample = [dict(zip(names, row.split(","), strict=True)) for row in rows]
        mask = County.objects.get(name="Tamarack").mask
        found = guess(KINDS[kind], names, sample, mask, ["Tamarack", "Pike Hollow"])
        return {name: target for name, target in found.columns.items() if target}

    def test_a_roll(self) -> None:
        owner = "PARID,Owner1,Situs Address,MailAddr1,Mail City,Mail ST,Mail Zip"
        found = self.guessed("roll", f"{owner},Yr Built,Bldg SqFt,Acreage,Bedrooms,LandVal,Fair Market Value,Nbhd Code")
        self.assertEqual(found, {
            "PARID": "parcel_number", "Owner1": "owner", "Situs Address": "address", "MailAddr1": "mailing_address",
            "Mail City": "mailing_city", "Mail ST": "mailing_state", "Mail Zip": "mailing_zip", "Yr Built": "year_built",
            "Bldg SqFt": "living_area", "Acreage": "lot_acres", "Bedrooms": "beds", "LandVal": "land_value",
            "Fair Market Value": "market_value",
        })  # fmt: skip

    def test_what_stands_under_a_header_counts(self) -> None:
        self.assertEqual(
            self.guessed("permits", "Key,Issue Date", "12-001-001,3/4/2026"), {"Key": "parcel_number", "Issue Date": "issued_on"}
        )
        self.assertEqual(self.guessed("permits", "APN,When", "not known,3/4/2026"), {"When": "issued_on"})
        self.assertEqual(self.guessed("permits", "APN,County,Issued", "12-001-001,TAMARACK COUNTY,3/4/2026")["County"], COUNTY)
        self.assertNotIn("County", self.guessed("permits", "APN,County,Issued", "12-001-001,041,3/4/2026"))

    def test_listing_names_of_the_data_dictionary_are_recognized_at_once(self) -> None:
        """RESO Data Dictionary 2.0, from memory; a service's own further fields stay as they are."""
        header = (
            "ListingKey", "ListingId", "OriginatingSystemName", "ParcelNumber", "CountyOrParish", "StandardStatus", "PropertyType",
            "ListPrice", "ListingContractDate", "BedroomsTotal", "LivingArea", "PublicRemarks", "ListAgentMlsId", "ListOfficeName",
            "X_Local",
        )  # fmt: skip
        self.assertEqual(likely_kinds(Form.TEXT, header)[0].kind, "listings")
        found = self.guessed("listings", ",".join(header))
        own = {"ListingKey", "X_Local", "CountyOrParish"}
        self.assertEqual(
            {name: target for name, target in found.items() if name not in own}, {name: name for name in header if name not in own}
        )

    @thorough
    def test_each_kind_is_recognized_by_its_own_columns(self) -> None:
        for name, kind in KINDS.items():
            if name != "photographs":
                self.assertEqual(likely_kinds(Form.TEXT, kind.columns)[0].kind, name)

    def test_mappings_that_can_not_be(self) -> None:
        for said, wrong in (
            ([], "is an object"), ({"columns": []}, "columns is not an object"),
            ({"columns": {"a": "prise"}}, "no column 'prise'; it has"), ({"fixed": {"x": "1"}}, "no column 'x'"),
            ({"words": {"deed": "WD"}}, "words of deed"), ({"times": {"price": "many"}}, "above 0"), ({"times": {"price": 0}}, "above 0"),
        ):  # fmt: skip
            with self.subTest(said), self.assertRaisesRegex(MappingError, wrong):
                column_map_from(said, KINDS["deeds"])

    def test_a_mapping_at_work(self) -> None:
        said = {
            "columns": {
                "A": "grantor", "B": "grantor", "P1": "parcel_number", "P2": "parcel_number", "Note": None, "price": "", "Paid": "price",
            },
            "fixed": {"deed": "warranty"}, "words": {"deed": {"W D": "warranty"}}, "times": {"price": 1000},
        }  # fmt: skip
        translator = Translator(KINDS["deeds"], column_map_from(said, KINDS["deeds"]))
        filed = {
            "A": "OSTROM",
            "B": "HELEN",
            "P1": "1",
            "P2": "2",
            "Note": "x",
            "price": "list",
            "Paid": "$1,250.5",
            "deed": "",
        }
        self.assertEqual(translator.cells(filed, 7), {
            "grantor": "OSTROM HELEN", "parcel_number": "1;2", "price (as filed)": "list", "price": "1250500.0", "deed": "warranty",
        })  # fmt: skip
        self.assertEqual(translator.cells({"deed": "w-d"}, 7)["deed"], "warranty")
        self.assertEqual((translator.filed_as("price", filed), translator.filed_as("deed", {"A": ""})), ("Paid", "deed"))


class Pages(DemoTestCase):
    def setUp(self) -> None:
        self.client.force_login(self.user)

    def bring(self, content: bytes, name: str = "deeds.txt") -> Upload:
        response = self.client.post(reverse("intake:bring"), {"file": SimpleUploadedFile(name, content)})
        self.assertEqual(response.status_code, 302, response.content[:3000])
        return Upload.objects.get(pk=response.url.rstrip("/").rpartition("/")[2])

    def fields(self, upload: Upload) -> dict[str, str]:
        """Return what the page's form would send."""
        targets = {
            f"fills:{place}": upload.columns["columns"].get(name, name) or ""
            for place, name in enumerate(upload.header)
            if not name.startswith("refused ")
        }
        return {
            "kind": upload.kind, "county": str(upload.county_id or ""), "as_of": upload.as_of.isoformat(), "is_complete": "0",
            **{name: str(upload.layout[name]) for name in ("encoding", "delimiter") if name in upload.layout}, **targets,
        }  # fmt: skip

    def say(self, upload: Upload, do: str = "", **fields: str) -> str:
        upload.refresh_from_db()
        response = self.client.post(reverse("intake:upload", args=[upload.pk]), self.fields(upload) | fields | {"do": do})
        if do != "discard":
            upload.refresh_from_db()
        return "" if response.status_code == 302 else response.content.decode()

    def mapped(self, content: bytes | None = None) -> Upload:
        upload = self.bring(content or as_csv(DEEDS))
        self.assertEqual(upload.kind, "deeds")
        self.say(upload, county=str(County.objects.get(name="Tamarack").pk))
        page = self.say(upload, **WORDS)
        for says in ("1 would be refused", "1 would go in with a value left unknown", "1 names a parcel that is not on record", "<script>"):
            self.assertIn(says, page_text(page))
        self.assertNotIn("<script>x", page)
        self.say(upload, "take", **WORDS)
        return upload

    def taken(self, upload: Upload) -> SourceFile:
        self.assertEqual(upload.state, Upload.State.WAITING, upload.error)
        self.assertEqual(ProcrastinateJob.objects.filter(args={"upload_id": upload.pk}, lock="intake").exists(), True)
        run(upload.pk)
        upload.refresh_from_db()
        self.assertEqual((upload.state, upload.error), (Upload.State.DONE, ""))
        return upload.source_file

    def test_from_the_file_to_the_corrected_rows(self) -> None:
        upload = self.mapped()
        file = self.taken(upload)
        self.assertEqual((file.read, file.new, file.refused, file.doubtful), (4, 2, 2, 1))
        self.assertFalse(UploadPart.objects.filter(upload=upload).exists())
        deed = Transfer.objects.get(source_file=file, document_number="Z1")
        self.assertEqual(
            (deed.document_number, deed.price, deed.deed, deed.grantee.text), ("Z1", 250_000, "warranty", "O'NEIL <script>x</script>")
        )
        self.assertEqual(deed.further, {})
        page = self.client.get(reverse("intake:file", args=[file.pk]))
        for said in ("REC DATE", "13/45/2026", "is not a date", "CONSIDERATION", "is negative", "TAX KEY", "is not on record"):
            self.assertContains(page, said)
        download = b"".join(self.client.get(reverse("intake:refused-rows", args=[file.pk])).streaming_content).decode("utf-8-sig")
        rows = list(csv.reader(io.StringIO(download)))
        self.assertEqual(rows[0], ["refused as", "refused because", *DEEDS[0]])
        self.assertEqual(rows[1][2:], DEEDS[2])
        self.assertEqual((rows[2][6], rows[3][10]), ("'-100", "'=HYPERLINK(1)"))
        # Two of the three are corrected and brought back under another name.
        rows[1][3], rows[2][6] = "11/02/2026", "100"
        again = self.bring(as_csv(rows, ","), "corrected.csv")
        self.assertEqual((again.kind, again.county, again.as_of, again.is_complete), ("deeds", file.county, file.as_of, False))
        self.say(again, "take", **WORDS)
        second = self.taken(again)
        self.assertEqual((second.read, second.new, second.changed, second.refused), (3, 1, 1, 1))
        self.assertEqual(Transfer.objects.get(document_number="Z2", superseded_at=None).further, {"LEGAL NOTE": 'see "plat"'})
        self.assertEqual(
            dict(Refusal.objects.filter(source_file=file).values_list("line", "settled_in")), {3: second.pk, 4: second.pk, 5: None}
        )
        self.assertEqual(Refusal.objects.get(source_file=second).row[-1], ["LEGAL NOTE", "=HYPERLINK(1)"])
        self.assertContains(self.client.get(reverse("intake:file", args=[file.pk])), "2 of its faults came back corrected and went in")
        # The same again changes nothing.
        self.assertEqual(take_in_again(self, DEEDS), (2, 0, 0, 2))

    def test_the_source_is_remembered(self) -> None:
        self.taken(self.mapped())
        rows = [DEEDS[0], ["Z9", "11/04/2026", "11/01/2026", "WD", "5", "A B", "C D", "12-001-004", ""]]
        # The columns stand in another order, in another encoding, with another delimiter.
        turned = [row[::-1] for row in rows]
        upload = self.bring(as_csv(turned, "\t").decode().encode("utf-16"), "next.txt")
        self.assertEqual((upload.kind, upload.county.name), ("deeds", "Tamarack"))
        # The page asks about the words that the first rows hold; those of before are kept.
        self.say(upload, "take", **{"word:deed:0": "warranty", "theirs:deed:0": "WD"})
        self.assertEqual(upload.columns["words"], {"deed": {"wd": "warranty", "qc": "quitclaim"}})
        self.assertEqual(self.taken(upload).new, 1)
        self.assertEqual(Source.objects.count(), 1)

    def test_what_is_wrong_is_said_and_nothing_is_lost(self) -> None:
        upload = self.bring(as_csv(DEEDS))
        self.assertIn("Something must be filled", self.say(upload, "take"))
        self.assertEqual(upload.state, Upload.State.NEW)
        self.assertIn("is not a date", self.say(upload, as_of="soon"))
        self.assertIn("is not a single character", self.say(upload, delimiter="::"))
        self.assertIn("no kind of file", self.say(upload, kind="gossip"))
        self.assertIn("has no column &#x27;prise&#x27;", self.say(upload, **{"fills:0": "prise"}))
        self.assertEqual(Upload.objects.get().kind, "deeds")
        # Another kind is guessed anew; another delimiter reads the file anew.
        self.say(upload, kind="permits")
        self.assertEqual((upload.kind, upload.columns["columns"]["TAX KEY"]), ("permits", "parcel_number"))
        self.say(upload, delimiter=",")
        self.assertEqual(len(upload.header), 1)
        self.say(upload, "discard")
        self.assertFalse(Upload.objects.exists())
        for content, said in ((b"", "empty"), (b"a,b\n", "holds no rows"), (bytes(range(1, 30)) * 30, "neither text")):
            response = self.client.post(reverse("intake:bring"), {"file": SimpleUploadedFile("x.csv", content)})
            self.assertContains(response, said, status_code=400)
        self.assertContains(self.client.post(reverse("intake:bring")), "Choose a file first", status_code=400)

    def test_a_file_that_can_not_be_taken_in_is_kept_to_be_mended(self) -> None:
        upload = self.mapped()
        Coverage.objects.filter(county__name="Tamarack", kind="deeds").update(recorded_through=date(2026, 11, 25))
        run(upload.pk)
        upload.refresh_from_db()
        self.assertEqual(upload.state, Upload.State.FAILED)
        self.assertIn("on record through 2026-11-25", upload.error)
        self.assertContains(self.client.get(reverse("intake:upload", args=[upload.pk])), "It was not taken in")
        Coverage.objects.filter(county__name="Tamarack", kind="deeds").update(recorded_through=date(2026, 11, 20))
        self.say(upload, "take", **WORDS)
        self.assertEqual(self.taken(upload).new, 2)

    def test_only_staff(self) -> None:
        upload = self.mapped()
        file = self.taken(upload)
        other = self.other_team()
        self.client.force_login(other)
        for path in (
            reverse("intake:bring"), reverse("intake:upload", args=[upload.pk]), reverse("intake:progress", args=[upload.pk]),
            reverse("intake:refused-rows", args=[file.pk]), reverse("intake:add-county"),
        ):  # fmt: skip
            self.assertEqual(self.client.get(path).status_code, 403, path)
        self.assertEqual(self.client.post(reverse("intake:upload", args=[upload.pk]), {"do": "discard"}).status_code, 403)
        page = self.client.get(reverse("intake:file", args=[file.pk]))
        self.assertContains(page, "shown to staff")
        self.assertNotContains(page, "99-999-999")
        self.assertNotContains(self.client.get(reverse("intake:records")), "Take in a file")

    def test_a_county_is_added(self) -> None:
        given = {
            "name": "Baltimore City",
            "state": "md",
            "fips": "24510",
            "parcel_number_mask": "nnnn",
            "assessment_ratio": "1",
            "relisting_gap_days": "30",
        }
        for wrong in (
            {"fips": "2451"},
            {"parcel_number_mask": "12-34"},
            {"name": "tamarack", "state": "WI"},
            {"assessment_ratio": "1.2"},
            {"state": "1"},
        ):
            self.assertContains(self.client.post(reverse("intake:add-county"), given | wrong), "says wrong", status_code=400)
        self.assertEqual(self.client.post(reverse("intake:add-county"), given).status_code, 302)
        county = County.objects.get(fips="24510")
        self.assertEqual((county.state, county.parcel_number_mask), ("MD", "NNNN"))
        self.assertContains(self.client.get(reverse("intake:records")), "Baltimore City nothing on record")
        self.assertEqual(self.client.get(reverse("intake:records"), {"view": "fill"}).status_code, 200)
        self.assertEqual(self.client.get(reverse("intake:records"), {"view": "x"}).status_code, 404)


def take_in_again(case: Pages, rows: list[list[str]]) -> tuple[int, int, int, int]:
    upload = case.bring(as_csv(rows), "again.txt")
    case.say(upload, "take", **WORDS)
    file = case.taken(upload)
    return file.same, file.new, file.changed, file.refused


class Safety(DemoTestCase):
    """What a complete file may end, rows of several counties, and the same by command."""

    def setUp(self) -> None:
        self.county = County.objects.get(name="Tamarack")
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def take(self, kind: str, text: str, **wanted: object) -> SourceFile:
        path = self.folder / f"{kind}.csv"
        path.write_text(text)
        return take_in(path, IntakeOptions(kind, wanted.pop("county", self.county), wanted.pop("as_of", DAY), **wanted))

    def violations(self) -> list[str]:
        rows = Violation.objects.filter(county=self.county, superseded_at=None).order_by("natural_key").select_related("parcel")
        return [f"{row.parcel.number},{row.number},{row.opened_on}" for row in rows]

    def test_a_complete_file_does_not_end_what_its_refused_rows_speak_of(self) -> None:
        rows = self.violations()
        spoilt = [f"{rows[0].rpartition(',')[0]},someday", *rows[1:-1]]
        file = self.take("violations", "\n".join(["parcel_number,number,opened_on", *spoilt]), is_complete=True)
        self.assertEqual((file.refused, file.gone), (1, 1))
        kept = self.violations()
        self.assertEqual(kept, rows[:-1])
        # A row that does not tell which record it is ends nothing at all.
        file = self.take("violations", "\n".join(["parcel_number,number,opened_on", *kept[:-2], "?,,"]), is_complete=True)
        self.assertEqual((file.refused, file.gone), (1, 0))
        self.assertIn("can't be told from the others", file.note)
        self.assertEqual(self.violations(), kept)
        # Nor does one that is of no county.
        named = [f"{row},Tamarack" for row in kept[:-2]]
        lost = f"{kept[-1]},Tamarock"
        file = self.take("violations", "\n".join(["parcel_number,number,opened_on,county", *named, lost]), is_complete=True, county=None)
        self.assertEqual((file.refused, file.gone), (1, 0))
        self.assertEqual(self.violations(), kept)

    def test_a_complete_file_does_not_end_most_unless_it_may(self) -> None:
        rows = self.violations()
        text = "\n".join(["parcel_number,number,opened_on", *rows[:10]])
        with self.assertRaisesRegex(IntakeError, "would end and 10 be left"):
            self.take("violations", text, is_complete=True)
        self.assertEqual(self.violations(), rows)
        self.assertEqual(self.take("violations", text, is_complete=True, may_end_most=True).gone, len(rows) - 10)

    def test_a_file_without_an_acceptable_row_moves_nothing(self) -> None:
        before = dict(Coverage.objects.filter(county=self.county).values_list("kind", "recorded_through"))
        file = self.take("violations", "parcel_number,number,opened_on\n99-999-999,V1,2026-01-01\n", is_complete=True)
        self.assertEqual((file.read, file.refused, file.gone), (1, 1, 0))
        self.assertEqual(dict(Coverage.objects.filter(county=self.county).values_list("kind", "recorded_through")), before)
        with self.assertRaisesRegex(IntakeError, "holds no rows"):
            self.take("violations", "parcel_number,number,opened_on\n\n")
        with self.assertRaisesRegex(IntakeError, "yet to come"):
            self.take("violations", "parcel_number,number,opened_on\n", as_of=date(2026, 12, 1))

    def test_rows_of_several_counties(self) -> None:
        pike = Parcel.objects.filter(county__name="Pike Hollow").order_by("number_key").first()
        text = (
            "parcel_number,issued_on,number,county\n12-001-001,2026-11-01,B1,Tamarack\n"
            f"{pike.number},2026-11-01,B2,PIKE HOLLOW COUNTY\n12-001-001,2026-11-01,B3,Nowhere\n"
            "12-001-001,2026-11-01,B4,\n12-001-001,2026-11-01,B5,55998\n"
        )
        file = self.take("permits", text, county=None)
        self.assertEqual((file.new, file.refused, file.county), (3, 2, None))
        self.assertEqual(set(Permit.objects.filter(source_file=file).values_list("number", "county__name")),
                         {("B1", "Tamarack"), ("B2", "Pike Hollow"), ("B5", "Tamarack")})  # fmt: skip
        self.assertEqual({(refusal.line, refusal.column) for refusal in file.refusals.all()}, {(4, "county"), (5, "county")})
        self.assertIn("is no county on record (counties: Odell Marsh, Pike Hollow, Tamarack)", file.refusals.get(line=4).reason)
        for name in ("Tamarack", "Pike Hollow"):
            self.assertEqual(Coverage.objects.get(county__name=name, kind="permits").recorded_through, DAY)
        with self.assertRaisesRegex(IntakeError, "has no column county.*say which county"):
            self.take("permits", "parcel_number,issued_on\n12-001-001,2026-01-01\n", county=None)
        with self.assertRaisesRegex(IntakeError, "It has: APN, issued_on"):
            self.take("permits", "APN,issued_on\n12-001-001,2026-01-01\n")
        file = self.take(
            "permits",
            "parcel_number,issued_on,number,county\n12-001-001,2026-11-01,B9,Pike Hollow\n",
            as_of=date(2026, 11, 24),
            county=County.objects.get(name="Odell Marsh"),
        )
        self.assertIn("is not Odell Marsh", file.refusals.get().reason)
        # A county whose records reach further refuses its rows; the others go in.
        Coverage.objects.filter(county__name="Tamarack", kind="permits").update(recorded_through=date(2026, 11, 25))
        file = self.take("permits", text, county=None)
        self.assertEqual((file.same, file.refused), (1, 4))

    def test_an_address_in_one_cell(self) -> None:
        rows = "12-001-001,1204 N Capstan St Unit 2B\n12-001-002,77 Main Street\n12-001-003,Rear of the mill\n"
        columns = ColumnMap({"situs": "address"})
        self.take("roll", f"parcel_number,situs\n{rows}", columns=columns)
        found = {
            entry.parcel.number: entry
            for entry in RollEntry.objects.filter(source_file__name="roll.csv", superseded_at=None, valid_from=DAY)
        }
        first = found["12-001-001"]
        self.assertEqual(
            (first.house_number, first.street.text, first.situs.text), (1204, "N Capstan St", "1204 N Capstan St, Unit 2B, WI")
        )
        self.assertEqual((found["12-001-002"].house_number, found["12-001-002"].street.text), (77, "Main Street"))
        self.assertEqual((found["12-001-003"].house_number, found["12-001-003"].street.text), (None, "Rear of the mill"))

    def run_command(self, *words: str) -> str:
        out = io.StringIO()
        call_command("intake", *words, stdout=out, stderr=io.StringIO())
        return out.getvalue()

    def test_the_command(self) -> None:
        path, mapping = self.folder / "deeds.txt", self.folder / "mapping.json"
        path.write_bytes(as_csv(DEEDS))
        mapping.write_text(json.dumps({
            "columns": {
                "DOCNO": "document_number", "REC DATE": "recorded_on", "SALE DATE": "sold_on", "INSTR TYPE": "deed",
                "CONSIDERATION": "price", "SELLER": "grantor", "BUYER": "grantee", "TAX KEY": "parcel_number",
            },
            "words": {"deed": {"WD": "warranty", "QC": "quitclaim"}}, "layout": {"delimiter": ";"},
        }))  # fmt: skip
        words = (str(path), "--kind", "deeds", "--county", "Tamarack", "--format", "json")
        found = json.loads(self.run_command(*words, "--mapping", str(mapping)))
        self.assertEqual({name: found[name] for name in ("read", "new", "changed", "same", "refused", "doubtful")},
                         {"read": 4, "new": 2, "changed": 0, "same": 0, "refused": 2, "doubtful": 1})  # fmt: skip
        self.assertEqual(found["refusals"][0]["column"], "REC DATE")
        # Without the words the deeds go in, but not known for what they are.
        found = json.loads(self.run_command(*words))
        self.assertEqual((found["changed"], found["refused"], found["doubtful"]), (2, 2, 2))
        self.assertEqual({refusal["column"] for refusal in found["refusals"]}, {"REC DATE", "INSTR TYPE", "CONSIDERATION", "TAX KEY"})
        path.write_bytes(as_csv([DEEDS[0], DEEDS[2]]))
        with self.assertRaises(SystemExit) as ended:
            self.run_command(*words, "--mapping", str(mapping))
        self.assertEqual(ended.exception.code, 2, "of its rows none could be read")
        for said, wrong in (("{", "is not JSON"), ("[]", "not an object"), ('{"layout": {"delimiter": "--"}}', "not a single character"),
                            ('{"columns": {"DOCNO": "x"}}', "no column 'x'")):  # fmt: skip
            mapping.write_text(said)
            with self.assertRaisesRegex(CommandError, wrong) as refused:
                self.run_command(*words, "--mapping", str(mapping))
            self.assertEqual(refused.exception.returncode, 2)
        with self.assertRaisesRegex(CommandError, "say which FILE"):
            self.run_command("--kind", "deeds")
        kinds = json.loads(self.run_command("--kinds", "--format", "json"))
        self.assertEqual(kinds.keys(), KINDS.keys())
        self.assertIn({"name": "deed", "takes": kinds["deeds"][6]["takes"], "required": False}, kinds["deeds"])
        self.assertIn("  recorded_on (required, or sold_on): a date", self.run_command("--kinds"))
        listings = self.folder / "listings.csv"
        listings.write_text("ListingId,OriginatingSystemName,StandardStatus,PropertyType,CountyOrParish\nZ1,S,Active,Land,Odell Marsh\n")
        self.assertIn("1 new", self.run_command(str(listings), "--kind", "listings"))
        self.assertEqual(Listing.objects.get(listing_id="Z1").county.name, "Odell Marsh")

    def test_a_county_by_command(self) -> None:
        call_command("county", "Baltimore City", state="MD", fips="24510", numbers="NNNN", stdout=io.StringIO())
        with self.assertRaisesRegex(CommandError, "fips"):
            call_command("county", "Other", state="MD", fips="24510", numbers="NNNN", stdout=io.StringIO())

    def test_staff_are_told_apart(self) -> None:
        self.assertTrue(User.objects.get(username="nora").is_staff)
