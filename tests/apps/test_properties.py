"""A property's page: everything that is on record, with its source; from one to the next through a search."""

from __future__ import annotations

import io
import re
from dataclasses import replace
from datetime import date
from html import unescape
from pathlib import Path

from django.apps import apps
from django.contrib.gis.db.models import GeometryField
from django.urls import reverse
from pypdf import PdfReader

from jaded_ledger.accounts.models import User
from jaded_ledger.core.criteria.text import parse
from jaded_ledger.find.compiler import compile
from jaded_ledger.find.results import in_order
from jaded_ledger.find.search_page import SearchPage
from jaded_ledger.lists.services import tag
from jaded_ledger.properties.models import ContactView
from jaded_ledger.properties.pager import address
from jaded_ledger.properties.property_acts import property_acts
from jaded_ledger.properties.record_kinds import SECTIONS, PropertyRecord
from jaded_ledger.properties.statement import recorded_lines
from jaded_ledger.properties.tables import section_tables, shown_fields, table_of
from jaded_ledger.records.models import (
    Building,
    Contact,
    County,
    CourtCase,
    Filed,
    Listing,
    Loan,
    Parcel,
    ParcelFacts,
    RecordedName,
    RollEntry,
    StoredImage,
    StoredPaper,
    TaxYear,
)
from jaded_ledger.records.models.filed import own_fields
from tests.support.demo import DemoTestCase
from tests.support.page_text import page_text
from tests.support.tiers import thorough

KINDS = [kind for section in SECTIONS for kind in section.kinds]


class PageCase(DemoTestCase):
    def setUp(self) -> None:
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")

    def page(self, parcel: Parcel | int, **query: str):
        pk = parcel if isinstance(parcel, int) else parcel.pk
        return self.client.get(reverse("properties:property", args=[pk]), query)

    def below(self, parcel: Parcel | int, **query: str):
        """Return what comes after the page: the sections below its statement."""
        pk = parcel if isinstance(parcel, int) else parcel.pk
        return self.client.get(reverse("properties:more", args=[pk]), query, headers={"HX-Request": "true"})


class Complete(PageCase):
    def test_every_field_of_every_kind_has_its_place(self) -> None:
        for model in apps.get_app_config("records").get_models():
            if not issubclass(model, Filed):
                continue
            shown = {field.name for kind in KINDS if kind.model is model for field in shown_fields(kind)}
            for field in own_fields(model):
                links = field.related_model in (Parcel, StoredImage, StoredPaper) or field.name == "owner"
                if not links and not isinstance(field, GeometryField):
                    self.assertIn(field.name, shown, model.__name__)

    @thorough
    def test_every_row_of_some_properties_stands_on_its_page_with_file_and_line(self) -> None:
        """For each kind, the parcel of its first row: that row's source must be on the page."""
        for kind in KINDS:
            if kind.is_private:
                continue
            with self.subTest(kind.title):
                parcel = self.a_parcel_with(kind.model)
                table = table_of(kind, PropertyRecord(parcel))
                self.assertTrue(table.entries, parcel.number)
                body = self.below(parcel).content.decode()
                for entry in table.entries:
                    self.assertIn(f"{entry.source_file.name}:{entry.row.source_line}<", body)
                    for cell in entry.known:
                        self.assertIn(cell.text.split("\n")[0][:30].replace("&", "&amp;").replace("'", "&#x27;"), body)

    def a_parcel_with(self, model: type[Filed]) -> Parcel:
        """Return a parcel that a row of a model is about, followed through the number that links it where it has no parcel."""
        named = {
            "LoanEvent": ("loan_number", Loan, "document_number", "parcels"),
            "LienRelease": ("lien_number", apps.get_model("records", "Lien"), "document_number", "parcels"),
            "CaseParty": ("case_number", CourtCase, "case_number", "parcels"),
            "CaseDocument": ("case_number", CourtCase, "case_number", "parcels"),
            "CasePaper": ("case_number", CourtCase, "case_number", "parcels"),
            "ListingEvent": ("resource_record_id", Listing, "listing_id", "parcel"),
            "Photograph": ("listing_id", Listing, "listing_id", "parcel"),
            "Agent": ("member_mls_id", Listing, "list_agent_mls_id", "parcel"),
            "Office": ("office_mls_id", Listing, "list_office_mls_id", "parcel"),
        }
        if model.__name__ in named:
            by, other, number, parcels = named[model.__name__]
            for row in model.objects.filter(superseded_at=None):
                found = other.objects.filter(county=row.county, **{number: getattr(row, by), f"{parcels}__isnull": False}).first()
                if found:
                    return found.parcels.first() if parcels == "parcels" else found.parcel
        if model.__name__ in ("TaxRate", "AreaEntry", "MapFeature"):
            wet = """SELECT s.parcel_id AS id FROM records_parcelshape s
                       JOIN records_mapfeature f ON ST_Intersects(s.outline, f.geometry) LIMIT 1"""
            return Parcel.objects.get(pk=Parcel.objects.raw(wet)[0].pk)
        row = model.objects.filter(superseded_at=None).first()
        return row.parcel if hasattr(row, "parcel_id") else row.parcels.first()

    def test_the_statement_holds_every_dated_document(self) -> None:
        parcel = Parcel.objects.filter(loans__isnull=False, cases__isnull=False, listings__isnull=False).first()
        lines = recorded_lines(PropertyRecord(parcel))
        self.assertEqual(lines, sorted(lines, key=lambda line: line.day))
        rows = {(type(line.row), line.row.pk) for line in lines}
        for model, where in ((Loan, {"parcels": parcel}), (CourtCase, {"parcels": parcel}), (Listing, {"parcel": parcel})):
            for row in model.objects.filter(superseded_at=None, **where):
                self.assertIn((model, row.pk), rows)
        self.assertContains(self.page(parcel, show="courts"), "case filed")
        self.assertNotContains(self.page(parcel, show="courts"), "<b>Listed,")

    def test_what_was_never_recorded_is_unknown(self) -> None:
        bare = Parcel.objects.create(county=County.objects.get(name="Tamarack"), number="99-999-999", number_key="99999999")
        ParcelFacts.objects.create(parcel=bare, county=bare.county, parcel_number=bare.number_key)
        response = self.page(bare)
        self.assertIn("Parcel 99-999-999", page_text(response.content))
        self.assertContains(response, "not known from the records")
        self.assertContains(response, "Nothing dated is on record")
        self.assertContains(response, "No outline")
        gone = Parcel.objects.exclude(pk=bare.pk).first()
        ParcelFacts.objects.filter(parcel=gone).delete()
        Parcel.objects.filter(pk=gone.pk).update(retired_on=date(2026, 1, 2))
        self.assertContains(self.page(gone), "Retired on 2 Jan 2026")
        self.assertEqual(self.page(10**9).status_code, 404)

    def test_a_unit_and_its_ground_know_each_other(self) -> None:
        unit = Parcel.objects.filter(parent__isnull=False).first()
        self.assertContains(self.page(unit), unit.parent.number)
        self.assertIn("Project", [table.kind.title for one in self.below(unit).context["sections"] for table in one.tables])

    def test_awkward_texts(self) -> None:
        entry = RollEntry.objects.filter(superseded_at=None, parcel__facts__isnull=False).first()
        name = RecordedName.objects.create(
            mailing_name="x", kind="individual", **RecordedName.search_forms('<script>alert(1)</script> O\'NEIL "THE" ' + "VERY" * 60)
        )
        RollEntry.objects.filter(pk=entry.pk).update(owner_name=name, further={"<b>Own": "a & b"})
        ParcelFacts.objects.filter(parcel=entry.parcel_id).update(owner_name=name)
        body = "".join(answer.content.decode() for answer in (self.page(entry.parcel_id), self.below(entry.parcel_id)))
        self.assertNotIn("<script>alert", body)
        self.assertIn("&lt;script&gt;", body)
        self.assertIn("&lt;b&gt;Own", body)

    def test_as_it_stood(self) -> None:
        earlier = RollEntry.objects.filter(superseded_at__isnull=False).select_related("owner_name", "parcel").first()
        self.assertContains(self.page(earlier.parcel, as_of="2026-02-01"), "As the files on record had it on 1 Feb 2026")
        owner = section_tables(SECTIONS[0], PropertyRecord(earlier.parcel, date(2026, 2, 1)))
        self.assertEqual(owner.tables[0].entries[0].row, earlier)
        self.assertTrue(section_tables(SECTIONS[0], PropertyRecord(earlier.parcel)).tables[0].earlier)
        self.assertContains(self.page(earlier.parcel, as_of="2026-02-01"), "/more?as_of=2026-02-01")
        self.assertEqual(
            self.below(earlier.parcel, as_of="2026-02-01").context["sections"],
            [section_tables(one, PropertyRecord(earlier.parcel, date(2026, 2, 1))) for one in SECTIONS],
        )
        self.assertContains(self.page(earlier.parcel, as_of="last year"), "is not a date")

    def test_two_sources_stand_side_by_side(self) -> None:
        listing = next(
            one for one in Listing.objects.filter(parcel__isnull=False).select_related("parcel")
            if (roll := PropertyRecord(one.parcel).roll) and roll.living_area and one.living_area and roll.living_area != one.living_area
        )  # fmt: skip
        body = self.below(listing.parcel).content.decode()
        for area in (PropertyRecord(listing.parcel).roll.living_area, listing.living_area):
            self.assertIn(f"<dd>{area:,}</dd>", body)
        self.assertTrue(Building.objects.filter(parcel=listing.parcel).exists() or TaxYear.objects.filter(parcel=listing.parcel).exists())


class Private(PageCase):
    def setUp(self) -> None:
        super().setUp()
        self.contact = Contact.objects.select_related("owner").first()
        self.parcel = self.contact.owner.roll_entries.filter(superseded_at=None).first().parcel

    def test_numbers_are_shown_on_request_and_who_asked_is_noted(self) -> None:
        for shown in (self.page(self.parcel), self.below(self.parcel)):
            self.assertNotContains(shown, self.contact.value)
        address = reverse("properties:contacts", args=[self.parcel.pk])
        self.assertEqual(self.client.get(address).status_code, 405)
        self.assertFalse(ContactView.objects.exists())
        self.assertContains(self.client.post(address), self.contact.value)
        self.assertContains(self.client.post(address, headers={"HX-Request": "true"}), self.contact.value)
        views = ContactView.objects.all()
        self.assertEqual([(view.user, view.parcel, view.team) for view in views], [(self.user, self.parcel, self.user.team)] * 2)
        self.assertContains(self.below(self.parcel), "last Nora")
        self.client.force_login(self.other_team(), backend="django.contrib.auth.backends.ModelBackend")
        self.assertNotContains(self.below(self.parcel), "last Nora")

    def test_a_reader_sees_them_too(self) -> None:
        User.objects.filter(pk=self.user.pk).update(role=User.Role.READER)
        self.assertContains(self.client.post(reverse("properties:contacts", args=[self.parcel.pk])), self.contact.value)

    def test_photographs(self) -> None:
        image = StoredImage.objects.first()
        response = self.client.get(reverse("properties:photograph", args=[image.pk]))
        self.assertEqual((response["Content-Type"], response.content[:8]), ("image/png", b"\x89PNG\r\n\x1a\n"))
        self.assertIn("private", response["Cache-Control"])
        self.assertEqual(self.client.get(reverse("properties:photograph", args=[10**9])).status_code, 404)


class Printed(PageCase):
    def text(self, parcel: Parcel, *sections: str, **asked: str) -> str:
        content = self.client.get(reverse("properties:printed", args=[parcel.pk]), {"section": sections, **asked}).content
        return " ".join("".join(sheet.extract_text() for sheet in PdfReader(io.BytesIO(content)).pages).split())

    def test_all_of_it_or_what_is_chosen(self) -> None:
        contact = Contact.objects.filter(superseded_at=None, owner__facts__street__isnull=False).order_by("pk").first()
        parcel = contact.owner.facts.filter(street__isnull=False).order_by("pk").first().parcel
        whole = self.text(parcel)
        for said in (
            "Statement",
            parcel.number,
            parcel.facts.street_line,
            *(one.title for one in SECTIONS if one.key in ("owner", "building")),
        ):
            self.assertIn(said, whole)
        # Contact data is shown on request, and never printed.
        self.assertNotIn(contact.value, whole)
        closing = re.search(r"equity (\$[\d,]+|·)", page_text(self.client.get(reverse("properties:property", args=[parcel.pk])).content))
        self.assertIn(closing[1], whole)
        only = self.text(parcel, "statement")
        self.assertIn("Statement", only)
        self.assertNotIn("Owner and address", only)
        # What is not known is no reason to print nothing; a day is.
        self.assertEqual(self.text(parcel, "nonsense")[:200], whole[:200])
        self.assertIn("as the files on record had it on 1 Jan 2020", self.text(parcel, "statement", as_of="2020-01-01"))

    @thorough
    def test_the_team_s_own_judgments_only_where_they_are_asked_for(self) -> None:
        parcel = Parcel.objects.filter(facts__isnull=False, taggings=None).order_by("pk").first()
        tag(replace(self.scope, user=self.user), "Weak roof", [parcel.pk])
        self.assertNotIn("Weak roof", self.text(parcel))
        self.assertNotIn("Weak roof", self.text(parcel, "figures", "statement"))
        asked = self.text(parcel, "figures", "team")
        self.assertIn("Team activity", asked)
        self.assertEqual(asked.count("Weak roof"), 2)
        self.assertIn("Statement", self.text(parcel, "team"))


class Grades(PageCase):
    def test_a_teams_own_judgment(self) -> None:
        parcel = Parcel.objects.get(county__name="Tamarack", number="12-001-001")
        address = reverse("properties:grade", args=[parcel.pk])
        self.assertContains(self.page(parcel), "<option selected>C</option>", html=True)
        self.assertEqual(self.client.post(address, {"grade": "B"}).status_code, 302)
        self.assertContains(self.page(parcel), "<option selected>B</option>", html=True)
        self.assertEqual(self.client.post(address, {"grade": ""}, headers={"HX-Request": "true"}).status_code, 204)
        self.assertNotContains(self.page(parcel), "<option selected>", html=True)
        self.assertEqual(self.client.post(address, {"grade": "F"}).status_code, 400)
        self.client.post(address, {"grade": "A"})
        User.objects.filter(pk=self.user.pk).update(role=User.Role.READER)
        self.assertEqual(self.client.post(address, {"grade": "D"}).status_code, 403)
        self.assertNotContains(self.page(parcel), address)
        # Another team sees none of it.
        self.client.force_login(self.other_team(), backend="django.contrib.auth.backends.ModelBackend")
        self.assertNotContains(self.page(parcel), "<option selected>A</option>", html=True)


class Acts(PageCase):
    """What is done to a property on its page: each act, undone where it can be, by those who may."""

    def setUp(self) -> None:
        super().setUp()
        untouched = Parcel.objects.filter(
            memberships=None, taggings=None, stages=None, facts__do_not_contact=False, facts__owner__isnull=False
        )
        self.parcel = untouched.order_by("pk").first()

    def act(self, do: str, typed: str = "", **more: str):
        sent = {"do": do, "typed": typed, "back": f"/property/{self.parcel.pk}/?at=1", **more}
        return self.client.post(reverse("properties:act", args=[self.parcel.pk]), sent, follow=True)

    def figure(self, key: str) -> str:
        return next((one.text for one in self.page(self.parcel).context["figures"] if one.key == key), "")

    def undo(self, page) -> None:
        address = re.search(r'<form method="post" action="([^"]+)" class="undoes">', page.content.decode())[1]
        self.assertContains(self.client.post(address, {"back": "/property/"}, follow=True), "", status_code=404)

    def test_each_is_said_shown_and_undone(self) -> None:
        for do, typed, said, key, shown in (
            ("keep", "Front doors", "Added to the new list “Front doors”.", "on-list", "Front doors"),
            ("keep", "front doors", "Added to “Front doors”.", "on-list", "Front doors"),
            ("tag", " Weak  roof ", "Tagged “Weak roof”.", "tag", "Weak roof"),
            ("stage", "comping", "Stage set to “comping”.", "stage", "comping"),
        ):
            with self.subTest(do, typed=typed):
                page = self.act(do, typed)
                self.assertContains(page, said)
                self.assertEqual(page.redirect_chain, [(f"/property/{self.parcel.pk}/?at=1", 302)])
                self.assertEqual(self.figure(key), shown)
                self.undo(page)
                self.assertNotEqual(self.figure(key), shown)

    def test_a_note_a_pass_and_who_is_left_alone(self) -> None:
        page, noted = self.act("note", "<b>Knock</b> at the back"), "noted: &lt;b&gt;Knock&lt;/b&gt; at the back"
        self.assertContains(self.below(self.parcel), noted)
        self.undo(page)
        self.assertNotContains(self.below(self.parcel), noted)
        self.undo(self.act("pass", "too dear"))
        page = self.act("do-not-contact", "asked by phone")
        self.assertContains(page, "is marked do not contact.")
        self.undo(page)
        for do, typed, said in (
            ("keep", " ", "Type the name of a list"), ("keep", "x" * 81, "at most 80 characters"), ("tag", "", "has no name yet"),
            ("stage", "nowhere", "none of your team"), ("note", " ", "Write what there is to note"),
        ):  # fmt: skip
            with self.subTest(do, typed=typed[:9]):
                self.assertContains(self.act(do, typed), said)

    def test_it_leads_to_comps_a_worksheet_and_a_mailing_of_one(self) -> None:
        for do, leads_to in (
            ("comps", "/deals/comps/"),
            ("worksheet", "/deals/worksheets/"),
            ("mail", "/outreach/mailings/"),
            ("contacts", "/outreach/contacts/"),
        ):
            with self.subTest(do):
                page = self.act(do)
                self.assertIn(leads_to, page.redirect_chain[-1][0])
                self.assertEqual(page.status_code, 200)
        self.assertEqual(self.act("dance").status_code, 404)

    def test_a_reader_is_offered_and_may_do_what_needs_no_role(self) -> None:
        User.objects.filter(pk=self.user.pk).update(role=User.Role.READER)
        body = self.page(self.parcel).content.decode()
        for act in property_acts():
            with self.subTest(act.key):
                self.assertIs(f'name="do" value="{act.key}"' in body, act.needs is None)
                self.assertEqual(self.act(act.key, "comping").status_code, 200 if act.needs is None else 403)

    def test_it_goes_back_to_pages_of_ours_alone(self) -> None:
        page = self.act("tag", "Corner", back="https://elsewhere.example/")
        self.assertEqual(page.redirect_chain[0][0], f"/property/{self.parcel.pk}/")

    def test_a_retired_parcel_has_none(self) -> None:
        Parcel.objects.filter(pk=self.parcel.pk).update(retired_on=date(2026, 1, 5))
        ParcelFacts.objects.filter(parcel=self.parcel.pk).delete()
        self.assertNotContains(self.page(self.parcel), "property-acts")
        self.assertEqual(self.act("tag", "Corner").status_code, 404)
        # Nor comps; the entry in the index that stood for them goes.
        self.assertContains(self.below(self.parcel), '<a id="comps-entry" hx-swap-oob="delete"></a>', html=True)
        self.assertNotContains(self.below(self.parcel), '<section id="comps">')


class First(PageCase):
    """What stands first on the page: the listing that is current, and photographs."""

    def test_the_listing_that_is_current_and_its_photographs(self) -> None:
        listing = Listing.objects.filter(
            superseded_at=None, standard_status="Active", parcel__photographs__isnull=False, list_price__isnull=False
        ).first()
        listing = (
            listing
            or Listing.objects.filter(superseded_at=None, standard_status="Active", list_price__isnull=False, parcel__isnull=False)
            .order_by("pk")
            .first()
        )
        page = self.page(listing.parcel)
        current = page.context["current"]
        self.assertEqual(current.listing.standard_status, "Active")
        text = page.content.decode()
        self.assertLess(text.index('class="current"'), text.index('id="statement"'))
        self.assertContains(page, f"${current.listing.list_price:,.0f}")

    def test_what_was_sold_or_never_listed_has_none(self) -> None:
        never = Parcel.objects.filter(listings=None, photographs=None, facts__isnull=False).order_by("pk").first()
        self.assertNotContains(self.page(never), 'class="current"')
        sold = Parcel.objects.filter(listings__standard_status="Closed", facts__isnull=False)
        sold = (
            sold.exclude(listings__standard_status__in=["Active", "Pending", "Coming Soon", "Active Under Contract", "Hold"])
            .order_by("pk")
            .first()
        )
        self.assertIsNone(self.page(sold).context["current"].listing)


class Walks(PageCase):
    SEARCH = "county: Pike Hollow\nowner-occupied: no\nliving-area: 1500.."

    def test_through_a_sorted_search_and_back(self) -> None:
        search_page = SearchPage(parse(self.SEARCH), sort="-living-area")
        ids = list(in_order(compile(search_page.search, self.scope).matches, search_page.sort).values_list("parcel_id", flat=True))
        self.assertGreater(len(ids), 60)
        here = address(ids[48], search_page, self.scope, 49)
        for at in range(49, 55):
            response = self.client.get(here)
            self.assertContains(response, f"{at} of {len(ids)}")
            self.assertEqual(response.context["parcel"].pk, ids[at - 1])
            pager = response.context["pager"]
            self.assertEqual(int(re.search(r"/property/(\d+)/", pager.previous)[1]), ids[at - 2])
            # The way back leads to the page that holds the row.
            self.assertEqual("page=2" in pager.back, at > 50)
            self.assertTrue(pager.back.endswith(f"#parcel-{ids[at - 1]}"))
            here = pager.following
        first = self.client.get(address(ids[0], search_page, self.scope, 1)).context["pager"]
        last = self.client.get(address(ids[-1], search_page, self.scope, len(ids))).context["pager"]
        self.assertEqual((first.previous, last.following), ("", ""))

    def test_addresses_that_have_aged_or_make_no_sense(self) -> None:
        search_page = SearchPage(parse(self.SEARCH))
        ids = list(in_order(compile(search_page.search, self.scope).matches, "").values_list("parcel_id", flat=True))
        for at in ("1", "999999", "0", "x", "٣", "-4"):
            pager = self.page(ids[30], q=self.SEARCH, at=at).context["pager"]
            self.assertEqual(pager.at, 31, at)
        stranger = Parcel.objects.filter(county__name="Tamarack").first()
        self.assertIn("no longer in the search", page_text(self.page(stranger, q=self.SEARCH, at="3").content))
        for query in ({"q": "bedz: 3", "at": "1"}, {"q": "city: Nowhere", "at": "1"}, {"q": self.SEARCH}):
            self.assertIsNone(self.page(ids[0], **query).context["pager"])
        self.assertEqual(self.page(ids[0], s="never-kept", at="1").status_code, 404)


@thorough
class WorthOpening(PageCase):
    def test_the_properties_that_the_demos_page_names(self) -> None:
        """Each is where docs/demo.md says, and shows what it says."""
        text = (Path(__file__).resolve().parents[2] / "docs" / "demo.md").read_text()
        rows = re.findall(r"^\| (Tamarack|Pike Hollow|Odell Marsh) \| ([\d-]+) \| (\d[^|]+) \| ([^|]+) \|$", text, re.M)
        self.assertGreaterEqual(len(rows), 20)
        for county, number, where, says in rows:
            with self.subTest(number):
                parcel = Parcel.objects.get(county__name=county, number=number)
                later = [self.client.get(reverse(f"properties:{name}", args=[parcel.pk])) for name in ("others", "more")]
                body = unescape("".join(answer.content.decode() for answer in (self.page(parcel), *later)))
                self.assertIn(f"<h1>{where}", body)
                for shown in re.findall(r"`([^`]+)`", says):
                    self.assertIn(shown, body)
