"""What a recorded field reads like on a page."""

from __future__ import annotations

from datetime import date
from decimal import Decimal
from typing import Any

from django.contrib.gis.geos import GEOSGeometry
from django.db import models

from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.display import day_text, money_text
from jaded_ledger.core.letter_case import in_reading_case
from jaded_ledger.records.models import Area, RecordedAddress, RecordedName, Street

_CODES = {"property_class": CATALOGUE["class"]}
_UNGROUPED = {"year", "year_built", "house_number"}
_CENTS = 2


def _places(field: models.Field[Any, Any]) -> int:
    """Return how many decimals a field keeps; 0 for one without."""
    return field.decimal_places if isinstance(field, models.DecimalField) else 0


def label_of(field: models.Field) -> str:
    """Return a field's name as a heading."""
    return str(field.verbose_name)


def is_figure(field: models.Field) -> bool:
    """Whether a field's values are set right-aligned."""
    return isinstance(field, models.IntegerField | models.DecimalField | models.FloatField) and field.name not in _CODES


def reads(field: models.Field, value: Any) -> str:
    """Return a value as it is shown; nothing for what is not known."""
    match value:
        case None | "" | [] | GEOSGeometry():
            return ""
        case bool():
            return "yes" if value else "no"
        case date():
            return day_text(value)
        case Decimal() if _places(field) == _CENTS:
            return money_text(value)
        case list():
            return ", ".join(value)
        case RecordedName() | RecordedAddress() | Street() | Area():
            return in_reading_case(value.text)
        case str() if field.choices:
            return str(dict(field.choices)[value])
        case int() if field.name in _CODES:
            return _CODES[field.name].choice_by_code(value).key
        case int() if field.name in _UNGROUPED:
            return str(value)
        case int():
            return f"{value:,}"
        case float() | Decimal():
            places = 2 if isinstance(value, float) else _places(field)
            return f"{value:,.{places}f}".rstrip("0").rstrip(".")
    return str(value)
