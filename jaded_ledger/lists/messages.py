"""What a name may be, and how it is said what was done and what can't be."""

from __future__ import annotations

from django.contrib import messages
from django.http import HttpRequest
from django.urls import reverse

from jaded_ledger.core.words import folded
from jaded_ledger.find.named_things import MARK
from jaded_ledger.lists.models import Activity


class ListError(ValueError):
    """An act that can't be done; the message says why and what to do."""


def named(name: str, longest: int, what: str) -> tuple[str, str]:
    """Return a name as it is kept and as it is compared. Raises ListError."""
    kept = " ".join(name.replace("\x00", "").split())
    if not kept:
        raise ListError(f"the {what} has no name yet")
    if kept.startswith(MARK):
        raise ListError(f"the name of a {what} can't begin with {MARK}; searches are kept with it")
    if len(kept) > longest:
        raise ListError(f"the name of a {what} has at most {longest} characters; this one has {len(kept)}")
    return kept, folded(kept)


def say_done(request: HttpRequest, text: str, done: Activity | None) -> None:
    """Say what was done on the page that follows, with a button that undoes it, where anything was done."""
    messages.success(request, text, extra_tags=reverse("lists:undo", args=[done.pk]) if done else "")


def so_many(done: Activity | None, of: int) -> str:
    """Say how many of some parcels an act changed: 12 of 15."""
    return f"{done.rows if done else 0:,} of {of:,}"


def the_others(done: Activity | None, of: int, were: str) -> str:
    """Say what is so of those that an act left as they were; nothing where there is none."""
    return f"; the others {were}" if (done.rows if done else 0) < of else ""
