"""Lists put together, what has come about of their rows, the marks on Find's rows, and the stages a team names itself."""

from __future__ import annotations

import csv
import io
import random
import zipfile
from collections import Counter
from datetime import date
from unittest import mock

import openpyxl
from django.contrib.messages import get_messages
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection, transaction
from django.test.utils import CaptureQueriesContext
from django.urls import reverse
from hypothesis import given, settings
from hypothesis import strategies as st

from jaded_ledger.accounts.models import User
from jaded_ledger.accounts.scope import Scope, scope_of_command
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.catalogue.choices import STATUSES, key_of
from jaded_ledger.core.criteria.text import CriteriaError, format, parse
from jaded_ledger.core.market.listings import StandardStatus
from jaded_ledger.core.ownership.kinds import OwnerKind
from jaded_ledger.core.stacking.changes_since import SinceAdded, StateNow, StateThen
from jaded_ledger.core.stacking.changes_since import changes_since as told_by_core
from jaded_ledger.core.stacking.combining import ways
from jaded_ledger.find.compiler import compile
from jaded_ledger.find.explanations import explained
from jaded_ledger.find.models import Selection
from jaded_ledger.find.named_things import search_from
from jaded_ledger.lists import services
from jaded_ledger.lists.changes_since import with_change
from jaded_ledger.lists.counts import counted, current, exactly, retired
from jaded_ledger.lists.import_members import ImportedMembers, import_file
from jaded_ledger.lists.messages import ListError
from jaded_ledger.lists.models import Activity, Membership, ParcelList, Stage, StageEntry
from jaded_ledger.lists.owners_with_several import owners_with_several
from jaded_ledger.lists.stages import STAGES, add_stage, give_up_stage, move_stage, rename_stage, stage_counts, stages_of
from jaded_ledger.records.models import Parcel, ParcelFacts
from jaded_ledger.records.versions import put_up_version
from tests.support.demo import DemoTestCase
from tests.support.tiers import thorough


class StackCase(DemoTestCase):
    def setUp(self) -> None:
        self.scope = scope_of_command()
        self.parcels = list(ParcelFacts.objects.order_by("pk").values_list("pk", flat=True)[:400])
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")

    def ask(self, text: str) -> set[int]:
        return set(compile(search_from(text, self.scope.team), self.scope).matches.values_list("pk", flat=True))


class Combined(StackCase):
    @thorough
    def test_counts_and_set_arithmetic_are_those_of_sets(self) -> None:
        @settings(max_examples=20, deadline=None)
        @given(st.lists(st.sets(st.integers(0, 30)), min_size=2, max_size=4), st.booleans())
        def check(sets: list[set[int]], with_stale: bool) -> None:
            with transaction.atomic():
                self.check_sets([{self.parcels[place] for place in one} for one in sets], with_stale=with_stale)
                transaction.set_rollback(True)

        check()

    def check_sets(self, mine: list[set[int]], *, with_stale: bool) -> None:
        names = [f"Set {place}, “{place}”" for place in range(len(mine))]
        made = [services.make_list(self.scope, name, type=ParcelList.Type.REASON) for name in names]
        for one, ids in zip(made, mine, strict=True):
            services.add(self.scope, one, ids)
        self.assertEqual([current([one]).count() for one in made], [len(ids) for ids in mine])
        masks = Counter(sum(1 << place for place, ids in enumerate(mine) if pk in ids) for pk in set().union(*mine))
        self.assertEqual(exactly(made, with_stale=with_stale), masks)
        wanted = {"any": set().union(*mine), "all": set.intersection(*mine)}
        for place, ids in enumerate(mine):
            wanted[f"only-{place}"] = ids - set().union(*(other for at, other in enumerate(mine) if at != place))
        for way in ways(names, with_stale=with_stale):
            found = compile(way.search, self.scope)
            self.assertEqual(set(found.matches.values_list("pk", flat=True)), wanted[way.key], way.reads)
            # As text it is the same search.
            self.assertEqual(parse(format(way.search)), way.search)

    def test_counts_are_remembered_until_something_changes(self) -> None:
        # With names so long that no key of a cache could hold them.
        one, other = (services.make_list(self.scope, f"{name * 70}") for name in ("é", "“"))
        services.add(self.scope, one, self.parcels[:9])
        services.add(self.scope, other, self.parcels[6:12])
        address = reverse("lists:combine") + f"?list={one.pk}&list={other.pk}"
        pages = [reverse("lists:all"), reverse("lists:list", args=[one.pk]), address, reverse("lists:overlap")]

        def asked() -> int:
            with CaptureQueriesContext(connection) as queries:
                for page in pages:
                    self.client.get(page)
            return sum("count(" in query["sql"].casefold() and "membership" in query["sql"] for query in queries)

        def shown() -> tuple[int, int, int]:
            count = next(each.count for each in counted(self.scope.team) if each.list == one)
            found = self.client.get(address).context["found"]
            return count, found[0].parcels, exactly([one, other]).get(3, 0)

        self.assertEqual(shown(), (9, 12, 3))
        self.assertGreater(asked(), 3)
        # The number at a list's head is read from its rows each time.
        self.assertLessEqual(asked(), 1)
        done = services.remove(self.scope, one, self.parcels[:2])
        self.assertEqual(shown(), (7, 10, 3))
        services.undo(self.scope, done)
        self.assertEqual(shown(), (9, 12, 3))
        Parcel.objects.filter(pk=self.parcels[8]).update(retired_on=date(2026, 11, 20))
        put_up_version([])
        self.assertEqual(shown(), (8, 11, 2))

    def test_into_a_new_list(self) -> None:
        one, other = (services.make_list(self.scope, name, type=ParcelList.Type.REASON) for name in ("One", "Other"))
        services.add(self.scope, one, self.parcels[:50])
        services.add(self.scope, other, self.parcels[30:80])
        address = reverse("lists:combine")
        page = self.client.get(f"{address}?list={one.pk}&list={other.pk}")
        self.assertEqual([each.parcels for each in page.context["found"]], [80, 20, 30, 30])
        for each in page.context["found"]:
            self.assertEqual(self.client.get(each.find).context["balance"].matches, each.parcels)
        lists = [str(one.pk), str(other.pk)]
        made = self.client.post(address, {"list": lists, "how": "only-0", "name": "One alone"}, follow=True)
        self.assertContains(made, "made of 30 parcels")
        kept = ParcelList.objects.get(name="One alone")
        self.assertEqual(set(current([kept]).values_list("parcel", flat=True)), set(self.parcels[:30]))
        # It is no further reason, and its rows say where they come from.
        self.assertEqual(kept.type, ParcelList.Type.WORKING_SET)
        self.assertEqual(self.ask(kept.memberships.first().added.search), set(self.parcels[:30]))
        self.assertEqual(self.ask("working-sets-held: 1"), set(self.parcels[:30]))
        taken = self.client.post(address, {"list": lists, "how": "any", "name": "one ALONE"})
        self.assertContains(taken, "already", status_code=400)
        self.assertContains(taken, "one ALONE", status_code=400)
        # Undone, the list is gone.
        services.undo(self.scope, kept.made)
        self.assertEqual(current([kept]).filter(list__deleted=None).count(), 0)

    def test_a_stale_row_is_no_fresh_one_by_being_combined(self) -> None:
        lists = [one.list for one in counted(self.scope.team) if one.list.name in ("Absentee, Harbour", "Owned 20 years or more")]
        address = f"{reverse('lists:combine')}?{'&'.join(f'list={parcel_list.pk}' for parcel_list in lists)}"
        fresh, every = (self.client.get(f"{address}{more}").context["found"][0].parcels for more in ("", "&stale=on"))
        names = [parcel_list.name for parcel_list in lists]
        self.assertEqual(every, len(self.ask(f'on-list: any of "{names[0]}", "{names[1]}"')))
        self.assertEqual(fresh, len(self.ask(f'fresh-on-list: any of "{names[0]}", "{names[1]}"')))
        self.assertLess(fresh, every)

    def test_too_few_and_too_many(self) -> None:
        address = reverse("lists:combine")
        self.assertContains(self.client.get(address), "two lists or more")
        one = ParcelList.objects.first()
        self.assertContains(self.client.get(f"{address}?list={one.pk}&list=99999999&list=x"), "two lists or more")
        many = [services.make_list(self.scope, f"Many {place}").pk for place in range(13)]
        self.assertContains(self.client.get(f"{address}?{'&'.join(f'list={pk}' for pk in many)}"), "At most twelve")
        ParcelList.objects.all().delete()
        self.assertContains(self.client.get(address), "nothing to put together")

    def test_owners_with_several(self) -> None:
        rows = ParcelFacts.objects.filter(pk__in=self.parcels)
        counts = Counter(rows.exclude(owner=None).values_list("owner", flat=True))
        found = owners_with_several(rows)
        self.assertEqual((found.parcels, found.owners), (len(self.parcels), len(counts)))
        self.assertEqual(found.several, sum(count > 1 for count in counts.values()))
        self.assertEqual([one.count for one in found.most], sorted((one for one in counts.values() if one > 1), reverse=True)[:25])
        self.assertEqual(found.nameless, len(self.parcels) - sum(counts.values()))
        for one in found.most:
            self.assertEqual(len(one.parcels), min(one.count, 6))

    def test_a_combination_of_the_overlap_is_kept_or_sent_on(self) -> None:
        page = self.client.get(reverse("lists:overlap"))
        line = next(line for line in page.context["drawing"].table if len(line.combination.lists) == 2)
        for then in ("keep", "contacts"):
            answer = self.client.post(reverse("find:keep-selection"), {"q": line.search, "all": "1", "then": then})
            kept = Selection.objects.get(key=answer["Location"].rstrip("/").rsplit("/", 1)[1])
            self.assertEqual(len(self.ask(kept.search)), line.combination.count)
            self.assertEqual(self.client.get(answer["Location"]).status_code, 200)


class Files(StackCase):
    """Files of parcels as an office has them: any delimiter, a workbook, the address in one column or in several."""

    def setUp(self) -> None:
        super().setUp()
        houses = ParcelFacts.objects.filter(county__name="Tamarack", address__zip5__gt="", property_class=1)
        found = houses.select_related("address", "parcel")
        at = Counter(found.values_list("address__street", flat=True))
        self.known = [facts for facts in found.order_by("pk")[:200] if at[facts.address.street] == 1][:30]

    def brought(self, name: str, content: bytes) -> ImportedMembers:
        return import_file(SimpleUploadedFile(name, content), compile(parse(""), self.scope))

    def test_the_column_that_names_parcels_is_read(self) -> None:
        wanted = {facts.parcel_id for facts in self.known}
        head = ["Owner; as known", "Situs", "City", "State", "Zip", "Parcel No.", "Year"]
        rows = [
            ["SOMEBODY; ELSE", one.address.address.delivery_line, one.address.city, "WI", one.address.zip5, one.parcel.number, "1954"]
            for one in self.known
        ]
        without = [[*row[:5], "", row[6]] for row in rows]
        one_column = [[f"{row[1]}, {row[2]}, WI {row[4]}"] for row in rows]
        for what, table, heading, column in (
            ("by number", rows, head, "Parcel No."),
            ("by address in several columns", without, head, "Situs, City, State, Zip, Parcel No., Year"),
            ("by address in one", one_column, ["Where"], "Where"),
            ("without a heading", rows, None, ""),
        ):
            table = [heading, *table] if heading else table
            for delimiter in (",", ";", "\t"):
                with self.subTest(what, delimiter=delimiter):
                    out = io.StringIO()
                    csv.writer(out, delimiter=delimiter).writerows(table)
                    found = self.brought("from the city.csv", out.getvalue().encode("utf-16" if delimiter == "\t" else "utf-8"))
                    self.assertEqual((set(found.found.parcels), found.found.missing), (wanted, []))
                    if column:
                        self.assertEqual(found.column, column)
            book = openpyxl.Workbook()
            for row in table:
                book.active.append(row)
            out = io.BytesIO()
            book.save(out)
            with self.subTest(what, form="workbook"):
                self.assertEqual(set(self.brought("from the city.xlsx", out.getvalue()).found.parcels), wanted)

    def bomb(self) -> bytes:
        """Return a small workbook whose sheet unpacks to more than a list's file may, though less than a county's."""
        book = openpyxl.Workbook()
        book.active.append(["12-001-019"])
        plain, packed = io.BytesIO(), io.BytesIO()
        book.save(plain)
        with zipfile.ZipFile(plain) as source, zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as target:
            for name in source.namelist():
                target.writestr(name, source.read(name))
            # What does not pack well keeps the ratio within bounds.
            target.writestr("docProps/noise", random.Random(1).randbytes(600_000))
            target.writestr("docProps/padding", b" " * 40_500_000)
        return packed.getvalue()

    def test_a_reader_s_file_is_not_even_read(self) -> None:
        made = services.make_list(self.scope, "Growing")
        User.objects.filter(pk=self.user.pk).update(role=User.Role.READER)
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")
        with mock.patch("jaded_ledger.lists.making_views.import_file", side_effect=AssertionError("read")):
            for address in (reverse("lists:new"), reverse("lists:add", args=[made.pk])):
                sent = {"name": "x", "type": "reason", "file": SimpleUploadedFile("x.csv", b"12-001-019\n")}
                self.assertEqual(self.client.post(address, sent).status_code, 403)

    def test_what_can_t_be_read_says_why(self) -> None:
        for name, content, why in (
            ("empty.csv", b"  \n", "empty"),
            ("nothing.csv", b"a,b\nc,d\n", "no column of nothing.csv names a parcel"),
            ("photos.zip", b"PK\x03\x04nonsense", "photos.zip"),
            ("long.csv", b"99-999-999\n" * 20_050, "more than 20,000 lines"),
            ("😀" * 120 + ".csv", b"a\x00,b\nc\x00,d\n", "no column of 😀"),
            (
                "notes.csv",
                b"parcel,note\n12-001-019,\n12-001-020,x\n" * 30 + b"1" * 301 + b",y\n",
                "row 91 of notes.csv has 301 characters",
            ),
            ("bomb.xlsx", self.bomb(), "would unpack to 4[1-9] MB"),
            ("../../etc/odd name.geojson", b'{"type": "FeatureCollection", "features": []}', "neither text"),
        ):
            with self.subTest(name), self.assertRaisesRegex(ListError, why):
                self.brought(name, content)

    def test_added_to_a_list_that_is_there(self) -> None:
        made = services.make_list(self.scope, "Growing")
        services.add(self.scope, made, [self.known[0].parcel_id])
        page = reverse("lists:add", args=[made.pk])
        text = "\n".join(facts.parcel.number for facts in self.known[:5])
        self.assertContains(self.client.post(page, {"pasted": f"{text}\nnobody knows"}), "5 of 6 lines")
        self.assertEqual(current([made]).count(), 1)
        self.assertContains(self.client.post(page, {"pasted": f"{text}\nnobody knows", "anyway": "1"}, follow=True), "4 of 5 added")
        self.assertEqual(current([made]).count(), 5)
        self.assertContains(self.client.post(page, {"pasted": " "}), "nothing is pasted", status_code=400)
        other = self.other_team()
        self.client.force_login(other, backend="django.contrib.auth.backends.ModelBackend")
        self.assertEqual(self.client.post(page, {"pasted": text}).status_code, 404)


class Changes(StackCase):
    def test_the_database_and_the_core_agree_over_the_demo(self) -> None:
        statuses = {choice.code: next(one for one in StandardStatus if key_of(one) == choice.key) for choice in STATUSES}
        rows = Membership.objects.filter(removed=None).select_related("owner_name", "parcel__facts__owner_name")
        wanted: dict[SinceAdded, set[int]] = {what: set() for what in SinceAdded}
        for row in rows:
            facts, names = row.parcel.facts, (row.owner_name, row.parcel.facts.owner_name)
            then_kind, now_kind = (OwnerKind(name.kind) if name and name.kind else None for name in names)
            then = StateThen(row.added_on, statuses.get(row.status), row.tax_due, then_kind)
            now = StateNow(statuses.get(facts.status), facts.status_since, facts.tax_due, now_kind, facts.probate)
            for what in told_by_core(then, now):
                wanted[what].add(row.pk)
        for what in SinceAdded:
            self.assertEqual(set(with_change(rows, what).values_list("pk", flat=True)), wanted[what], what)
            self.assertGreater(len(wanted[what]), 5, what)

    def test_worked_by_hand(self) -> None:
        facts = ParcelFacts.objects.filter(status=None, tax_due=0, signals=[]).exclude(owner_name=None).first()
        code = {choice.key: choice.code for choice in STATUSES}
        made = services.make_list(self.scope, "By hand")
        services.add(self.scope, made, [facts.pk])
        row = Membership.objects.get(list=made)

        def found(**now: object) -> set[SinceAdded]:
            ParcelFacts.objects.filter(pk=facts.pk).update(**now)
            return {what for what in SinceAdded if with_change(current([made]), what).exists()}

        self.assertEqual(found(), set())
        self.assertEqual(found(status=code["active"], status_since=date(2026, 11, 24)), {SinceAdded.LISTED})
        self.assertEqual(found(status=code["pending"]), {SinceAdded.LISTED})
        # Listed and gone again since, or offered then and gone now: off the market either way.
        self.assertEqual(found(status=code["expired"], status_since=date(2026, 11, 25)), {SinceAdded.OFF_MARKET})
        self.assertEqual(found(status=code["expired"], status_since=date(2026, 11, 1)), set())
        Membership.objects.filter(pk=row.pk).update(status=code["active"])
        self.assertEqual(found(), {SinceAdded.OFF_MARKET})
        self.assertEqual(found(status=code["closed"]), set())
        self.assertEqual(found(probate=date(2026, 11, 25)), {SinceAdded.DIED})
        Membership.objects.filter(pk=row.pk).update(tax_due=1200)
        self.assertEqual(found(probate=None), {SinceAdded.PAID_UP})
        # Not known is not paid.
        self.assertEqual(found(tax_due=None), set())

    def test_shown_dropped_kept_and_undone(self) -> None:
        which = ParcelList.objects.get(name="Absentee, Harbour")
        page = self.client.get(reverse("lists:list", args=[which.pk]) + "?show=listed")
        listed = page.context["asked"]
        self.assertEqual((listed.key, listed.count), ("listed", with_change(current([which]), SinceAdded.LISTED).count()))
        self.assertContains(page, f"Drop the {listed.count}")
        kept = self.client.post(reverse("lists:act", args=[which.pk]), {"do": "keep-listed"})
        self.assertEqual(self.client.get(kept["Location"]).context["count"], listed.count)
        before = set(current([which]).values_list("pk", flat=True))
        said = self.client.post(reverse("lists:act", args=[which.pk]), {"do": "drop-listed"})
        self.assertIn("listed now", " ".join(str(message) for message in get_messages(said.wsgi_request)))
        self.assertEqual(current([which]).count(), len(before) - listed.count)
        services.undo(self.scope, Activity.objects.latest("pk"))
        self.assertEqual(set(current([which]).values_list("pk", flat=True)), before)
        for wrong in ("drop-nothing", "drop-", "fly-listed", ""):
            self.assertEqual(self.client.post(reverse("lists:act", args=[which.pk]), {"do": wrong}).status_code, 404)

    def test_what_is_stale_opens_in_find(self) -> None:
        which = ParcelList.objects.get(name="Absentee, Harbour")
        page = self.client.get(reverse("lists:list", args=[which.pk]) + "?show=stale")
        found = self.client.get(page.context["find_stale"]).context["balance"].matches
        self.assertEqual(found, page.context["asked"].count)
        self.assertGreater(found, 50)

    def test_a_retired_parcel_counts_no_more(self) -> None:
        one, other = (services.make_list(self.scope, name) for name in ("Split up", "Beside it"))
        services.add(self.scope, one, self.parcels[:10])
        services.add(self.scope, other, self.parcels[5:15])
        gone = self.parcels[4:6]
        Parcel.objects.filter(pk__in=gone).update(retired_on=date(2026, 11, 20))
        ParcelFacts.objects.filter(pk__in=gone).delete()
        # What lists count is what Find opens.
        counts = {each.list.name: (each.count, each.shared) for each in counted(self.scope.team)}
        self.assertEqual((counts["Split up"], counts["Beside it"]), ((8, 4), (9, 4)))
        self.assertEqual((len(self.ask('on-list: "Split up"')), len(self.ask('on-list: all of "Split up", "Beside it"'))), (8, 4))
        self.assertEqual(exactly([one, other]), {1: 4, 2: 5, 3: 4})
        # The list's page says which they were; they can be dropped and brought back, and nothing else.
        page = self.client.get(reverse("lists:list", args=[one.pk]) + "?show=retired")
        self.assertEqual((page.context["count"], page.context["asked"].count), (8, 2))
        self.assertContains(page, "retired 20 Nov 2026", 2)
        self.assertNotContains(page, "keep-retired")
        act = reverse("lists:act", args=[one.pk])
        self.assertEqual(self.client.post(act, {"do": "keep-retired"}).status_code, 404)
        self.assertContains(self.client.post(act, {"do": "drop-retired"}, follow=True), "2 rows dropped")
        self.assertEqual(retired([one]).count(), 0)
        services.undo(self.scope, Activity.objects.latest("pk"))
        self.assertEqual(set(retired([one]).values_list("parcel", flat=True)), set(gone))


class Shown(StackCase):
    def test_rows_show_which_lists_they_are_on(self) -> None:
        stale = next(one for one in counted(self.scope.team) if one.stale)
        page = self.client.get(f'/?q=on-list: "{stale.list.name}"%0Astale-on-list: yes')
        row = page.context["rows"][0]
        wanted = set(Membership.objects.filter(parcel=row.parcel_id, removed=None).values_list("list__mark", flat=True))
        self.assertEqual({mark.text for mark in row.marks}, wanted)
        self.assertTrue(any(mark.is_stale for mark in row.marks))
        self.assertContains(page, "passed to somebody else since")
        services.add(self.scope, services.make_list(self.scope, "<b>bold</b> move"), [row.parcel_id])
        self.assertContains(self.client.get("/", {"q": page.context["text"]}), ">&lt;M</abbr>")
        # Another team's rows show nothing of it.
        other = self.other_team()
        self.client.force_login(other, backend="django.contrib.auth.backends.ModelBackend")
        self.assertNotContains(self.client.get("/?q=county: Tamarack"), 'class="mark')

    def test_what_a_team_keeps_explains_itself(self) -> None:
        parcel = Parcel.objects.select_related("county").get(pk=self.parcels[0])
        made = services.make_list(self.scope, "Explained")
        scope = Scope(self.scope.team, self.user, self.scope.today)
        services.add(scope, made, [parcel.pk], "beds: 3..\nclass: duplex")
        services.tag(scope, "noted", [parcel.pk])
        services.set_stage(scope, "comping", [parcel.pk])
        wrong = services.set_stage(scope, "closed", [parcel.pk])
        services.undo(scope, wrong)
        services.set_stage(scope, "passed", [parcel.pk])
        for key, parts in {
            "on-list": ("Explained", "added by nora", "from the search “beds: 3.. · class: duplex”", "then ", "worth $"),
            "tag": ("noted", "by nora"),
            "stage": ("passed", "comping"),
        }.items():
            told = explained(parcel, CATALOGUE[key], self.scope)
            said = " ".join(f"{line.entry.label} {line.entry.note}" for line in told.lines)
            for part in parts:
                self.assertIn(part, said, key)
        # What was undone never was.
        self.assertNotIn("closed", said)
        page = self.client.get(reverse("properties:property", args=[parcel.pk]))
        shown = {figure.key: figure.text for figure in page.context["figures"]}
        self.assertEqual((shown["tag"], shown["stage"]), ("noted", "passed"))
        self.assertIn("Explained", shown["on-list"])
        self.assertIn("urgency", shown)


class Stages(StackCase):
    def names(self) -> list[str]:
        return [stage.name for stage in stages_of(self.scope.team)]

    def pk(self, name: str) -> int:
        return Stage.objects.get(team=self.scope.team, name=name).pk

    def test_named_ordered_and_taken_away(self) -> None:
        self.assertEqual(self.names(), list(STAGES))
        add_stage(self.scope, "  letter   sent ")
        rename_stage(self.scope, self.pk("comping"), "Working it out")
        move_stage(self.scope, self.pk("letter sent"), -1)
        move_stage(self.scope, self.pk("to look at"), -1)
        self.assertEqual(self.names(), ["to look at", "Working it out", "offer out", "under contract", "closed", "letter sent", "passed"])
        # Those at it go with the name.
        self.assertTrue(self.ask('stage: "working it out"'))
        give_up_stage(self.scope, self.pk("letter sent"))
        with self.assertRaisesRegex(CriteriaError, "none of your team's stages"):
            self.ask('stage: "letter sent"')
        for wrong, why in (
            (lambda: add_stage(self.scope, "CLOSED"), "already"),
            (lambda: add_stage(self.scope, " "), "no name"),
            (lambda: add_stage(self.scope, "x" * 41), "at most 40"),
            (lambda: rename_stage(self.scope, self.pk("closed"), "passed"), "already"),
            (lambda: rename_stage(self.scope, self.pk("closed"), "letter sent"), "taken away"),
            (lambda: rename_stage(self.scope, 0, "new"), "in the meantime"),
            (lambda: give_up_stage(self.scope, self.pk("offer out")), "give them another stage first"),
        ):
            with self.assertRaisesRegex(ListError, why):
                wrong()

    def test_history_keeps_what_was_given_up_and_undoing_brings_it_back(self) -> None:
        pk = self.parcels[3]
        services.set_stage(self.scope, "closed", [pk])
        moved = services.set_stage(self.scope, "passed", [pk])
        give_up_stage(self.scope, self.pk("closed"))
        self.assertNotIn("closed", self.names())
        parcel = Parcel.objects.select_related("county").get(pk=pk)
        said = [line.entry.label for line in explained(parcel, CATALOGUE["stage"], self.scope).lines]
        self.assertEqual(said[:2], ["passed", "closed"])
        services.undo(self.scope, moved)
        self.assertIn("closed", self.names())
        self.assertEqual(StageEntry.objects.get(parcel=pk, superseded=None).stage.name, "closed")
        self.assertIn(pk, self.ask('stage: "closed"'))

    def test_the_page(self) -> None:
        page = reverse("lists:stages")
        self.assertEqual(
            {one.stage.name: one.count for one, _ in self.client.get(page).context["rows"]}["to look at"], stage_counts(self.scope)[0].count
        )
        self.client.post(page, {"do": "add", "name": "<i>door knocked</i>"})
        self.assertContains(self.client.get(page), "&lt;i&gt;door knocked&lt;/i&gt;")
        self.client.post(page, {"do": "rename", "stage": self.pk("closed"), "name": "bought"})
        self.client.post(page, {"do": "up", "stage": self.pk("bought")})
        self.client.post(page, {"do": "give-up", "stage": self.pk("under contract")})
        self.assertEqual(self.names()[3:], ["bought", "passed", "<i>door knocked</i>"])
        refused = self.client.post(page, {"do": "add", "name": "bought"})
        self.assertContains(refused, 'value="bought"', status_code=400)
        self.assertEqual(self.client.post(page, {"do": "fly"}).status_code, 404)
        # Another team has its own, and can't touch these.
        other = self.other_team()
        with self.assertRaises(ListError):
            give_up_stage(Scope(other.team, other, self.scope.today), self.pk("bought"))
        User.objects.filter(pk=self.user.pk).update(role=User.Role.READER)
        self.assertEqual(self.client.post(page, {"do": "add", "name": "x"}).status_code, 403)
