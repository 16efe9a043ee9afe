"""What of the morning is done to one property on its page: noted, or passed."""

from __future__ import annotations

from django.urls import reverse

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.plugins.entries import ActField, Done, PropertyAct
from jaded_ledger.records.clock import now
from jaded_ledger.records.models import Parcel
from jaded_ledger.watch import morning
from jaded_ledger.watch.acts import NOTES
from jaded_ledger.watch.models import Mark
from jaded_ledger.watch.watching import WatchError


def _undone_by(mark: Mark) -> str:
    return reverse("watch:undo-mark", args=[mark.pk])


def _note(parcel: Parcel, scope: Scope, typed: str) -> Done:
    return Done("Note added.", _undone_by(morning.note(scope, parcel, typed)))


def _pass(parcel: Parcel, scope: Scope, typed: str) -> Done:
    return Done("Passed. It comes back when a record changes.", _undone_by(morning.pass_over(scope, parcel, now(), typed)))


def _reasons(parcel: Parcel, scope: Scope) -> ActField:
    return ActField(tuple(morning.reasons_of(scope)), hint="why, or Enter")


ACTS_ON_PROPERTY = (
    PropertyAct("note", "note", "n", 40, _note, NOTES, (WatchError,), lambda parcel, scope: ActField()),
    PropertyAct("pass", "pass", "p", 50, _pass, None, (), _reasons),
)
