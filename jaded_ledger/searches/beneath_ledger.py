"""What stands beneath a search's ledger in Find: under what name it is kept, whether it was changed since, and what is new."""

from __future__ import annotations

from contextlib import suppress
from typing import Any

from jaded_ledger.core.criteria.text import CriteriaError
from jaded_ledger.find.answer import Answer
from jaded_ledger.searches.news import news_of
from jaded_ledger.searches.origins import search_of_origin, starter_of_origin
from jaded_ledger.searches.services import current_version, is_as_kept, last_opened, may_change


def kept_context(answer: Answer) -> dict[str, Any]:
    """Return what the panel needs. What is new is told of a search that is as it was kept: of another it would be another's."""
    scope, asked = answer.scope, answer.asked
    saved = search_of_origin(asked.origin, scope)
    if saved is None:
        has_lines = bool(asked.search.lines or asked.search.counties)
        return {"saved": None, "starter": starter_of_origin(asked.origin), "has_lines": has_lines}
    is_same = False
    with suppress(CriteriaError):
        is_same = is_as_kept(current_version(saved), asked, scope)
    context: dict[str, Any] = {"saved": saved, "is_as_kept": is_same, "may_change": may_change(saved, scope)}
    return context | {"news": news_of(saved, last_opened(scope, saved))} if is_same else context
