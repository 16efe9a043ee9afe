"""What a saved search finds, kept with the days on which parcels came and went, and what changed about those that stayed."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

from django.db import transaction

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.text import CriteriaError
from jaded_ledger.core.criteria.traits import Kind, Trait
from jaded_ledger.find.answer import Answer
from jaded_ledger.find.answers_by_parcel import AnswersByParcel, answers_by_parcel
from jaded_ledger.records.bulk import allot_ids, among_ids, analyse, copy_rows
from jaded_ledger.records.clock import now, today
from jaded_ledger.records.models import ParcelFacts
from jaded_ledger.records.rounds import go_round
from jaded_ledger.records.versions import facts_version
from jaded_ledger.searches.followed_lists import follow_up
from jaded_ledger.searches.kept_answers import answers_now, keep_answers, kept_answers
from jaded_ledger.searches.models import Change, Match, Run, SavedSearch
from jaded_ledger.searches.services import current_version, page_of

WATCHED = ("status", "listing-number", "list-price", "owner-name", "foreclosure-stage", "auction", "open-signals")
"""Traits of which it is told that they changed: what somebody would write or call about."""
_AT_ONCE = 5_000


def _state(version: int, scope: Scope) -> str:
    """Return what tells one reckoning from another: nothing changed where it is the same."""
    return f"{version} {facts_version()} {scope.today} {scope.team.version}"


def _kept(trait: Trait, value: Any) -> Any:
    if trait.kind is Kind.CHOICE:
        return trait.choice_by_code(value).key
    return value.isoformat() if trait.kind is Kind.DATE else value


def watched_of(ids: Sequence[int]) -> dict[int, dict[str, Any]]:
    """Return what is watched of some parcels, by parcel: figures, words, days as ISO 8601. What is not known is left out."""
    traits = [CATALOGUE[key] for key in WATCHED]
    columns = [f"{trait.fact}__text" if trait.kind is Kind.NAME else trait.fact for trait in traits]
    found: dict[int, dict[str, Any]] = {}
    for pk, *values in ParcelFacts.objects.filter(pk__in=among_ids(ids)).values_list("pk", *columns).order_by():
        found[pk] = {trait.key: _kept(trait, value) for trait, value in zip(traits, values, strict=True) if value is not None}
    return found


def _begin_run(saved: SavedSearch, version: int, scope: Scope, is_edit: bool) -> Run:
    before = saved.runs.first()
    at = before.at if before else None
    return Run(search=saved, at=now(), before=at, day=scope.today, facts_version=facts_version(), version=version, is_edit=is_edit)


def _note_gone(run: Run, gone: Mapping[int, int], answers: AnswersByParcel) -> None:
    """Note that matches, by parcel, are none any more, and which lines took them off."""
    after = answers_now(answers, gone.keys())
    left = [Match(pk=pk, left_at=run.at, left_by_edit=run.is_edit, answers_after=after[parcel]) for parcel, pk in gone.items()]
    Match.objects.bulk_update(left, ["left_at", "left_by_edit", "answers_after"], batch_size=_AT_ONCE)
    run.left = len(left)


def _note_fresh(run: Run, fresh: Mapping[int, dict[str, Any]]) -> None:
    """Note that parcels match, and how each answered before; after an edit that says nothing."""
    before = None if run.is_edit else kept_answers(run.search, fresh.keys())
    rows = [
        {
            "id": pk, "search_id": run.search_id, "parcel_id": parcel, "entered_at": run.at, "by_edit": run.is_edit, "left_at": None,
            "left_by_edit": False, "watched": watched, "answers_before": before[parcel] if before is not None else None,
            "answers_after": None,
        }
        for pk, (parcel, watched) in zip(allot_ids(Match, len(fresh)), fresh.items(), strict=True)
    ]  # fmt: skip
    copy_rows(Match, rows)
    analyse(Match, len(rows))
    run.entered = len(rows)


def _note_changed(run: Run, changed: Sequence[tuple[int, dict[str, Any], dict[str, Any]]]) -> None:
    """Note what is watched of matches, which is other than it was."""
    Change.objects.bulk_create((Change(match_id=pk, at=run.at, before=before) for pk, before, _ in changed), batch_size=_AT_ONCE)
    Match.objects.bulk_update([Match(pk=pk, watched=after) for pk, _, after in changed], ["watched"], batch_size=_AT_ONCE)
    run.changed = len(changed)


@transaction.atomic
def reckon(saved: SavedSearch, scope: Scope) -> Answer:
    """Bring a search's matches up to date and return its answer: who came, who went, what changed. Raises CriteriaError.

    Several at once wait for one another; whoever comes second finds nothing to do.
    """
    version = current_version(saved)
    answer = Answer(page_of(version, scope), scope)
    locked = SavedSearch.objects.select_for_update().get(pk=saved.pk)
    state = _state(version.number, scope)
    if locked.reckoned == state:
        return answer
    # Of another version than the one before, what comes and goes does so because the search was edited.
    is_edit = locked.reckoned.partition(" ")[0] != str(version.number)
    answers = answers_by_parcel(answer.compiled)
    there = watched_of(answers.matches)
    run = _begin_run(locked, version.number, scope, is_edit)
    kept = Match.objects.filter(search=saved, left_at=None).values_list("parcel_id", "pk", "watched")
    known = {parcel: (pk, watched) for parcel, pk, watched in kept}
    _note_gone(run, {parcel: pk for parcel, (pk, _) in known.items() if parcel not in there}, answers)
    _note_fresh(run, {parcel: watched for parcel, watched in there.items() if parcel not in known})
    both = ((*known[parcel], watched) for parcel, watched in there.items() if parcel in known)
    _note_changed(run, [one for one in both if one[1] != one[2]])
    run.matches = len(there)
    run.save()
    keep_answers(saved, answers)
    locked.reckoned = state
    locked.save(update_fields=["reckoned"])
    # What follows does so to the row: who added it, and took it off, is told by its list.
    follow_up(saved, there.keys(), answer.asked, replace(scope, user=None))
    return answer


def reckon_if_askable(saved: SavedSearch, scope: Scope) -> bool:
    """Bring a search's matches up to date, and return whether it could be asked.

    It is called right after a search was changed, too: what comes later would be taken for what the change brought.
    """
    try:
        reckon(saved, scope)
    except CriteriaError:
        return False
    return True


def scope_of_search(saved: SavedSearch) -> Scope:
    """Return on whose behalf a search is asked when nobody opens it: its owner's, today."""
    return Scope(saved.team, saved.owner, today(saved.team.time_zone))


def reckon_all() -> int:
    """Bring the matches of every saved search up to date; return how many could be asked."""
    every = SavedSearch.objects.filter(deleted_at=None).select_related("team", "owner")
    return sum(go_round("matches of saved searches", every, lambda one: reckon_if_askable(one, scope_of_search(one))))
