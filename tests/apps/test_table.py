"""The table: its columns and their sets, what it is sorted by, and rows taken out by hand."""

from __future__ import annotations

import statistics
from datetime import date
from urllib.parse import urlencode

from django.core.exceptions import PermissionDenied
from django.urls import reverse

from jaded_ledger.accounts.models import Team, User
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.search import Search
from jaded_ledger.core.criteria.text import CriteriaError, parse
from jaded_ledger.find.answer import Answer
from jaded_ledger.find.by_a_hair import near_misses, near_misses_of_all
from jaded_ledger.find.column_sets import ColumnSetError, column_sets, columns_of_set, keep_set, remove_set
from jaded_ledger.find.columns import USUAL, fitting, moved, shown_columns, width_of
from jaded_ledger.find.compiler import compile
from jaded_ledger.find.models import RowByHand, RowsByHand
from jaded_ledger.find.rows_by_hand import MOST, is_taken_out, join_parcels, line_without, rows_of
from jaded_ledger.find.search_page import SearchPage
from jaded_ledger.find.sorting import in_order, sorts_from, sorts_text
from jaded_ledger.records.models import Parcel, ParcelFacts
from tests.support.demo import DemoTestCase

IDENTITY = 292


class Columns(DemoTestCase):
    def test_as_many_as_there_is_room_for(self) -> None:
        widths = [width_of(CATALOGUE[key]) for key in USUAL]
        for count in range(2, len(USUAL) + 1):
            exact = IDENTITY + sum(widths[:count])
            self.assertEqual(fitting(USUAL, exact), USUAL[:count])
            self.assertEqual(fitting(USUAL, exact - 1), USUAL[: max(2, count - 1)])
        self.assertEqual(fitting(USUAL, 0), USUAL[:2])
        self.assertEqual(fitting((), 0), ())

    def test_those_chosen_are_shown_however_many(self) -> None:
        page = SearchPage(parse(""), USUAL, room=300)
        self.assertEqual(shown_columns(page, self.scope), USUAL)
        self.assertEqual(shown_columns(SearchPage(parse(""), ()), self.scope), ())

    def test_one_is_put_before_another(self) -> None:
        self.assertEqual(moved(("a", "b", "c"), "c", "a"), ("c", "a", "b"))
        self.assertEqual(moved(("a", "b", "c"), "a", "c"), ("b", "a", "c"))
        self.assertEqual(moved(("a", "b", "c"), "a", "end"), ("b", "c", "a"))
        self.assertEqual(moved(("a", "b", "c"), "b", "b"), ("a", "c", "b"))

    def change(self, do: str, **query: str) -> str:
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")
        answer = self.client.get(reverse("find:change"), {"do": do} | query, headers={"HX-Request": "true"})
        return answer["HX-Push-Url"]

    def test_acts_on_columns(self) -> None:
        at = {"columns": "beds,baths,units", "q": "beds: 3.."}
        kept = "/?q=beds%3A%203..&columns="
        self.assertEqual(self.change("hide:baths", **at), f"{kept}beds%2Cunits")
        self.assertEqual(self.change("place:units:beds", **at), f"{kept}units%2Cbeds%2Cbaths")
        self.assertEqual(self.change("place:beds:end", **at), f"{kept}baths%2Cunits%2Cbeds")
        self.assertEqual(self.change("place:garage:beds", **at), f"{kept}beds%2Cbaths%2Cunits")
        self.assertEqual(self.change("show:baths,garage", **at), f"{kept}beds%2Cbaths%2Cunits%2Cgarage")
        self.assertEqual(self.change("column-set:usual", **at), "/?q=beds%3A%203..")
        # What fits in that window, and the new one.
        self.assertEqual(self.change("show:beds", room="500"), "/?columns=owner-name%2Clast-sale%2Cbeds")


class Sets(DemoTestCase):
    def test_kept_shown_first_and_removed(self) -> None:
        reader = User.objects.create_user("reads", password="x", team=self.scope.team, role=User.Role.READER)
        as_reader = Scope(self.scope.team, reader, self.scope.today)
        mine = Scope(self.scope.team, self.user, self.scope.today)
        teams = keep_set(mine, "  Mailing ", ("owner-name", "beds"), of_team=True, is_default=True)
        self.assertEqual(teams.name, "Mailing")
        bare = SearchPage(parse(""), room=5_000)
        self.assertEqual(shown_columns(bare, as_reader), ("owner-name", "beds"))
        own = keep_set(as_reader, "Mailing", ("units",), of_team=False, is_default=True)
        self.assertEqual(shown_columns(bare, as_reader), ("units",))
        self.assertEqual(shown_columns(bare, mine), ("owner-name", "beds"))
        # The same name again holds other columns; of defaults there is one.
        keep_set(mine, "Mailing", ("baths",), of_team=True, is_default=False)
        self.assertEqual(shown_columns(bare, mine), USUAL)
        self.assertEqual(columns_of_set(str(teams.pk), mine), ("baths",))
        self.assertEqual([kept.pk for kept in column_sets(mine)], [teams.pk])
        self.assertCountEqual([kept.pk for kept in column_sets(as_reader)], [teams.pk, own.pk])
        with self.assertRaises(PermissionDenied):
            keep_set(as_reader, "Theirs", ("beds",), of_team=True, is_default=False)
        with self.assertRaises(PermissionDenied):
            remove_set(as_reader, str(teams.pk))
        self.assertEqual(remove_set(as_reader, str(own.pk)).columns, ["units"])
        for name, columns in (("", ("beds",)), ("x" * 61, ("beds",)), ("Empty", ())):
            with self.assertRaises(ColumnSetError):
                keep_set(mine, name, columns, of_team=False, is_default=False)
        keep_set(mine, "x" * 60, ("beds",), of_team=False, is_default=False)

    def test_on_the_page(self) -> None:
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")
        address = reverse("find:column-sets")
        said = self.client.post(address, {"name": "<b>Mine</b>", "columns": "beds,units", "keep": "1", "is_default": "1"})
        self.assertContains(said, "&lt;b&gt;Mine&lt;/b&gt;")
        self.assertContains(said, "2 columns")
        kept = column_sets(Scope(self.scope.team, self.user, self.scope.today)).get()
        self.assertContains(self.client.get("/", {"q": "beds: 2.."}), 'data-column="units"')
        gone = self.client.post(address, {"remove": str(kept.pk)})
        self.assertContains(gone, "is removed")
        back = self.client.post(address, {"put_back": "1", "its_name": kept.name, "its_columns": "beds,units", "its_default": "1"})
        self.assertContains(back, "is saved")
        self.assertContains(self.client.post(address, {"name": " ", "columns": "beds"}), "Give the columns a name")
        self.assertEqual(self.client.post(address, {"remove": "999999"}).status_code, 404)


class Sorting(DemoTestCase):
    def test_by_several_the_first_decides(self) -> None:
        parcels = compile(parse("county: Odell Marsh"), self.scope).matches
        rows = list(
            in_order(parcels, "class,-beds,owner-name").values_list("property_class", "beds", "owner_name__folded", "parcel_number")
        )
        self.assertEqual(
            rows, sorted(rows, key=lambda r: (r[0] is None, r[0] or 0, r[1] is None, -(r[1] or 0), r[2] is None, r[2] or "", r[3]))
        )

    def test_what_is_no_sort(self) -> None:
        self.assertEqual(sorts_text(sorts_from(" -beds, baths ,-beds,, ")), "-beds,baths")
        with self.assertRaisesMessage(CriteriaError, "did you mean"):
            sorts_from("bedz")
        with self.assertRaisesMessage(CriteriaError, "at most 5"):
            sorts_from("beds,baths,units,garage,stories,year-built")
        self.assertEqual(len(sorts_from("beds,baths,units,garage,stories")), 5)

    def test_headings_turn_and_add(self) -> None:
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")
        page = self.client.get("/", {"columns": "beds,owner-name", "sort": "-beds,owner-name"}).content.decode()
        self.assertIn('value="beds"\ndata-also="beds,owner-name"', page)
        self.assertIn('value="-owner-name"\ndata-also="-beds,-owner-name"', page)
        self.assertIn('value="street"\ndata-also="-beds,owner-name,street"', page)


class TakenOutByHand(DemoTestCase):
    def setUp(self) -> None:
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")
        self.mine = Scope(self.scope.team, self.user, self.scope.today)
        self.ids = list(compile(parse("class: triplex"), self.scope).matches.order_by("pk").values_list("pk", flat=True)[:4])

    def act(self, do: str, q: str) -> str:
        answer = self.client.post(reverse("find:change"), {"do": do, "q": q}, headers={"HX-Request": "true"})
        self.assertEqual(answer.status_code, 200)
        self.assertIn("HX-Push-Url", answer, answer.content.decode()[:500])
        return answer.context["text"]

    def test_a_line_of_the_search_leaves_them_out(self) -> None:
        before = compile(parse("class: triplex"), self.scope).matches.count()
        text = self.act(f"take-out:{self.ids[0]},{self.ids[1]}", "class: triplex")
        search = parse(text)
        answer = Answer(SearchPage(search), self.mine)
        self.assertEqual(answer.balance.matches, before - 2)
        self.assertEqual(answer.balance.lines[1].removed, 2)
        self.assertEqual(answer.balance.lines[1].unknown, 0)
        self.assertFalse(set(self.ids[:2]) & set(answer.matches.values_list("pk", flat=True)))
        line = search.lines[1]
        self.assertTrue(is_taken_out(line))
        self.assertEqual({row.who for row in rows_of(line, self.scope.team)}, {str(self.user)})
        # One more is in the same line; the one before is still there for who goes back.
        more = self.act(f"take-out:{self.ids[2]}", text)
        self.assertEqual(len(parse(more).lines), 2)
        self.assertEqual(Answer(SearchPage(parse(more)), self.mine).balance.matches, before - 3)
        self.assertEqual(Answer(SearchPage(search), self.mine).balance.matches, before - 2)
        # Put back one by one: the same rows are the same line again, and without a row there is none.
        self.assertEqual(self.act(f"put-back:{self.ids[2]}", more), text)
        less = self.act(f"put-back:{self.ids[0]}", text)
        self.assertIn("the one taken out by hand", less)
        self.assertEqual(self.act(f"put-back:{self.ids[1]}", less), "class: triplex")

    def test_the_same_act_sent_twice_is_one(self) -> None:
        text = self.act(f"take-out:{self.ids[0]}", "class: triplex")
        self.assertEqual(self.act(f"take-out:{self.ids[0]}", text), text)
        self.assertEqual(RowsByHand.objects.count(), 1)

    def test_which_by_whom_and_when(self) -> None:
        text = self.act(f"take-out:{self.ids[0]},{self.ids[1]}", "class: triplex")
        page = self.client.get(f"{reverse('find:by-hand')}?{urlencode({'q': text, 'line': 1})}")
        self.assertContains(page, f"by {self.user}")
        for pk in self.ids[:2]:
            self.assertContains(page, f"put-back:{pk}")
        self.assertEqual(self.client.get(reverse("find:by-hand"), {"q": "class: triplex", "line": 0}).status_code, 404)

    def test_turned_round_it_shows_them(self) -> None:
        text = self.act(f"take-out:{self.ids[0]}", "class: triplex")
        turned = self.act("turn:1", text)
        self.assertEqual(list(Answer(SearchPage(parse(turned)), self.mine).matches.values_list("pk", flat=True)), [self.ids[0]])

    def test_another_teams_are_not_there(self) -> None:
        text = self.act(f"take-out:{self.ids[0]}", "class: triplex")
        other = Scope(Team.objects.create(name="Others"), None, self.scope.today)
        with self.assertRaisesMessage(CriteriaError, "your team has taken out no such rows in any of its searches"):
            compile(parse(text), other)

    def test_too_many_are_a_criterion(self) -> None:
        ids = list(Parcel.objects.values_list("pk", flat=True)[: MOST + 1])
        with self.assertRaisesMessage(CriteriaError, "add a criterion"):
            line_without(self.mine, None, ids)
        self.assertIsNotNone(line_without(self.mine, None, ids[:MOST]))
        self.assertIsNone(line_without(self.mine, None, []))
        self.assertIsNone(line_without(self.mine, None, [-1]))

    def test_a_parcel_that_was_joined_stays_out(self) -> None:
        first, second, third, _ = self.ids
        line = line_without(self.mine, None, [first, second])
        join_parcels(first, third)
        self.assertCountEqual(rows_of(line, self.scope.team).values_list("parcel_id", flat=True), [second, third])
        join_parcels(second, third)
        self.assertEqual(list(RowByHand.objects.values_list("parcel_id", flat=True)), [third])


class ByOwner(DemoTestCase):
    SEARCH = "owner-occupied: no\nclass: single-family"

    def answer(self, **more) -> Answer:
        return Answer(SearchPage(parse(self.SEARCH), by="owner", **more), self.scope)

    def test_every_match_stands_beneath_its_owner_once(self) -> None:
        first = self.answer(columns=("assessed-value", "beds", "year-built", "class", "city", "owner-occupied", "county"))
        held = [pk for page in range(1, first.pages + 1) for row in self.answer(columns=(), page=page).owner_rows for pk in row.parcel_ids]
        self.assertEqual(len(held), len(set(held)))
        self.assertEqual(set(held), set(first.matches.values_list("pk", flat=True)))
        counts = [row.parcels for row in first.owner_rows]
        self.assertEqual(counts, sorted(counts, reverse=True))
        self.assertEqual(first.rows_there, first.owners + first.matches.filter(owner=None).exists())
        for row in first.owner_rows[:12]:
            facts = ParcelFacts.objects.filter(pk__in=row.parcel_ids)
            self.assertEqual({one.owner_id for one in facts}, {row.owner_id})
            told = {cell.trait: cell.text for cell in row.cells}
            # Sums, a median, and what they have in common.
            known = [one.assessed_value for one in facts if one.assessed_value is not None]
            self.assertEqual(told["assessed-value"], f"${sum(known):,}")
            built = [one.year_built for one in facts if one.year_built is not None]
            self.assertAlmostEqual(float(told["year-built"].replace("·", "0")), statistics.median(built) if built else 0)
            self.assertEqual(told["class"], "single-family")
            self.assertEqual(told["owner-occupied"], f"0 of {len(facts)}")
            cities = {one.city.text for one in facts if one.city_id}
            self.assertEqual(told["city"], f"{len(cities)} different" if len(cities) > 1 else cities.pop() if cities else "·")
            self.assertEqual(len(self.answer(columns=()).rows_of_owner(row.owner_id)), min(row.parcels, 200))

    def test_sorted_by_a_sum_and_by_name(self) -> None:
        rows = self.answer(columns=("assessed-value",), sort="assessed-value").owner_rows
        sums = [int(row.cells[0].text.replace("$", "").replace(",", "")) for row in rows if row.cells[0].text != "·"]
        self.assertEqual(sums, sorted(sums))
        names = [row.name for row in self.answer(columns=("owner-name",), sort="owner-name").owner_rows]
        self.assertEqual(names, sorted(names, key=str.casefold))

    def test_on_the_page(self) -> None:
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")
        columns = "assessed-value,last-sale-price,last-sale,city"
        page = self.client.get("/", {"q": self.SEARCH, "by": "owner", "columns": columns})
        self.assertContains(page, "Owner and parcels")
        # A heading says what its column is of several parcels.
        labels = ["assessed value, total", "last sale price, total", "last sale, median", "city"]
        self.assertEqual([heading.label for heading in page.context["headings"]], labels)
        self.assertContains(page, "Last sale price, total")
        alone = self.client.get("/", {"q": self.SEARCH, "columns": columns})
        self.assertEqual([heading.label for heading in alone.context["headings"]][1], "last sale price")
        first = self.answer(columns=()).owner_rows[0]
        beneath = self.client.get(reverse("find:parcels-of-owner"), {"q": self.SEARCH, "owner": str(first.owner_id)})
        self.assertEqual(beneath.content.decode().count("<tr data-parcel="), min(first.parcels, 200))
        self.assertContains(self.client.get("/", {"q": "beds: 40..", "by": "owner"}), "Nothing is left after")


class ByAHair(DemoTestCase):
    """What one line alone takes off, against what is computed parcel by parcel."""

    TEXT = "class: triplex\nequity-pct: 60..\nlast-sale: more than 5 years ago"

    def setUp(self) -> None:
        super().setUp()
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")

    def missed(self, place: int) -> dict[int, ParcelFacts]:
        """Return the parcels that all lines but one leave, and that one does not."""
        search = parse(self.TEXT)
        others = Search((), tuple(line for number, line in enumerate(search.lines) if number != place))
        found = set(compile(search, self.scope).matches.values_list("pk", flat=True))
        return {one.pk: one for one in compile(others, self.scope).matches if one.pk not in found}

    def test_the_nearest_first_and_the_unknown_last(self) -> None:
        wanted = self.missed(1)
        told = near_misses(parse(self.TEXT), 1, self.scope)
        self.assertEqual({one.parcel_id for one in told}, set(wanted))
        shares = [wanted[one.parcel_id].equity_pct for one in told]
        known = [one for one in shares if one is not None]
        self.assertEqual(shares, sorted(known, reverse=True) + [None] * (len(shares) - len(known)))
        for one, share in zip(told, known, strict=False):
            self.assertAlmostEqual(float(one.distance or 0), float((60 - share) / 60))
        self.assertRegex(told[0].why, r"^equity % 5\d(\.\d+)? % where 60 % or more is asked$")

    def test_days_count_in_years(self) -> None:
        wanted = self.missed(2)
        limit = date(2021, 11, 23)
        told = [one for one in near_misses(parse(self.TEXT), 2, self.scope) if one.distance is not None]
        self.assertEqual(
            [round(float(one.distance) * 365) for one in told], [(wanted[one.parcel_id].last_sale - limit).days for one in told]
        )
        self.assertEqual(sorted(told, key=lambda one: one.distance), told)

    def test_at_the_limit_there_is_nothing_to_miss(self) -> None:
        self.assertEqual(near_misses(parse("beds: 0..99 or not known"), 0, self.scope), [])
        self.assertEqual(near_misses(parse("~ beds: 40.."), 0, self.scope), [])
        self.assertEqual(near_misses(parse("beds: ask"), 0, self.scope), [])
        # Both ends of a range, and one range or another.
        told = near_misses(parse("class: triplex\nyear-built: 1900..1905, 1950..1955"), 1, self.scope)
        apart = [one.distance for one in told if one.distance is not None]
        self.assertEqual(apart, sorted(apart))
        years = dict(ParcelFacts.objects.filter(pk__in=[one.parcel_id for one in told]).values_list("pk", "year_built"))
        self.assertEqual({years[one.parcel_id] for one in told[:2]} & {*range(1900, 1906), *range(1950, 1956)}, set())

    def test_of_a_line_without_a_limit_they_stand_in_any_order(self) -> None:
        told = near_misses(parse("class: triplex\npool: yes"), 1, self.scope)
        self.assertTrue(told)
        self.assertEqual({one.distance for one in told}, {None})

    def test_of_all_lines_together(self) -> None:
        told = near_misses_of_all(parse(self.TEXT), self.scope)
        apart = [one.distance for one in told]
        self.assertEqual(apart, sorted(apart))
        self.assertLessEqual(len(told), 50)
        self.assertEqual({one.line for one in told}, {1, 2})

    def test_a_row_is_kept_with_its_reason_and_no_longer(self) -> None:
        near = near_misses(parse(self.TEXT), 1, self.scope)
        before = compile(parse(self.TEXT), self.scope).matches.count()

        def act(text: str, do: str, **query: str) -> str:
            sent = {"q": text, "do": do} | query
            answer = self.client.post(reverse("find:change"), sent, headers={"HX-Request": "true"})
            return answer.context["text"]

        first, second = near[0].parcel_id, near[1].parcel_id
        text = act(self.TEXT, f"keep:1:{first}", **{f"reason-{first}": "  the <b>roof</b>   is new "})
        found = compile(parse(text), self.scope).matches
        self.assertEqual(found.count(), before + 1)
        self.assertIn(first, found.values_list("pk", flat=True))
        self.assertEqual(len(parse(text).lines), 3)
        # Without a word of one's own the reason is how it fails.
        both = act(text, f"keep:1:{second}", **{f"told-{second}": near[1].why})
        self.assertEqual(compile(parse(both), self.scope).matches.count(), before + 2)
        rows = {row.parcel_id: row.reason for row in rows_of(parse(both).lines[1], self.scope.team)}
        self.assertEqual(rows, {first: "the <b>roof</b> is new", second: near[1].why})
        panel = self.client.get(reverse("find:by-hand"), {"q": both, "line": 1})
        self.assertContains(panel, "the &lt;b&gt;roof&lt;/b&gt; is new")
        self.assertContains(panel, "Rows kept by hand")
        # Kept ones are no longer missed; the others are.
        self.assertNotIn(first, {one.parcel_id for one in near_misses(parse(both), 1, self.scope)})
        self.assertEqual(act(both, f"no-longer-keep:1:{second}"), text)
        self.assertEqual(act(text, f"no-longer-keep:1:{first}"), self.TEXT)
        self.assertEqual(act(self.TEXT, f"no-longer-keep:1:{first}"), self.TEXT)

    def test_on_the_page(self) -> None:
        page = self.client.get(reverse("find:nearly"), {"q": self.TEXT, "line": 1})
        self.assertContains(page, "where 60 % or more is asked")
        self.assertContains(self.client.get(reverse("find:nearly"), {"q": self.TEXT}), "one line or another alone")
        self.assertEqual(self.client.get(reverse("find:nearly"), {"q": self.TEXT, "line": 3}).status_code, 404)
        self.assertContains(self.client.get(reverse("find:nearly"), {"q": "~ beds: 3..", "line": 0}), "no parcel fails by")
        self.assertContains(self.client.get("/", {"q": self.TEXT}), "by a hair")
