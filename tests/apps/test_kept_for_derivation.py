"""What is kept so that less is derived: facts follow areas' figures as if derived anew, and the map is read once for an outline."""

from __future__ import annotations

from decimal import Decimal
from unittest import mock

from django.db.models import Q

from jaded_ledger.core.facts.by_area import AreaBasis
from jaded_ledger.records import areas, derivation, map_reading, reading
from jaded_ledger.records.area_columns import COLUMNS, follow_areas
from jaded_ledger.records.areas import Retold, figures_of
from jaded_ledger.records.clock import now, today
from jaded_ledger.records.derivation import Derivation
from jaded_ledger.records.models import AreaFigures, County, MapFeature, OutlineGround, Parcel, ParcelFacts, ParcelShape, RollEntry
from jaded_ledger.records.reading import rules_of
from tests.support.demo import DemoTestCase
from tests.support.tiers import thorough


class AreasFigures(DemoTestCase):
    def setUp(self) -> None:
        self.county = County.objects.get(name="Pike Hollow")

    def facts(self) -> list[tuple]:
        return list(ParcelFacts.objects.filter(county=self.county).order_by("pk").values_list())

    def follow(self, retold: Retold) -> int:
        return len(follow_areas(self.county, retold, rules_of(self.county), figures_of(self.county)))

    def raise_prices(self, which: Q) -> set[int]:
        """Have all that is counted of some areas cost a seventh more."""
        changed = set()
        for row in AreaFigures.objects.filter(which, area__county=self.county):
            context = row.context
            for key in ("now", "rent", "frontage"):
                context[key] = context[key] and [str(Decimal(context[key][0]) * 8 / 7), context[key][1]]
            for key in ("square_foot", "rents"):
                context[key] = {name: [str(Decimal(value) * 8 / 7), count] for name, (value, count) in context[key].items()}
            context["asked"] = {name: [str(Decimal(price) * 8 / 7) for price in prices] for name, prices in context["asked"].items()}
            row.save()
            changed.add(row.area_id)
        return changed

    @thorough
    def test_every_parcel_follows_as_if_derived_anew(self) -> None:
        before = self.facts()
        self.raise_prices(Q())
        written = self.follow(Retold(is_county=True))
        followed = self.facts()
        self.assertEqual(sum(one != other for one, other in zip(before, followed, strict=True)), written)
        self.assertGreater(written, 2_000)
        with mock.patch("jaded_ledger.records.derivation.refresh_areas", return_value=Retold()):
            again = Derivation(self.county, today()).run(
                Parcel.objects.filter(county=self.county).values_list("pk", flat=True), recount=False
            )
        self.assertEqual(again, 0, "what was derived from nothing differs from what followed")
        self.assertEqual(self.facts(), followed)

    def test_only_what_rests_on_the_area_follows(self) -> None:
        area = AreaFigures.objects.filter(area__county=self.county, area__kind="neighborhood").exclude(context__now=None).first()
        assert area is not None
        self.raise_prices(Q(pk=area.pk))
        before = {row[0]: row for row in self.facts()}
        written = self.follow(Retold(frozenset({area.pk})))
        names = [field.attname for field in ParcelFacts._meta.concrete_fields]
        moved = [(before[row[0]], row) for row in self.facts() if row != before[row[0]]]
        self.assertEqual((len(moved), bool(moved)), (written, True))
        for then, later in moved:
            self.assertEqual(later[names.index("area_id")], area.pk)
            self.assertLessEqual({name for name, one, other in zip(names, then, later, strict=True) if one != other}, set(COLUMNS))

    def test_what_is_asked_moves_what_is_active_alone(self) -> None:
        compared = ParcelFacts.objects.filter(county=self.county, percent_of_median__isnull=False).first()
        assert compared is not None
        before = compared.percent_of_median
        self.raise_prices(Q(pk=compared.area_id))
        self.follow(Retold(asked=frozenset({compared.area_id})))
        compared.refresh_from_db()
        self.assertLess(compared.percent_of_median, before)
        others = ParcelFacts.objects.filter(area=compared.area_id).exclude(status=areas._ACTIVE)
        ids = others.values_list("pk", flat=True)
        self.assertEqual(Derivation(self.county, today()).run(ids, recount=False) > 0, True, "the others had not followed")

    def test_a_parcel_of_which_nothing_was_kept_is_derived(self) -> None:
        one = ParcelFacts.objects.filter(county=self.county, estimated_value__gt=0).first()
        assert one is not None
        ParcelFacts.objects.filter(pk=one.pk).update(area_basis=None, estimated_value=1)
        with mock.patch("jaded_ledger.records.derivation.refresh_areas", return_value=Retold(frozenset({one.area_id}))):
            Derivation(self.county, today()).run([], recount=True)
        again = ParcelFacts.objects.get(pk=one.pk)
        self.assertEqual((again.estimated_value, again.area_basis), (one.estimated_value, one.area_basis))

    def test_what_is_kept_is_read_back_to_the_cent(self) -> None:
        basis = AreaBasis(assessed=Decimal("123456.78"), sold_for=Decimal(1) / Decimal(3), sold_in=2019, frontage=60.5, beds_asked=None)
        self.assertEqual(AreaBasis.read(basis.stored()), basis)


class Grounds(DemoTestCase):
    def setUp(self) -> None:
        self.county = County.objects.get(name="Odell Marsh")
        shapes = ParcelShape.objects.filter(county=self.county, superseded_at=None).order_by("pk")
        self.ids = list(shapes.values_list("parcel_id", flat=True)[:40])

    def grounds(self):
        return map_reading.grounds_of(self.ids, map_reading.layers_of(self.county.pk), True)

    def test_the_map_is_read_once_for_an_outline(self) -> None:
        first = self.grounds()
        with mock.patch.object(map_reading, "_feet_to_ways", side_effect=AssertionError("read again")):
            self.assertEqual(self.grounds(), first)

    def test_a_feature_that_goes_has_it_read_again(self) -> None:
        first = self.grounds()
        self.assertTrue(any(ground.feet_to for ground in first.values()))
        MapFeature.objects.filter(county=self.county).delete()
        self.assertFalse(any(ground.feet_to or ground.road_class or ground.flood_zones for ground in self.grounds().values()))

    def test_an_outline_that_moves_has_it_read_again(self) -> None:
        first = self.grounds()
        moved = ParcelShape.objects.get(parcel=self.ids[0], superseded_at=None)
        ParcelShape.objects.filter(pk=moved.pk).update(superseded_at=now(), valid_until=today())
        moved.pk = None
        moved.outline = ParcelShape.objects.get(parcel=self.ids[-1], superseded_at=None).outline
        moved.save()
        again = self.grounds()
        self.assertEqual(again[self.ids[0]].feet_to, first[self.ids[-1]].feet_to)
        self.assertTrue(OutlineGround.objects.filter(shape=moved.pk).exists())


class Holdings(DemoTestCase):
    @thorough
    def test_owners_of_many_are_counted_once_for_all_batches(self) -> None:
        county = County.objects.get(name="Odell Marsh")
        every = list(Parcel.objects.filter(county=county).values_list("pk", flat=True))
        held = reading.large_holdings()
        self.assertTrue(held)
        for owner, parcels in held.items():
            current = RollEntry.objects.filter(owner=owner, superseded_at=None, parcel__retired_on=None)
            self.assertEqual(parcels, current.values("parcel").distinct().count())
            self.assertGreaterEqual(parcels, 20)
        # Derived in many batches with them, facts are as they were in one with each owner asked for.
        counted = mock.patch.object(derivation, "large_holdings", side_effect=reading.large_holdings)
        with mock.patch.object(derivation, "BATCH", 400), counted as once:
            self.assertEqual(Derivation(county, today()).run(every, recount=False), 0)
        once.assert_called_once()
        with mock.patch.object(derivation, "large_holdings") as never:
            Derivation(county, today()).run(every[:50], recount=False)
        never.assert_not_called()
