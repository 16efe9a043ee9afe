"""What the database itself refuses, and the demo's records as a whole."""

from __future__ import annotations

from datetime import date
from itertools import pairwise

from django.contrib.gis.db.models.functions import Area as AreaOf
from django.db import IntegrityError, connection, transaction
from django.db.models import Count, F
from django.db.models.functions import Cast

from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.find.compiling import _BY_KIND
from jaded_ledger.intake.models import Refusal
from jaded_ledger.records.models import (
    Area,
    County,
    FillRate,
    Owner,
    Parcel,
    ParcelFacts,
    ParcelShape,
    RollEntry,
    Transfer,
    TransferParcel,
)
from tests.demo import DemoTestCase


class Constraints(DemoTestCase):
    def refuses(self, constraint: str, act) -> None:
        with self.assertRaisesRegex(IntegrityError, constraint), transaction.atomic():
            act()
            connection.check_constraints()

    def test_each_rule(self) -> None:
        county, parcel = County.objects.get(), Parcel.objects.first()
        entry = RollEntry.objects.filter(superseded_at=None).first()
        transfer = Transfer.objects.first()

        def another(row, **changes):
            row.pk = None
            for name, value in changes.items():
                setattr(row, name, value)
            row.save(force_insert=True)

        def entry_with(**changes):
            return lambda: RollEntry.objects.filter(pk=entry.pk).update(**changes)

        self.refuses("county_fips_form", lambda: County.objects.filter(pk=county.pk).update(fips="5599"))
        self.refuses("county_ratio_in_range", lambda: County.objects.filter(pk=county.pk).update(assessment_ratio=0))
        self.refuses("county_name_once", lambda: County.objects.create(
            name="TAMARACK", state="WI", fips="55997", parcel_number_mask="NN", assessment_ratio=1))  # fmt: skip
        self.refuses("parcel_number_once", lambda: Parcel.objects.create(county=county, number="x", number_key=parcel.number_key))
        self.refuses("parcel_has_number", lambda: Parcel.objects.create(county=county, number="", number_key=""))
        self.refuses("parcel_not_its_own_parent", lambda: Parcel.objects.filter(pk=parcel.pk).update(parent_id=parcel.pk))
        self.refuses("roll_entry_one_current", lambda: another(RollEntry.objects.get(pk=entry.pk)))
        self.refuses("roll_entry_superseded_later", entry_with(superseded_at="2001-01-01T00:00Z"))
        self.refuses("roll_entry_lot_positive", entry_with(lot_sqft=0))
        self.refuses("roll_entry_area_positive", entry_with(living_area=0))
        self.refuses("roll_entry_year_plausible", entry_with(year_built=1066))
        self.refuses("roll_entry_values_not_negative", entry_with(land_value=-1))
        self.refuses("transfer_one_current", lambda: another(Transfer.objects.get(pk=transfer.pk)))
        self.refuses("transfer_price_not_negative", lambda: Transfer.objects.filter(pk=transfer.pk).update(price=-1))
        self.refuses("area_in_county_unless_state", lambda: Area.objects.create(kind="city", text="x", folded="x", words=" x "))
        self.refuses("fill_rate_share", lambda: FillRate.objects.update(known=F("parcels") + 1))
        covered = TransferParcel.objects.first()
        self.refuses("transfer_parcel_once", lambda: TransferParcel.objects.create(transfer=covered.transfer, parcel=covered.parcel))


class World(DemoTestCase):
    """The demo county by independent queries."""

    def test_size_and_dirt(self) -> None:
        self.assertEqual(Parcel.objects.count(), 7200)
        self.assertEqual(ParcelFacts.objects.count(), 7200)
        dirty = Refusal.objects.count()
        dirty += RollEntry.objects.filter(mailing_address__zip5="").count()
        dirty += RollEntry.objects.filter(mailing_address=None).count()
        dirty += RollEntry.objects.filter(owner_name__text__contains=" AND ").count()
        self.assertTrue(0.01 < dirty / 7200 < 0.035, dirty)
        self.assertEqual(set(Refusal.objects.values_list("column", flat=True)), {"dated"})

    def test_lots_are_valid_and_do_not_overlap(self) -> None:
        with connection.cursor() as cursor:
            cursor.execute("SELECT count(*) FROM records_parcelshape WHERE NOT ST_IsValid(outline)")
            self.assertEqual(cursor.fetchone(), (0,))
            # More than a square metre in common; the units of a condominium stand on their parent's ground.
            cursor.execute(
                """SELECT count(*) FROM records_parcelshape a JOIN records_parcelshape b
                     ON a.outline && b.outline AND a.parcel_id < b.parcel_id
                   JOIN records_parcel p ON p.id = a.parcel_id JOIN records_parcel q ON q.id = b.parcel_id
                   WHERE p.parent_id IS NULL AND q.parent_id IS NULL
                     AND ST_Area(ST_Intersection(a.outline, b.outline)::geography) > 1"""
            )
            self.assertEqual(cursor.fetchone(), (0,))

    def test_outlines_agree_with_the_roll(self) -> None:
        """The area of a lot on the ground against the square feet on the roll, within two percent."""
        from django.contrib.gis.db.models import GeometryField

        rows = (
            ParcelShape.objects.filter(parcel__parent=None)
            .annotate(ground=AreaOf(Cast("outline", GeometryField(geography=True))))
            .values_list("ground", "parcel__facts__lot_sqft")[:3000]
        )
        off = [(ground.sq_ft, lot) for ground, lot in rows if lot and abs(ground.sq_ft / lot - 1) > 0.02]
        self.assertEqual(off, [])

    def test_chains_of_title_have_no_gap(self) -> None:
        chains: dict[int, list[tuple[date, str, str]]] = {}
        rows = TransferParcel.objects.filter(transfer__superseded_at=None).values_list(
            "parcel_id", "transfer__sold_on", "transfer__grantor__text", "transfer__grantee__text"
        )
        for parcel, day, grantor, grantee in rows:
            chains.setdefault(parcel, []).append((day, grantor, grantee))
        gaps = 0
        for chain in chains.values():
            chain.sort()
            gaps += sum(one[2] != other[1] for one, other in pairwise(chain))
        # A refused deed (its date lay in the future) leaves a gap; nothing else does.
        self.assertLessEqual(gaps, Refusal.objects.count())
        self.assertGreater(sum(len(chain) > 1 for chain in chains.values()), 500)

    def test_there_is_something_of_everything(self) -> None:
        for trait in CATALOGUE:
            known = ParcelFacts.objects.filter(**{f"{trait.fact}__isnull": False}).count()
            self.assertGreater(known, 3000, trait.key)
        self.assertGreater(len(set(ParcelFacts.objects.values_list("owner_kind", flat=True))), 7)
        self.assertTrue(Owner.objects.annotate(n=Count("facts")).filter(n__gte=15).exists())
        self.assertTrue(Parcel.objects.filter(parent__isnull=False).exists())
        self.assertTrue(Transfer.objects.annotate(n=Count("parcels")).filter(n__gt=1).exists())


class Catalogue(DemoTestCase):
    """Each trait is known to everything that reads the catalogue."""

    def test_every_trait(self) -> None:
        fills = {fill.trait: fill for fill in FillRate.objects.all()}
        for trait in CATALOGUE:
            with self.subTest(trait.key):
                self.assertIn(trait.kind, _BY_KIND)
                self.assertTrue(trait.meaning and trait.source and trait.label)
                self.assertEqual(fills[trait.key].parcels, 7200)
                known = ParcelFacts.objects.filter(**{f"{trait.fact}__isnull": False}).count()
                self.assertEqual(fills[trait.key].known, known)
        names = [name for trait in CATALOGUE for name in (trait.key, *(f"{trait.key}={c.code}" for c in trait.choices))]
        self.assertEqual(len(names), len(set(names)))
