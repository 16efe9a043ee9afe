"""Traits' figures and days as the database computes with them."""

from __future__ import annotations

from decimal import Decimal
from typing import Any

from django.db.models import Aggregate, DateField, DecimalField, Expression, F, Field, FloatField, QuerySet
from django.db.models.fields.json import KeyTextTransform
from django.db.models.functions import Cast, Coalesce

from jaded_ledger.core.criteria.traits import Kind, Trait
from jaded_ledger.records.models import ParcelFacts
from jaded_ledger.records.trait_columns import column_of

_FIGURE = DecimalField(max_digits=30, decimal_places=6)


def field_for(trait: Trait) -> Field:
    """Return the kind of column that a figure or a day is computed as."""
    return DateField() if trait.kind is Kind.DATE else _FIGURE


def _held(trait: Trait) -> Expression:
    return KeyTextTransform(trait.fact.removeprefix("further__"), "further") if trait.is_own else F(column_of(trait))  # type: ignore[return-value]


def figure_of(trait: Trait) -> Expression:
    """Return a trait's value as the database compares and adds it."""
    return Cast(_held(trait), field_for(trait))


def drawn_figure_of(trait: Trait) -> Expression:
    """Return a trait's figure as a drawing needs it: a floating-point number, counted a quarter sooner than an exact one."""
    return Cast(_held(trait), FloatField())


def share_of(trait: Trait) -> Expression:
    """Return what of a trait's figure is one parcel's: of a price for several parcels its part, so that none is added twice."""
    figure = figure_of(trait)
    return figure / Coalesce(F(trait.of_several), 1) if trait.of_several else figure


class _Middle(Aggregate):
    template = "%(function)s(0.5) WITHIN GROUP (ORDER BY %(expressions)s)"

    @property
    def convert_value(self) -> Any:
        """Round halves between figures of two decimals to what they are: engines differ in the last digit of a float."""
        if isinstance(self.output_field, FloatField):
            return lambda value, *_: None if value is None else round(float(value), 6)
        return self._convert_value_noop  # type: ignore[attr-defined]


def middle_of(figures: Expression | F | str) -> Aggregate:
    """Return the middle of some figures: of an even number halfway between the two in the middle."""
    return _Middle(figures, function="PERCENTILE_CONT", output_field=FloatField())


def median_of(trait: Trait, of: F | None = None) -> Aggregate:
    """Return the middle of a trait's values, or of what is asked of; of an even number of days the earlier of the two in the middle."""
    figure = of or figure_of(trait)
    return _Middle(figure, function="PERCENTILE_DISC", output_field=DateField()) if trait.kind is Kind.DATE else middle_of(figure)


def plain(value: Decimal | float) -> int | float:
    """Return a figure as a page shows it."""
    return int(value) if value == int(value) else float(value)


def known_of(parcels: QuerySet[ParcelFacts], trait: Trait) -> QuerySet[ParcelFacts]:
    """Return those of some parcels of which a figure or a day is known, with it as ``of``."""
    return parcels.annotate(of=figure_of(trait)).filter(of__isnull=False)
