"""Databases of earlier versions: taken over when complete, told what to do when not."""

from __future__ import annotations

import io
from importlib import import_module

from django.apps import apps
from django.core.management import call_command
from django.core.management.base import CommandError
from django.db import connection
from django.db.migrations.loader import MigrationLoader
from django.db.migrations.recorder import MigrationRecorder

from jaded_ledger.core.criteria.catalogue.choices import STATUSES
from jaded_ledger.core.criteria.text import parse
from jaded_ledger.core.words import words_of
from jaded_ledger.find.compiler import compile
from jaded_ledger.find.models import Selection
from jaded_ledger.find.search_page import SearchPage
from jaded_ledger.find.selections import keep
from jaded_ledger.records.clock import today
from jaded_ledger.records.earlier_version import bring_over
from jaded_ledger.records.models import (
    Area,
    FillRate,
    OwnerSpelling,
    ParcelFacts,
    RecordedAddress,
    RecordedName,
    Remarks,
    RollEntry,
)
from jaded_ledger.searches.services import save
from tests.support.demo import DemoTestCase
from tests.support.tiers import thorough

# As commit c48b14e left them.
LAST_STEPS = {
    "accounts": ("0001_initial", "0002_grades_and_views", "0003_team_version", "0004_logs_move_out"),
    "outreach": ("0001_contact_exports",),
    "properties": ("0001_contact_views",),
    "lists": ("0001_initial", "0002_urgency"),
}
OLD_NAMES = (
    "ALTER TABLE records_parcelfacts RENAME COLUMN neighborhood_id TO neighbourhood_id",
    "ALTER TABLE records_parcelfacts RENAME COLUMN stories TO storeys",
    "ALTER TABLE records_rollentry RENAME COLUMN neighborhood_id TO neighbourhood_id",
    "ALTER TABLE records_building RENAME COLUMN stories TO storeys",
    "ALTER TABLE records_building RENAME CONSTRAINT building_stories_positive TO building_storeys_positive",
    "UPDATE records_area SET kind = 'neighbourhood' WHERE kind = 'neighborhood'",
    "UPDATE records_fillrate SET trait = 'neighbourhood' WHERE trait = 'neighborhood'",
)


class PendingIsNotForSale(DemoTestCase):
    """What was kept of searches finds what it found when *for sale* held listings under contract as well."""

    def test_lines_are_spelled_out(self) -> None:
        spelled_out = import_module("jaded_ledger.find.migrations.0004_pending_is_not_for_sale").spelled_out
        sale, rent = '"for-sale", "sale-pending", "sale-on-hold"', '"for-rent", "rental-pending", "rental-on-hold"'
        for before, after in (
            ('on-offer: any of "for-sale"', f"on-offer: any of {sale}"), ('~ on-offer: none of "for-rent"', f"~ on-offer: none of {rent}"),
            ('on-offer: any of "for-sale", "for-rent"; or unknown', f"on-offer: any of {sale}, {rent}; or unknown"),
            ('on-offer: any of "for-rent"; none of "for-sale"', f"on-offer: any of {rent}; none of {sale}"),
            ('any of:\n  on-offer: all of "for-sale"\n  beds: 3', f"any of:\n  on-offer: any of {sale}\n  beds: 3"),
            *((text, text) for text in ("on-offer: any", 'on-offer: all of "for-sale", "for-rent"', 'remarks: any of "for-sale"')),
        ):  # fmt: skip
            self.assertEqual(spelled_out(before), after)
            parse(after)

    def test_kept_searches_and_selections(self) -> None:
        scope = self.scope.__class__(self.scope.team, self.user, self.scope.today)
        page = SearchPage(parse('on-offer: any of "for-sale"\nbeds: 3..'))
        selection, version = keep(scope, page, [], is_all=True), save(scope, page, "Offered").versions.get()
        for app, name in (("find", "of_selections"), ("searches", "of_versions")):
            number = {"find": "0004", "searches": "0003"}[app]
            getattr(import_module(f"jaded_ledger.{app}.migrations.{number}_pending_is_not_for_sale"), name)(apps, None)
        selection.refresh_from_db()
        version.refresh_from_db()
        for text in (selection.search, version.text):
            self.assertEqual(text, 'on-offer: any of "for-sale", "sale-pending", "sale-on-hold"\nbeds: 3..')
        now = compile(parse('on-offer: any of "for-sale"'), scope).matches.count()
        was = compile(parse(version.text.splitlines()[0]), scope).matches
        statuses = [
            choice.code for choice in STATUSES if choice.key in ("active", "coming-soon", "active-under-contract", "pending", "hold")
        ]
        self.assertEqual(
            set(was.values_list("pk", flat=True)), set(ParcelFacts.objects.filter(status__in=statuses).values_list("pk", flat=True))
        )
        self.assertLess(now, was.count())


@thorough
class Reread(DemoTestCase):
    """Names and remarks as the version before read them, after the step that reads them again."""

    def test_texts_are_read_again_and_facts_derived_anew(self) -> None:
        reread = import_module("jaded_ledger.records.migrations.0003_reread_texts").reread
        entry = RollEntry.objects.filter(superseded_at=None, owner_name__kind="individual", owner_name__text__regex=r"^\w+ \w+$").first()
        name, owner = entry.owner_name, entry.owner
        right, at = name.mailing_name, OwnerSpelling.at_of(entry.mailing_address and entry.mailing_address.address, entry.parcel_id)
        RecordedName.objects.filter(pk=name.pk).update(mailing_name=name.text, kind="company", surnames=[])
        spelled = owner.spellings.filter(at=at).update(name_key=name.text.casefold())
        nobody = RollEntry.objects.filter(superseded_at=None, owner__isnull=False).exclude(owner=owner).last()
        RecordedName.objects.filter(pk=nobody.owner_name_id).update(text="UNKNOWN OWNER")
        said = Remarks.objects.filter(text__contains="REO").first() or Remarks.objects.first()
        Remarks.objects.filter(pk=said.pk).update(fields=["Sold as R.E.O.", "", ""], words="x")
        unread = RecordedAddress.objects.create(
            kind="unreadable", street="C/O DORA KELM 103 CAPSTAN ST", city="ALDER BAY", state="WI", zip5="53301",
            **RecordedAddress.search_forms("% Café C/O Dora Kelm 103 Capstan St"),
        )  # fmt: skip
        reread(apps, None)
        name.refresh_from_db()
        self.assertEqual((name.mailing_name, name.kind), (right, "individual"))
        self.assertTrue(name.surnames)
        self.assertEqual(spelled, 1)
        self.assertEqual(owner.spellings.get(at=at).name_key, " ".join(words_of(right)))
        self.assertIsNone(RollEntry.objects.get(pk=nobody.pk).owner)
        self.assertEqual(Remarks.objects.get(pk=said.pk).words, " sold as reo  |    |   ")
        unread.refresh_from_db()
        self.assertEqual((unread.kind, unread.street, unread.attention), ("street", "103 CAPSTAN ST", "DORA KELM"))
        self.assertEqual(ParcelFacts.objects.count(), 0)
        reread(apps, None)

    def test_names_alone_are_read_again_and_facts_wait_for_the_worker(self) -> None:
        reread = import_module("jaded_ledger.records.migrations.0011_reread_names").reread
        name = RollEntry.objects.filter(superseded_at=None, owner_name__kind="couple").first().owner_name
        RecordedName.objects.filter(pk=name.pk).update(mailing_name="X", surnames=[])
        count = ParcelFacts.objects.count()
        reread(apps, None)
        self.assertEqual(RecordedName.objects.get(pk=name.pk).mailing_name, name.mailing_name)
        self.assertEqual(ParcelFacts.objects.filter(changes_on=today()).count(), count)


@thorough
class Earlier(DemoTestCase):
    def setUp(self) -> None:
        """Note the migrations of these apps as a database of an earlier version has them, and none that came later."""
        self.recorder = MigrationRecorder(connection)
        graph = MigrationLoader(None).graph
        came_later = {node for node in graph.nodes if node[0] in LAST_STEPS and node[1] != "0001_tables"}
        for label, name in graph.nodes:
            if came_later.intersection(graph.forwards_plan((label, name))):
                self.recorder.record_unapplied(label, name)
        for label, steps in LAST_STEPS.items():
            self.recorder.record_unapplied(label, "0001_tables")
            for name in steps:
                self.recorder.record_applied(label, name)

    def migrate(self) -> None:
        """Note the steps only: each run of the tests takes them for real, from an empty database."""
        call_command("migrate", fake=True, verbosity=0, stdout=io.StringIO())

    def names(self, label: str) -> set[str]:
        return set(self.recorder.migration_qs.filter(app=label).values_list("name", flat=True))

    def test_a_complete_one_is_taken_over(self) -> None:
        self.migrate()
        self.assertEqual(
            self.names("accounts"),
            {*LAST_STEPS["accounts"], "0001_tables", "0002_area_grades", "0003_audit", "0004_morning_hour", "0005_phone_and_license"},
        )
        self.assertEqual(self.names("lists"), {*LAST_STEPS["lists"], "0001_tables", "0002_new_lists_are_working_sets"})
        self.migrate()

    def test_one_that_lacks_a_step_is_told_what_to_do(self) -> None:
        self.recorder.record_unapplied("lists", "0002_urgency")
        with self.assertRaisesRegex(
            CommandError, r"it lacks lists\.0002_urgency, and .* Check out commit [0-9a-f]{7}, .* Nothing was changed"
        ):
            self.migrate()
        self.recorder.record_unapplied("accounts", "0004_logs_move_out")
        with self.assertRaisesRegex(
            CommandError, r"lacks accounts\.0004_logs_move_out and 1 more step,|lacks lists\.0002_urgency and 1 more step,"
        ):
            self.migrate()
        self.assertEqual(self.names("properties"), set(LAST_STEPS["properties"]))


class OldNames(DemoTestCase):
    def test_they_become_todays(self) -> None:
        selection = keep(self.scope, SearchPage(parse("class: triplex"), ("stories", "beds"), "-stories"), [], is_all=True)
        Selection.objects.filter(pk=selection.pk).update(
            search="neighbourhood: Harbour Wards", columns=["storeys", "beds"], sort="-storeys"
        )
        areas = Area.objects.filter(kind=Area.AreaKind.NEIGHBORHOOD).count()
        recorder = MigrationRecorder(connection)
        steps = MigrationLoader(None).disk_migrations["records", "0001_tables"].replaces
        with connection.cursor() as cursor:
            for statement in OLD_NAMES:
                cursor.execute(statement)
        recorder.record_unapplied("records", "0001_tables")
        for step in steps:
            recorder.record_applied(*step)
        self.assertTrue(bring_over("default"))
        selection.refresh_from_db()
        self.assertEqual(
            (selection.search, selection.columns, selection.sort), ("neighborhood: Harbour Wards", ["stories", "beds"], "-stories")
        )
        self.assertGreater(areas, 0)
        self.assertEqual(Area.objects.filter(kind=Area.AreaKind.NEIGHBORHOOD).count(), areas)
        self.assertTrue(ParcelFacts.objects.filter(neighborhood__isnull=False, stories__gt=0).exists())
        self.assertTrue(FillRate.objects.filter(trait="neighborhood").exists())
        recorder.record_applied("records", "0001_tables")
        self.assertFalse(bring_over("default"), "once")


class Models(DemoTestCase):
    def test_no_model_is_ahead_of_its_migrations(self) -> None:
        call_command("makemigrations", check=True, dry_run=True, verbosity=0)
