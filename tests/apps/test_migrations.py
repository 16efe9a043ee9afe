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

from jaded_ledger.core.criteria.text import parse
from jaded_ledger.core.words import words_of
from jaded_ledger.find.models import Selection
from jaded_ledger.find.search_page import SearchPage
from jaded_ledger.find.selections import keep
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
from tests.demo import DemoTestCase

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


class Earlier(DemoTestCase):
    def setUp(self) -> None:
        """Note the migrations of these apps as a database of an earlier version has them."""
        self.recorder = MigrationRecorder(connection)
        for label, steps in LAST_STEPS.items():
            self.recorder.migration_qs.filter(app=label).delete()
            for name in steps:
                self.recorder.record_applied(label, name)
        with connection.cursor() as cursor:
            # What came later was not there.
            cursor.execute("DROP TABLE accounts_auditentry")
            cursor.execute("ALTER TABLE accounts_team DROP COLUMN morning_hour")
            for name in (
                "filecolumns", "mailreport", "mailorder",
                "pieceoutcome", "mailpiece", "sentletter", "mailing", "lettertemplate", "series", "printer",
                "mailsettings", "donotcontact",
            ):  # fmt: skip
                cursor.execute(f"DROP TABLE outreach_{name}")

    def migrate(self) -> None:
        call_command("migrate", verbosity=0, stdout=io.StringIO())

    def names(self, label: str) -> set[str]:
        return set(self.recorder.migration_qs.filter(app=label).values_list("name", flat=True))

    def test_a_complete_one_is_taken_over(self) -> None:
        self.migrate()
        self.assertEqual(
            self.names("accounts"), {*LAST_STEPS["accounts"], "0001_tables", "0002_area_grades", "0003_audit", "0004_morning_hour"}
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
