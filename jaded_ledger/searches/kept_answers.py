"""What every parcel answered to a search's lines, kept small from one run to the next: two bits an answer, compressed."""

from __future__ import annotations

import zlib
from collections.abc import Collection, Iterable

import numpy as np

from jaded_ledger.find.answers_by_parcel import AnswersByParcel
from jaded_ledger.find.line_answers import BITS
from jaded_ledger.searches.models import KeptAnswers, SavedSearch

_IN_A_BYTE = 8 // BITS
_LEVEL = 1
"""Of zlib: the answers of most lines are so alike that more effort saves little."""
_PLACES = np.arange(_IN_A_BYTE, dtype=np.uint8) * np.uint8(BITS)


def _packed(line: np.ndarray) -> bytes:
    """Return a line's answers, four to a byte.

    >>> _packed(np.array([1, 2, 0, 1, 1], np.uint8))
    b'I\\x01'
    """
    whole = np.zeros(-(-len(line) // _IN_A_BYTE) * _IN_A_BYTE, np.uint8)
    whole[: len(line)] = line
    return np.bitwise_or.reduce(whole.reshape(-1, _IN_A_BYTE) << _PLACES, axis=1).astype(np.uint8).tobytes()


def keep_answers(saved: SavedSearch, found: AnswersByParcel) -> None:
    """Keep how every parcel answers to a search, in place of how it did."""
    parcels = np.diff(found.parcels, prepend=0).astype(np.int64)
    kept = KeptAnswers(
        search=saved,
        count=len(found.parcels),
        parcels=zlib.compress(parcels.tobytes(), _LEVEL),
        answers=zlib.compress(b"".join(map(_packed, found.lines)), _LEVEL),
    )
    # In one statement: what was kept need not be read to be written over.
    KeptAnswers.objects.bulk_create([kept], update_conflicts=True, unique_fields=["search"], update_fields=["count", "parcels", "answers"])


def kept_answers(saved: SavedSearch, parcels: Collection[int]) -> dict[int, str] | None:
    """Return how some parcels answered at the last run, a digit a line; blank for one that was not on record. None where none are kept."""
    kept = KeptAnswers.objects.filter(search=saved).first() if parcels else None
    if kept is None:
        return None
    ids = np.cumsum(np.frombuffer(zlib.decompress(kept.parcels), np.int64))
    answers = np.frombuffer(zlib.decompress(kept.answers), np.uint8)
    lines = answers.reshape(-1, -(-kept.count // _IN_A_BYTE)) if kept.count else answers.reshape(0, 0)
    places = np.flatnonzero(np.isin(ids, np.fromiter(parcels, np.int64)))
    digits = lines[:, places // _IN_A_BYTE] >> (places % _IN_A_BYTE).astype(np.uint8) * np.uint8(BITS) & np.uint8((1 << BITS) - 1)
    found = {int(ids[place]): "".join(map(str, column)) for place, column in zip(places, digits.T.tolist(), strict=True)}
    return {parcel: found.get(parcel, "") for parcel in parcels}


def answers_now(found: AnswersByParcel, parcels: Collection[int]) -> dict[int, str]:
    """Return how some parcels answer now, as ``kept_answers`` does."""
    places: Iterable[int] = np.flatnonzero(np.isin(found.parcels, np.fromiter(parcels, np.int64))) if parcels else []
    by_parcel = {int(found.parcels[place]): "".join(str(line[place]) for line in found.lines) for place in places}
    return {parcel: by_parcel.get(parcel, "") for parcel in parcels}
