"""Distinct texts, each stored once, and their ids."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Mapping
from typing import Any

from django.db import models

from jaded_ledger.records.bulk import allot_ids, among, copy_rows


def digest_of(*texts: str) -> str:
    """Return what tells a long text, or several together, from others."""
    return hashlib.md5("\0".join(texts).encode(), usedforsecurity=False).hexdigest()


def texts_on_record(
    model: type[models.Model], wanted: Mapping[str, Any], key: str, forms: Callable[[Any], dict[str, Any]]
) -> dict[str, int]:
    """Return the ids of texts by the column that tells them apart, storing those that are new.

    ``forms`` gives the columns of a text's row.
    """
    rows = model._default_manager.filter(**{f"{key}__in": among(wanted)})
    known: dict[str, int] = dict(rows.values_list(key, "id"))
    fresh = sorted(wanted.keys() - known.keys())
    ids = allot_ids(model, len(fresh)) if fresh else []
    copy_rows(model, [forms(wanted[one]) | {"id": pk} for one, pk in zip(fresh, ids, strict=True)])
    return known | dict(zip(fresh, ids, strict=True))
