"""Worksheets on the demo: what they begin with, who may change them, what is kept, screened, taken out, and told by the command."""

from __future__ import annotations

import io
import json
import tempfile
from pathlib import Path
from typing import Any

import numpy as np
from django.core.exceptions import PermissionDenied
from django.core.management import CommandError, call_command
from django.urls import reverse
from openpyxl import load_workbook
from pypdf import PdfReader

from jaded_ledger.accounts.deletion import undo_address
from jaded_ledger.accounts.models import AreaGrade, Team, User
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.comps.screening import ASKED_NOW
from jaded_ledger.core.criteria.text import parse
from jaded_ledger.core.deals.expressions import FigureUnit
from jaded_ledger.core.deals.inputs import BARE, Exit, InputError
from jaded_ledger.core.deals.known import Origin
from jaded_ledger.core.deals.reading import figure_text
from jaded_ledger.core.deals.worksheet import Worksheet as Content
from jaded_ledger.core.deals.worksheet import worksheet_from_json
from jaded_ledger.find.answer import Answer
from jaded_ledger.find.search_page import SearchPage
from jaded_ledger.lists import services as lists
from jaded_ledger.records.models import Area, CourtCase, Listing, Parcel, ParcelFacts
from jaded_ledger.worksheets.computed import computed
from jaded_ledger.worksheets.defaults import Places, defaults_of, defaults_of_many, read_values, set_defaults
from jaded_ledger.worksheets.edits import acted, edited
from jaded_ledger.worksheets.models import ScreenedParcel, Screening, Worksheet, WorksheetDefaults
from jaded_ledger.worksheets.plugin import parcel_joined
from jaded_ledger.worksheets.recorded import recorded, recorded_parcels
from jaded_ledger.worksheets.screened import ask_where_due, mark_list, screen_team, screened, to_screen, waiting
from jaded_ledger.worksheets.services import UNDONE, begin, change, keep_version, undo, worksheets_of
from jaded_ledger.worksheets.signatures import signatures_of
from jaded_ledger.worksheets.snapshot import changed_inputs, changed_results
from jaded_ledger.worksheets.tasks import ask_to_screen
from tests.support.tiers import at_all_hours, thorough
from tests.support.worksheets import NUMBER, WorksheetCase, text_of


class FromTheRecord(WorksheetCase):
    def test_a_worksheet_begins_with_what_is_recorded_estimated_and_assumed(self) -> None:
        found = self.computed()
        told = {key: (float(given.value), str(given.origin)) for key, given in found.figures.given.items()}
        self.assertEqual(told["price"], (self.facts.list_price, "listing"))
        self.assertEqual(told["taxes"], (self.facts.tax_bill, "recorded"))
        self.assertEqual(told["living-area"], (self.facts.living_area, "recorded"))
        self.assertEqual(told["arv"][1], "estimated")
        self.assertIn("comp", found.figures.given["arv"].said)
        self.assertEqual(told["rental.vacancy"], (7.0, "assumed"))
        self.assertEqual(told["insurance"], (round(0.006 * self.facts.estimated_value), "estimated"))

    def test_rents_are_those_of_the_register_unit_by_unit(self) -> None:
        found = self.computed()
        units = found.figures.building.units
        self.assertEqual(len(units), self.facts.units)
        self.assertEqual(sum(unit.rent for unit in units), self.facts.rent_in_place)
        self.assertEqual({unit.market for unit in units}, {self.facts.rent_area})
        self.assertEqual(len({unit.name for unit in units}), len(units))

    def test_without_comps_and_rents_it_says_what_is_wanted(self) -> None:
        parcel = Parcel.objects.get(pk=ParcelFacts.objects.filter(raw_land=True, status=None).order_by("pk").first().pk)
        found = computed(Content(), parcel, self.scope)
        self.assertIsNone(found.figures.number(found.figures.sheet.cells["rental.flow"]))
        page = text_of(self.client.get(reverse("worksheets:worksheet", args=[begin(self.scope, parcel).pk])))
        self.assertIn("can’t be told; not known:", page)

    def test_what_the_seller_owes_agrees_with_equity(self) -> None:
        rows = ParcelFacts.objects.filter(equity__isnull=False, open_loans__gte=1, estimated_value__isnull=False).order_by("pk")[:25]
        for facts in rows:
            found = computed(Content(exits=(Exit.RENTAL,), own={"price": float(facts.estimated_value)}), facts.parcel, self.scope)
            owed = sum(one.amount for one in found.seller.payoffs)
            self.assertAlmostEqual(owed, facts.estimated_value - facts.equity, delta=len(found.seller.payoffs) + 1)

    def test_an_unknown_debt_leaves_what_the_seller_keeps_unknown(self) -> None:
        facts = ParcelFacts.objects.filter(loan_balance=None, estimated_value__isnull=False, county__fips="55053").first() or (
            ParcelFacts.objects.filter(loan_balance=None, estimated_value__isnull=False).first()
        )
        found = computed(Content(), facts.parcel, self.scope)
        self.assertIsNone(found.seller.values.number(found.seller.net))
        self.assertTrue(found.seller.unknown)

    def test_heirs_and_representatives_sign_for_the_dead(self) -> None:
        case = CourtCase.objects.filter(kind="probate", status="filed", superseded_at=None, parcels__isnull=False).order_by("pk").first()
        parcel = case.parcels.order_by("pk").first()
        found = computed(Content(), parcel, self.scope)
        roles = {one.role for one in signatures_of(parcel, found.findings)}
        self.assertIn("heir", roles)
        self.assertTrue(roles & {"personal representative", "for the estate"})


class Edits(WorksheetCase):
    def test_each_field_sets_what_it_is_called_after(self) -> None:
        recorded_building = self.computed().recorded
        sheet = Content()
        for field, typed in (
            ("input:price", "$168k"), ("unit:2:rent", "640"), ("unit:1:legality", "not legal"), ("unit:3:second-exit", "false"),
            ("unit:1:name", "  rear <b>  "), ("system:roof:year", "2004"), ("system:roof:is-replaced", "true"), ("rents", "market"),
            ("payoff:loan-1", "12,000"),
        ):  # fmt: skip
            sheet = edited(sheet, recorded_building, field, typed)
        self.assertEqual(sheet.own, {"price": 168_000})
        self.assertEqual([unit.rent for unit in sheet.units][1], 640)
        self.assertEqual((sheet.units[0].legality, sheet.units[0].name, sheet.units[2].second_exit), ("not legal", "rear <b>", False))
        self.assertEqual((sheet.systems[0].year, sheet.systems[0].is_replaced), (2004, True))
        self.assertEqual((sheet.rents, sheet.payoffs), ("market", {"loan-1": 12_000}))
        # A blank takes the user's own back.
        sheet = edited(sheet, recorded_building, "input:price", " ")
        sheet = edited(sheet, recorded_building, "unit:2:rent", "")
        self.assertEqual((sheet.own, sheet.units[1].rent), ({}, None))
        self.assertEqual(acted(sheet, recorded_building, "as-recorded").units, None)

    def test_by_the_month_a_field_is_typed_by_the_month(self) -> None:
        worksheet = self.begun()
        page = text_of(self.change(worksheet, by="month"))
        self.assertIn("cash flow a month", page)
        self.assertIn("all costs a month", page)
        self.change(worksheet, **{"input:taxes:month": "300", "input:costs:month": "815"})
        worksheet.refresh_from_db()
        self.assertEqual(worksheet.content["inputs"], {"taxes": 3_600, "costs": 9_780})
        # A window that still tells the year says so in the names of its fields.
        self.change(worksheet, **{"input:taxes": "4,000"})
        worksheet.refresh_from_db()
        self.assertEqual(worksheet.content["inputs"]["taxes"], 4_000)
        figure = self.client.get(reverse("worksheets:figure", args=[worksheet.pk, "rental.flow"]))
        self.assertContains(figure, "÷ 12")
        self.assertIn("cash flow a month", text_of(figure).casefold())

    def test_a_discount_from_what_is_asked(self) -> None:
        asked, building, sheet = float(self.facts.list_price), self.computed().recorded, Content()
        for field, typed, own in (
            ("input:discount", "-25k", {"discount": 25_000}), ("input:discount", "12%", {"discount-rate": 12}),
            ("input:price", "−12 %", {"discount-rate": 12}), ("input:price", "-25,000", {"discount": 25_000}),
            ("input:discount", "+5k", {"discount": -5_000}), ("input:price", "250k", {"price": 250_000}), ("input:discount", " ", {}),
        ):  # fmt: skip
            sheet = edited(sheet, building, field, typed, is_listed=True)
            with self.subTest(field, typed=typed):
                self.assertEqual(sheet.own, own)
        worksheet = self.begun()
        page = self.change(worksheet, **{"input:discount": "-10 %"})
        self.assertContains(page, f'value="{round(asked * 0.9):,}"')
        self.assertContains(page, 'value="-10 %"')
        with self.assertRaisesRegex(InputError, "no asking price is on record"):
            edited(Content(), building, "input:discount", "-25k")

    def test_all_assumptions_cleared(self) -> None:
        worksheet = self.begun(inputs={"rental.vacancy": 4})
        self.change(worksheet, do="bare")
        worksheet.refresh_from_db()
        self.assertEqual(worksheet.content["inputs"]["rental.vacancy"], 4)
        self.assertEqual({worksheet.content["inputs"][key] for key in BARE if key != "rental.vacancy"}, {0})
        self.change(worksheet, do="as-recorded")
        worksheet.refresh_from_db()
        self.assertEqual(worksheet.content["inputs"], {})

    def test_a_rental_from_rents_and_costs_takes_four_inputs(self) -> None:
        """Price, costs and the switch, on a sheet whose rents are on record: a rental of two lines, as practitioners say one."""
        worksheet, inputs = self.begun(), 0
        for fields in ({"do": "bare"}, {"by": "month"}, {"input:price": "240k"}, {"input:costs:month": "815"}):
            page = text_of(self.change(worksheet, **fields))
            inputs += 1
        self.assertLessEqual(inputs, 4)
        rent = self.facts.rent_in_place
        self.assertIn(f"all costs yours $ net operating income ${rent - 815:,}", page)

    def test_what_if_over_a_chosen_range(self) -> None:
        worksheet = self.begun(inputs={"price": 230_000})
        address = reverse("worksheets:worksheet", args=[worksheet.pk])
        page = self.client.get(address, {"down": "price", "across": "arv", "span": "205k to 260k", "step": "11k"})
        wrong = page.context["sheet"]["wrong"]
        self.assertEqual([row[0] for row in wrong["rows"]], ["$205,000", "$216,000", "$227,000", "$238,000", "$249,000", "$260,000"])
        for span, step, said in (
            ("205k", "", "write it as 205k to 260k"), ("205k to 205k", "", "two ends"), ("205k to 260k", "0", "more than 0"),
            ("205k to 260k", "1", "25 fit"), ("a to b", "", "is not a number"), ("205k to 1e99", "", "is not a number"),
            ("-5 to 10", "5", "goes from 0"),
        ):  # fmt: skip
            with self.subTest(span, step=step):
                page = self.client.get(address, {"down": "price", "span": span, "step": step})
                self.assertIn(said, page.context["sheet"]["wrong"]["wrong"])
                self.assertTrue(page.context["sheet"]["wrong"]["rows"])

    def test_each_exit_at_the_low_end_of_its_comps(self) -> None:
        found = self.computed()
        self.assertIsNotNone(found.comps.range)
        resale, rental = (one for one in self.client.get(reverse("worksheets:worksheet", args=[self.begun().pk])).context["sheet"]["exits"])
        value, figure = resale.low
        low = found.figures.with_inputs({"arv": found.comps.range.low}).number(found.figures.exits[0].main)
        self.assertEqual((value, figure.text), (figure_text(found.comps.range.low, FigureUnit.MONEY), figure_text(low, FigureUnit.MONEY)))
        self.assertIsNone(rental.low)
        # A value that the user set is not the comps'.
        own = self.client.get(reverse("worksheets:worksheet", args=[self.begun(inputs={"arv": 300_000}).pk])).context["sheet"]["exits"][0]
        self.assertIsNone(own.low)

    def test_assumptions_stand_beside_what_they_change(self) -> None:
        rental = self.client.get(reverse("worksheets:worksheet", args=[self.begun().pk])).context["sheet"]["exits"][1]
        beside = {key: [field.name for field in fields] for key, fields in rental.beside.items() if fields}
        self.assertIn("input:buying-costs", beside["rental.cash-in"])
        self.assertEqual(beside["goal rental.return"], ["input:rental.wanted-return"])
        told = [name for names in beside.values() for name in names]
        self.assertEqual(len(told), len(set(told)))
        self.assertFalse(set(told) & {field.name for field in rental.further})

    def test_repairs_with_bids(self) -> None:
        sheet, building = Content(), self.computed().recorded
        sheet = acted(sheet, building, "add-repair")
        self.assertEqual(sheet.repairs_by, "items")
        for field, typed in (
            ("repair:1:what", "Kitchen"), ("repair:1:amount", "12000"), ("repair:1:bid:1:by", "Alder & Sons"),
            ("repair:1:bid:1:amount", "10,500"), ("repair:1:taken", "1"),
        ):  # fmt: skip
            sheet = edited(sheet, building, field, typed)
        self.assertEqual(sheet.repairs[0].cost, 10_500)
        self.assertEqual(edited(sheet, building, "repair:1:taken", "").repairs[0].cost, 12_000)
        self.assertEqual(acted(sheet, building, "remove-repair:1").repairs, ())

    def test_what_can_not_be_set_is_said_and_nothing_is_changed(self) -> None:
        worksheet = self.begun(inputs={"price": 150_000})
        for name, typed, words in (
            ("input:price", "a lot", "is not a number for price"),
            ("input:rental.vacancy", "101", "goes from 0 to 100"),
            ("input:nonsense", "5", "there is no input"), ("unit:9:rent", "500", "no longer there"),
            ("unit:x:rent", "5", "no longer there"),
            ("unit:1:rent", "-5", "is a number from 0"), ("system:moat:year", "1900", "can’t be told"), ("rents", "none", "choose one of"),
            ("nonsense:1", "5", "can’t be told"), ("unit:1:color", "5", "has no “color”"),
        ):  # fmt: skip
            answer = self.change(worksheet, **{name: typed})
            self.assertEqual(answer.status_code, 200)
            self.assertIn(words.lower().replace("’", "'"), text_of(answer).lower().replace("’", "'"), name)
        for act in ("remove-exit:resale", "remove-exit:rental"):
            answer = self.change(worksheet, do=act)
        self.assertIn("at least one exit", text_of(answer))
        self.assertEqual(Worksheet.objects.get(pk=worksheet.pk).content["inputs"], {"price": 150_000})

    def test_changes_are_undone_one_by_one_and_two_windows_keep_each_others(self) -> None:
        worksheet = self.begun()
        self.change(worksheet, **{"input:price": "150000"})
        self.change(worksheet, **{"input:arv": "210000"})
        content = Worksheet.objects.get(pk=worksheet.pk).content
        self.assertEqual(content["inputs"], {"price": 150_000, "arv": 210_000})
        self.change(worksheet, do="undo")
        self.assertEqual(Worksheet.objects.get(pk=worksheet.pk).content["inputs"], {"price": 150_000})
        self.change(worksheet, do="undo")
        self.change(worksheet, do="undo")
        self.assertEqual(Worksheet.objects.get(pk=worksheet.pk).content["inputs"], {})

    def test_no_more_is_remembered_than_can_be_undone(self) -> None:
        worksheet, building = self.begun(), self.computed().recorded
        for price in range(UNDONE + 3):
            change(self.scope, worksheet.pk, lambda content, price=price: edited(content, building, "input:price", str(price)))
        self.assertEqual(len(Worksheet.objects.get(pk=worksheet.pk).before), UNDONE)
        self.assertEqual(undo(self.scope, worksheet.pk).content["inputs"], {"price": UNDONE + 1})

    def test_a_reader_changes_nothing_and_other_teams_see_nothing(self) -> None:
        worksheet = self.begun()
        with self.assertRaises(PermissionDenied):
            change(Scope(self.scope.team, self.reader(), self.scope.today), worksheet.pk, lambda content: content)
        other = User.objects.create_user("olm", password="x" * 12, team=Team.objects.create(name="Others"), role=User.Role.OWNER)
        self.client.force_login(other, backend="django.contrib.auth.backends.ModelBackend")
        for name in ("worksheet", "worksheet-pdf", "worksheet-xlsx", "worksheet-json"):
            self.assertEqual(self.client.get(reverse(f"worksheets:{name}", args=[worksheet.pk])).status_code, 404)
        self.assertEqual(self.change(worksheet, **{"input:price": "1"}).status_code, 404)
        self.assertNotIn("118 Raven", text_of(self.client.get(reverse("worksheets:compare"), {"of": str(worksheet.pk)}, follow=True)))


@at_all_hours
class KeptAndCompared(WorksheetCase):
    def test_what_changed_since_a_version_is_said_with_the_figures_of_then_and_now(self) -> None:
        worksheet = self.begun()
        keep_version(self.scope, worksheet, self.computed(), "as first seen")
        self.assertEqual([*changed_inputs(worksheet.versions.first().figures, self.computed())], [])
        cut = self.facts.list_price - 9_000
        ParcelFacts.objects.filter(pk=self.parcel.pk).update(list_price=cut)
        Listing.objects.filter(parcel=self.parcel, superseded_at=None).update(list_price=cut)
        set_defaults(self.scope, {"mortgage.rate": 7.25})
        found = self.computed()
        changed = {one.key: (one.then, one.now) for one in changed_inputs(worksheet.versions.first().figures, found)}
        self.assertEqual(changed["list-price"], (f"${self.facts.list_price:,}", f"${cut:,}"))
        self.assertEqual(changed["mortgage.rate"], ("6.75 %", "7.25 %"))
        results = {one.key for one in changed_results(worksheet.versions.first().figures, found)}
        self.assertIn("rental.flow", results)
        page = text_of(self.client.get(reverse("worksheets:worksheet", args=[worksheet.pk])))
        self.assertIn("Since version 1", page)
        self.assertIn(f"asking price ${self.facts.list_price:,} → ${cut:,}", page)

    def test_a_change_of_ones_own_is_none_of_the_record(self) -> None:
        worksheet = self.begun(inputs={"price": 140_000})
        keep_version(self.scope, worksheet, self.computed(inputs={"price": 140_000}))
        kept = worksheet.versions.first().figures
        self.assertEqual([*changed_inputs(kept, self.computed(inputs={"price": 150_000}))], [])

    def test_a_version_can_be_gone_back_to_and_compared(self) -> None:
        worksheet = self.begun(inputs={"price": 140_000})
        act = reverse("worksheets:act-on-worksheet", args=[worksheet.pk])
        self.client.post(act, {"do": "keep", "note": "first"})
        self.change(worksheet, **{"input:price": "150000"})
        self.client.post(act, {"do": "keep", "note": ""})
        page = text_of(self.client.get(reverse("worksheets:compare"), {"of": [f"{worksheet.pk}.1", f"{worksheet.pk}.2"]}))
        self.assertIn("$140,000", page)
        self.assertIn("$150,000", page)
        self.client.post(act, {"do": "go-back:1"})
        self.assertEqual(Worksheet.objects.get(pk=worksheet.pk).content["inputs"], {"price": 140_000})
        self.assertEqual(self.client.post(act, {"do": "go-back:9"}).status_code, 404)
        self.assertEqual(self.client.post(act, {"do": "keep", "note": "x" * 201}).status_code, 400)

    def test_deals_stand_by_stage_with_chosen_results(self) -> None:
        worksheet = self.begun(inputs={"price": 111_000})
        self.client.post(reverse("worksheets:act-on-worksheet", args=[worksheet.pk]), {"do": "stage", "stage": "contract"})
        self.client.post(reverse("worksheets:act-on-worksheet", args=[worksheet.pk]), {"do": "rename", "name": "The <i>corner</i>"})
        answer = self.client.get(reverse("worksheets:deals"), {"show": ["price", "rental.irr"], "sort": "-price"})
        page = text_of(answer)
        self.assertIn("Under contract", page)
        self.assertIn("$111,000", page)
        self.assertIn("IRR", page)
        self.assertContains(answer, "The &lt;i&gt;corner&lt;/i&gt;")
        self.assertEqual(
            self.client.post(reverse("worksheets:act-on-worksheet", args=[worksheet.pk]), {"do": "stage", "stage": "x"}).status_code, 400
        )

    def test_it_is_put_away_and_put_back(self) -> None:
        worksheet = self.begun()
        self.client.post(reverse("worksheets:act-on-worksheet", args=[worksheet.pk]), {"do": "delete"})
        self.assertFalse(worksheets_of(self.scope).filter(pk=worksheet.pk).exists())
        self.client.post(undo_address(worksheet))
        self.assertTrue(worksheets_of(self.scope).filter(pk=worksheet.pk).exists())

    def test_a_joined_parcel_takes_its_worksheets_along(self) -> None:
        worksheet, other = self.begun(), Parcel.objects.exclude(pk=self.parcel.pk).order_by("pk").first()
        parcel_joined(self.parcel.pk, other.pk)
        self.assertEqual(Worksheet.objects.get(pk=worksheet.pk).parcel_id, other.pk)


class Assumptions(WorksheetCase):
    def test_a_neighborhoods_own_stand_before_its_grade_and_that_before_the_team(self) -> None:
        area = self.facts.neighborhood
        AreaGrade.objects.update_or_create(team=self.scope.team, area=area, defaults={"grade": "C"})
        set_defaults(self.scope, {"rental.vacancy": 6, "buying-costs": 3, "repair-rate": 11})
        set_defaults(self.scope, {"rental.vacancy": 9, "buying-costs": 4}, grade="C")
        set_defaults(self.scope, {"rental.vacancy": 12}, area=area)
        set_defaults(self.scope, {"rental.vacancy": 1}, grade="A")
        found = {
            key: defaults_of(self.scope, Places(area.pk)).of(key)
            for key in ("rental.vacancy", "buying-costs", "repair-rate", "selling-costs")
        }
        self.assertEqual({key: (one.value, one.said) for key, one in found.items()}, {
            "rental.vacancy": (12, area.text), "buying-costs": (4, "grade C"), "repair-rate": (11, "your team"),
            "selling-costs": (7, "usual"),
        })  # fmt: skip
        many = defaults_of_many(self.scope, [Places(area.pk), Places()])
        self.assertEqual([[float(one) for one in many.of(key).value] for key in ("rental.vacancy", "buying-costs")], [[12, 6], [4, 3]])

    def test_a_share_of_the_value_for_each_market(self) -> None:
        """A county's stands before the team's, a city's before that, and a grade before both; one and many say the same."""
        here = Places(self.facts.neighborhood_id, self.facts.city_id, self.facts.county_id)
        county, city = Area.objects.get(kind="county", county=self.facts.county_id), self.facts.city
        AreaGrade.objects.update_or_create(team=self.scope.team, area=self.facts.neighborhood, defaults={"grade": "C"})
        for where, share in (({}, 70.0), ({"area": county}, 68.0), ({"area": city}, 66.0), ({"grade": "C"}, 64.0)):
            set_defaults(self.scope, {"offer.share": share}, **where)
            elsewhere = [Places(), Places(None, None, self.facts.county_id), Places(None, self.facts.city_id, self.facts.county_id)]
            with self.subTest(share=share):
                self.assertEqual(defaults_of(self.scope, here).of("offer.share").value, share)
                many = defaults_of_many(self.scope, [here, *elsewhere]).of("offer.share").value
                one_by_one = [defaults_of(self.scope, one).of("offer.share").value for one in (here, *elsewhere)]
                self.assertEqual([float(one) for one in np.broadcast_to(many, 4)], one_by_one)
        page = self.client.get(reverse("worksheets:assumptions"), {"of": f"area:{county.pk}"})
        self.assertContains(page, f"{county.text} County")
        self.assertContains(page, 'value="68"')

    def test_they_are_set_on_their_page_and_what_is_wrong_is_said(self) -> None:
        address = reverse("worksheets:assumptions") + "?of=grade:B"
        answer = self.client.post(address, {"rental.vacancy": "8", "price": "5", "bridge.rate": ""})
        self.assertEqual(answer.status_code, 302)
        self.assertEqual(WorksheetDefaults.objects.get(team=self.scope.team, grade="B").values, {"rental.vacancy": 8})
        answer = self.client.post(address, {"rental.vacancy": "800"})
        self.assertEqual(answer.status_code, 400)
        self.assertIn("goes from 0 to 100", text_of(answer))
        self.assertContains(answer, 'value="800"', status_code=400)
        self.assertTrue(Screening.objects.get(team=self.scope.team).is_waiting)
        self.assertEqual(read_values({"nonsense": "5", "rental.vacancy": " "}), {})
        with self.assertRaises(PermissionDenied):
            set_defaults(Scope(self.scope.team, self.reader(), self.scope.today), {})


class Screened(WorksheetCase):
    @thorough
    def test_every_property_for_sale_has_the_figures_of_its_own_worksheet(self) -> None:
        rows = ParcelFacts.objects.filter(status__in=ASKED_NOW, list_price__gt=0).select_related("parcel__county")
        kept = {row.parcel_id: row for row in ScreenedParcel.objects.filter(team=self.scope.team)}
        self.assertGreater(len(rows), 100)
        self.assertEqual(set(kept), {row.pk for row in rows})
        for facts in rows:
            own = {"price": float(facts.list_price)} | ({"arv": float(facts.estimated_value)} if facts.estimated_value else {})
            found = computed(Content(own=own), facts.parcel, self.scope)
            row = kept[facts.pk]
            for name, key in (
                ("cap_rate", "rental.cap"), ("cash_on_cash", "rental.return"), ("highest_offer", "highest-offer"),
                ("value_needed", "value-needed"),
            ):  # fmt: skip
                said = found.figures.number(found.figures.sheet.cells[key])
                if name == "highest_offer" and not facts.estimated_value:
                    said = None
                self.assertEqual(said is None, getattr(row, name) is None, (facts.pk, name))
                if said is not None:
                    self.assertAlmostEqual(getattr(row, name), said, delta=0.5001 if "-" in key else 0.0051, msg=name)
            net = found.seller.values.number(found.seller.net)
            if row.net_to_seller is not None and net is not None:
                self.assertAlmostEqual(row.net_to_seller, net, delta=len(found.seller.payoffs) + 2)
            if facts.estimated_value:
                self.assertEqual(row.discount_to_value, round(100 * (facts.estimated_value - facts.list_price) / facts.estimated_value, 2))

    def test_a_search_asks_for_it_and_says_of_which_it_is_not_computed(self) -> None:
        known = ScreenedParcel.objects.filter(team=self.scope.team)
        answer = Answer(SearchPage(parse("cap-rate: 5..")), self.scope)
        self.assertEqual(answer.balance.matches, known.filter(cap_rate__gte=5).count())
        self.assertGreater(answer.balance.matches, 0)
        self.assertEqual(Answer(SearchPage(parse("cap-rate: ..5")), self.scope).balance.matches, known.filter(cap_rate__lte=5).count())
        for text, rows in (
            ("discount-to-value: 3..8", known.filter(discount_to_value__gte=3, discount_to_value__lte=8)),
            ("cap-rate: not 5..", known.filter(cap_rate__lt=5)), ("highest-offer: 50k..", known.filter(highest_offer__gte=50_000)),
        ):  # fmt: skip
            self.assertEqual(Answer(SearchPage(parse(text)), self.scope).balance.matches, rows.count(), text)
        unknown = ParcelFacts.objects.count() - known.filter(cap_rate__isnull=False).count()
        self.assertEqual(Answer(SearchPage(parse("cap-rate: unknown")), self.scope).balance.matches, unknown)

    def test_figures_are_explained_by_the_arithmetic(self) -> None:
        row = ScreenedParcel.objects.filter(team=self.scope.team, cap_rate__isnull=False).order_by("pk").first()
        for key in ("cap-rate", "cash-on-cash", "highest-offer", "value-needed", "discount-to-value", "net-to-seller"):
            page = text_of(self.client.get(reverse("properties:explained", args=[row.parcel_id, key])))
            self.assertIn("$", page, key)
        other = ParcelFacts.objects.filter(status=None).order_by("pk").first()
        self.assertIn("not computed", text_of(self.client.get(reverse("properties:explained", args=[other.pk, "cap-rate"]))))

    def test_a_list_that_is_marked_is_screened_too(self) -> None:
        ids = list(ParcelFacts.objects.filter(status=None, estimated_value__isnull=False).order_by("pk").values_list("pk", flat=True)[:5])
        which = lists.make_list(self.scope, "Off market")
        lists.add(self.scope, which, ids)
        self.client.post(reverse("worksheets:screen-list", args=[which.pk]), {"do": "screen"})
        self.assertIn(self.scope.team.pk, waiting())
        self.assertTrue(set(ids) <= set(to_screen(self.scope).values_list("pk", flat=True)))
        screen_team(self.scope.team.pk)
        rows = ScreenedParcel.objects.filter(team=self.scope.team, parcel__in=ids)
        self.assertEqual({row.cap_rate for row in rows}, {None})
        self.assertTrue(any(row.net_to_seller is not None for row in rows))
        self.assertNotIn(self.scope.team.pk, waiting())
        mark_list(self.scope, which, is_marked=False)
        screen_team(self.scope.team.pk)
        self.assertFalse(ScreenedParcel.objects.filter(team=self.scope.team, parcel__in=ids).exists())

    def test_it_is_due_when_facts_or_the_day_are_newer(self) -> None:
        self.assertEqual(ask_where_due(), 0)
        Screening.objects.filter(team=self.scope.team).update(facts_version=-1)
        ask_to_screen(timestamp=0)
        self.assertEqual(waiting(), {self.scope.team.pk})
        self.assertEqual(ask_where_due(), 0)

    def test_nothing_to_screen_is_nothing(self) -> None:
        many = recorded_parcels(ParcelFacts.objects.none())
        self.assertEqual((list(many.ids), screened(many, self.scope)), ([], []))
        self.assertTrue(np.isnan(recorded(Parcel(pk=0))[0].list_price))


class TakenOut(WorksheetCase):
    def test_a_printed_worksheet_says_what_the_page_says(self) -> None:
        worksheet = self.begun(inputs={"price": 140_000}, exits=[str(one) for one in Exit])
        answer = self.client.get(reverse("worksheets:worksheet-pdf", args=[worksheet.pk]))
        text = " ".join(page.extract_text() for page in PdfReader(io.BytesIO(answer.content)).pages)
        for words in ("118 Raven St", "$140,000", "Flip", "Sell units separately", "net to seller", "IRR"):
            self.assertIn(words, text)

    def test_a_spreadsheet_has_formulas_and_no_name_is_run_as_one(self) -> None:
        worksheet = self.begun(units=[{"name": "=cmd|' /C calc'!A0", "rent": 500, "market": 600}, {"rent": 400, "market": 500}])
        book = load_workbook(io.BytesIO(self.client.get(reverse("worksheets:worksheet-xlsx", args=[worksheet.pk])).content))
        labels = [cell for row in book["Inputs"].iter_rows(min_col=1, max_col=1) for cell in row if cell.value]
        self.assertTrue(any(str(cell.value).startswith("=cmd") for cell in labels))
        self.assertTrue(all(cell.data_type == "s" for cell in labels))
        formulas = [cell.value for row in book["Figures"].iter_rows(min_row=4, min_col=2, max_col=2) for cell in row]
        self.assertTrue(all(str(one).startswith("=IFERROR(") for one in formulas))

    def test_what_is_written_is_read_again(self) -> None:
        worksheet = self.begun(inputs={"price": 140_000}, rents="market")
        answer = self.client.get(reverse("worksheets:worksheet-json", args=[worksheet.pk]))
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "worksheet.json"
            path.write_bytes(answer.content)
            told = self.command(str(path), "--format", "json")
        found = self.computed(inputs={"price": 140_000}, rents="market")
        self.assertEqual(told["exits"]["rental"]["results"]["rental.cap"], found.figures.number(found.figures.sheet.cells["rental.cap"]))
        self.assertEqual(told["inputs"]["price"], {"value": 140_000, "origin": str(Origin.YOURS), "from": "as you set it"})

    def command(self, *arguments: str) -> Any:
        out = io.StringIO()
        call_command("worksheet", *arguments, stdout=out)
        return json.loads(out.getvalue())

    def test_the_command_keeps_and_writes_what_the_page_keeps(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "worksheet.json"
            path.write_text(json.dumps({"exits": ["rental"], "inputs": {"price": 150_000}}))
            told = self.command(str(path), "--parcel", NUMBER, "--keep", "--format", "json")
            kept = Worksheet.objects.get(pk=told["worksheet"])
            self.assertEqual(kept.content["inputs"], {"price": 150_000})
            self.assertEqual(told["exits"]["rental"]["solved"].keys(), {"rental.return", "rental.cover", "rental.cap"})
            written = self.command("--written", str(kept.pk))
            self.assertEqual({name: written[name] for name in kept.content}, kept.content)
            path.write_text(json.dumps({"exits": ["rental"], "inputs": {"price": 168_000, "taxes": 5_140}, "units": [{"rent": 610}]}))
            out = io.StringIO()
            call_command("worksheet", str(path), stdout=out)
            self.assertIn("Rental", out.getvalue())

    def test_the_command_says_what_is_wrong(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "worksheet.json"
            for text, words in (
                ("{", "is not JSON"), ("[]", "holds no worksheet"), ('{"exits": []}', "at least one exit"),
                ('{"parcel": "99-9"}', "no parcel"),
                ('{"inputs": {"price": "x"}}', "price is a number"), ("[" * 100_000, "is not JSON"), (" " * 1_000_001, "is longer than"),
            ):  # fmt: skip
                path.write_text(text)
                with self.assertRaisesRegex(CommandError, words):
                    call_command("worksheet", str(path))
        for arguments, words in ((["/nowhere"], "can't be read"), ([], "name a file"), (["--written", "0"], "keeps no worksheet 0")):
            with self.assertRaisesRegex(CommandError, words):
                call_command("worksheet", *arguments)

    def test_a_figure_opens_to_its_arithmetic(self) -> None:
        worksheet = self.begun(inputs={"price": 140_000})
        page = text_of(self.client.get(reverse("worksheets:figure", args=[worksheet.pk, "buying"])))
        self.assertIn("$140,000 × 2.5 % = $3,500", page)
        page = text_of(self.client.get(reverse("worksheets:figure", args=[worksheet.pk, "seller.net"])))
        self.assertIn("Net to seller", page)
        self.assertEqual(self.client.get(reverse("worksheets:figure", args=[worksheet.pk, "nonsense"])).status_code, 404)

    def test_an_error_of_the_content_is_said(self) -> None:
        with self.assertRaises(InputError):
            worksheet_from_json({"inputs": {"price": -1}})
