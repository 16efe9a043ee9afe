"""Worksheets, lists and searches take one value from the comps of a property, by the pool that was chosen for it, and say what it is."""

from __future__ import annotations

import io

from django.urls import reverse
from openpyxl import load_workbook
from pypdf import PdfReader

from jaded_ledger.comps.decisions import decide, set_grade
from jaded_ledger.comps.kept import keep
from jaded_ledger.comps.list_ranges import ask_for, compute
from jaded_ledger.comps.pools import save_pool
from jaded_ledger.comps.sales_on_record import forget_sales
from jaded_ledger.comps.screening import screen
from jaded_ledger.comps.valuation import value
from jaded_ledger.core.comps.lines import parse_lines
from jaded_ledger.lists import services as lists
from jaded_ledger.records.models import Parcel, ParcelFacts, ParcelSale
from jaded_ledger.worksheets.models import ScreenedParcel
from jaded_ledger.worksheets.page import shown
from jaded_ledger.worksheets.screened import screen_team, waiting
from jaded_ledger.worksheets.services import worksheets_of
from jaded_ledger.worksheets.what_if import WorksheetView
from tests.support.tiers import thorough
from tests.support.worksheets import WorksheetCase, text_of


class ByComps(WorksheetCase):
    """The value after repair, which comps it comes from, and what is said of them."""

    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        cls.parcel = Parcel.objects.select_related("county").get(number="12-005-014")
        cls.facts = ParcelFacts.objects.get(pk=cls.parcel.pk)

    def test_an_assumption_in_a_line_never_passes_for_a_record(self) -> None:
        sheet = shown(self.computed(), WorksheetView())
        repairs = next(line for line in sheet["exits"][0].lines if line.figure.label == "repairs")
        self.assertEqual(repairs.origin, "assumed")
        purchase = next(line for line in sheet["exits"][0].lines if line.figure.key == "price")
        self.assertEqual(purchase.origin, "listing")

    @thorough
    def test_what_it_comes_from_is_said_where_it_stands(self) -> None:
        as_is = value(self.parcel, self.scope)
        repaired = [comp for comp in as_is.comps if comp.of_set == "repaired"]
        for comp in repaired:
            decide(self.scope, self.parcel, (comp.parcel_id, comp.sold_on), is_in=False)
        worksheet = self.begun()
        address = reverse("worksheets:worksheet", args=[worksheet.pk])
        found = self.computed()
        said = f"No comp sold after repair: this is the value as is, from {as_is.range.count} comps."
        self.assertEqual(found.doubts_about_value, (said,))
        self.assertEqual(found.figures.given["arv"].value, round(as_is.range.value))
        self.assertContains(self.client.get(address), said)
        pages = PdfReader(io.BytesIO(self.client.get(reverse("worksheets:worksheet-pdf", args=[worksheet.pk])).content)).pages
        self.assertIn(said, " ".join(" ".join(page.extract_text() for page in pages).split()))
        book = load_workbook(io.BytesIO(self.client.get(reverse("worksheets:worksheet-xlsx", args=[worksheet.pk])).content))
        self.assertTrue(any(said in str(cell.value) for row in book["Inputs"] for cell in row))
        # One comp that sold after repair, for less than the others as is: few, and in conflict.
        comp = next(comp for comp in as_is.comps if comp.of_set == "as-is")
        set_grade(self.scope, comp.parcel_id, comp.sold_on, "rebuilt")
        ParcelSale.objects.filter(parcel=comp.parcel_id, sold_on=comp.sold_on).update(price=20_000)
        forget_sales()
        found = self.computed()
        self.assertEqual(found.comps.of_set, "repaired")
        few, conflict = found.doubts_about_value
        self.assertEqual(few, "Only 1 comp: fewer than 3 say little.")
        self.assertIn("from 1 comp) is below the value as is", conflict)
        page = self.client.get(reverse("comps:comps", args=[self.parcel.pk]))
        self.assertContains(page, conflict)
        self.assertContains(self.client.get(address), few)
        # What the user sets is the user's own.
        self.assertEqual(self.computed(inputs={"arv": 300_000}).doubts_about_value, ())

    def test_a_narrowed_pool_stays(self) -> None:
        lines = "within: 0.5 mi; closed: 730 days; beds: 0; likest: 12"
        comps, act = reverse("comps:comps", args=[self.parcel.pk]), reverse("comps:act", args=[self.parcel.pk])
        usual = value(self.parcel, self.scope)
        self.client.post(act, {"do": "lines", "edit": "1", "amount.within": "0.5", "amount.closed": "730", "amount.beds": "0",
                               "amount.likest": "12"})  # fmt: skip
        # Opened again, with lists and the command alike.
        self.assertEqual("; ".join(map(str, value(self.parcel, self.scope).lines)), lines)
        self.assertNotEqual(value(self.parcel, self.scope).range, usual.range)
        self.assertContains(self.client.get(comps), "Saved for this property")
        (one,) = screen([self.facts], self.scope)
        self.assertEqual(one.range.count, value(self.parcel, self.scope).range.count)
        # The worksheet keeps it, and its second press opens the same worksheet.
        begin_it = reverse("worksheets:begin-worksheet", args=[self.parcel.pk])
        first = self.client.post(begin_it, {"lines": lines})
        self.assertEqual(first.url, self.client.post(begin_it, {"lines": lines}).url)
        self.assertEqual(worksheets_of(self.scope).filter(parcel=self.parcel).count(), 1)
        worksheet = worksheets_of(self.scope).get(parcel=self.parcel)
        self.assertEqual(worksheet.content["pool"], lines)
        # The property's pool changes; that of the worksheet does not, until it is told to.
        self.client.post(act, {"do": "usual-lines"})
        self.assertEqual(value(self.parcel, self.scope).lines, usual.lines)
        page = self.client.get(first.url)
        self.assertContains(page, "This worksheet’s own pool: within: 0.5 mi")
        self.assertContains(page, "lines=within%3A+0.5+mi%3B+closed")
        self.change(worksheet, do="usual-pool")
        self.assertNotContains(self.client.get(first.url), "own pool")
        # Another one has a name of its own; a pool that can't be read changes nothing.
        self.client.post(begin_it, {"another": "1"})
        self.client.post(begin_it, {"another": "1"})
        names = set(worksheets_of(self.scope).filter(parcel=self.parcel).values_list("name", flat=True))
        self.assertEqual(len(names), 3)
        self.assertTrue(any(name.endswith(" (2)") for name in names))
        self.assertRedirects(self.client.post(begin_it, {"lines": "by: magic"}), comps)

    @thorough
    def test_saved_comps_open_with_their_pool(self) -> None:
        lines = parse_lines("within: 0.7 mi; likest: 5")
        kept = keep(self.scope, value(self.parcel, self.scope, lines))
        page = self.client.get(reverse("comps:kept", args=[kept.pk]))
        self.assertContains(page, f"{reverse('comps:comps', args=[self.parcel.pk])}?lines=within%3A%200.7%20mi%3B%20likest%3A%205")

    def test_a_line_whose_area_was_deleted_is_left_out(self) -> None:
        save_pool(self.scope, self.parcel, parse_lines('within: 1 mi; outside: "Gone"'))
        self.assertEqual("; ".join(map(str, value(self.parcel, self.scope).lines)), "within: 1 mi")

    def test_a_reader_saves_no_pool(self) -> None:
        self.client.force_login(self.reader(), backend="django.contrib.auth.backends.ModelBackend")
        said = self.client.post(reverse("comps:act", args=[self.parcel.pk]), {"do": "lines", "edit": "1", "amount.within": "2"})
        self.assertEqual(said.status_code, 403)
        self.assertContains(self.client.get(reverse("comps:comps", args=[self.parcel.pk])), 'method="get"')

    def test_a_search_and_a_worksheet_offer_the_same(self) -> None:
        """Where a list had its ranges calculated, the trait rests on the same value as the worksheet; each names it."""
        which = lists.make_list(self.scope, "To value")
        lists.add(self.scope, which, [self.parcel.pk])
        offer = "highest-offer"
        before = ScreenedParcel.objects.get(parcel=self.parcel).highest_offer
        self.assertIn("its estimated value; no comps", self.explained(offer))
        ask_for(self.scope, which)
        compute(which.pk)
        self.assertEqual(waiting(), {self.scope.team.pk})
        screen_team(self.scope.team.pk)
        found = self.computed()
        now = ScreenedParcel.objects.get(parcel=self.parcel).highest_offer
        self.assertNotEqual(now, before)
        self.assertAlmostEqual(now, found.figures.number(found.figures.sheet.cells[offer]), delta=0.5001)
        self.assertIn(found.figures.given["arv"].said, self.explained(offer))
        self.assertIn("Comps calculated 24 Nov 2026", self.explained(offer))

    def explained(self, key: str) -> str:
        return text_of(self.client.get(reverse("properties:explained", args=[self.parcel.pk, key])))
