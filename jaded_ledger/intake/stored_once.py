"""Bytes that are stored once however often they are filed: pictures and papers, by their digest."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import Any

from django.db import models

from jaded_ledger.records.bulk import allot_ids, among, copy_rows


def stored_once(model: type[models.Model], names: Sequence[str], rows: Iterable[tuple[Any, ...]]) -> Mapping[str, int]:
    """Store rows that are not there yet; return the ids of all by their digest, which comes first in each."""
    by_digest = {row[0]: row for row in rows}
    known = dict(model._default_manager.filter(sha256__in=among(by_digest)).values_list("sha256", "id"))
    fresh = sorted(by_digest.keys() - known.keys())
    ids = allot_ids(model, len(fresh))
    copy_rows(model, [dict(zip(names, by_digest[one], strict=True)) | {"id": pk} for pk, one in zip(ids, fresh, strict=True)])
    return known | dict(zip(fresh, ids, strict=True))
