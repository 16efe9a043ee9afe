"""Criteria from the command line: as text, from a file, or from standard input."""

from __future__ import annotations

import sys
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

from django.core.management.base import CommandError, CommandParser

from jaded_ledger.accounts.scope import Scope, ScopeError, scope_of_command
from jaded_ledger.core.criteria.asking import questions, unanswered, with_answers
from jaded_ledger.core.criteria.text import CriteriaError
from jaded_ledger.find.answer import Answer
from jaded_ledger.find.named_things import search_from
from jaded_ledger.find.said import text_said
from jaded_ledger.find.search_page import SearchPage
from jaded_ledger.plugins import hooks


def add_arguments(parser: CommandParser) -> None:
    """Add what every command about a search takes."""
    parser.add_argument(
        "criteria", nargs="?", default="-",
        help="the search, one criterion a line; @FILE reads it from a file, - or nothing from standard input",
    )  # fmt: skip
    parser.add_argument(
        "--saved", metavar="NAME", help="a saved search, or a starter, in place of criteria (bin/manage searches lists them)"
    )
    parser.add_argument(
        "--say", metavar="SENTENCE", help="criteria as people say them, in place of criteria: --say 'empty duplexes with unpaid taxes'"
    )
    parser.add_argument(
        "--ask", action="append", default=[], metavar="TRAIT=VALUE",
        help="a value for a line that asks for it each time; once for each such line",
    )  # fmt: skip
    parser.add_argument("--team", help="on whose behalf (needed only where there are several teams)")


def _page(criteria: str, saved: str | None, asked: Sequence[str], scope: Scope, said: str | None) -> SearchPage:
    """Return what a command asks. Raises CommandError, CriteriaError, OSError and UnicodeDecodeError."""
    answers = [_answer(one) for one in asked]
    if said is not None:
        if criteria != "-" or saved is not None:
            raise CommandError("one of criteria, --say and --saved", returncode=2)
        return SearchPage(with_answers(search_from(text_said(said, scope), scope.team), answers))
    if saved is None:
        if criteria == "-":
            text = sys.stdin.read()
        elif criteria.startswith("@"):
            text = Path(criteria[1:]).read_text(encoding="utf-8")
        else:
            text = criteria
        return SearchPage(with_answers(search_from(text, scope.team), answers))
    if criteria != "-":
        raise CommandError("either criteria or --saved, not both", returncode=2)
    page = hooks.named_search(name=saved, scope=scope)
    # What isn't asked anew keeps the answer that the search was kept with.
    kept = {one.criterion.trait for one in questions(page.search)} - {trait for trait, _ in answers}
    return replace(page, search=with_answers(unanswered(page.search, but=kept), answers))


def answer_from(
    criteria: str, asked: Sequence[str], team: str | None, *, saved: str | None = None, said: str | None = None, sort: str = ""
) -> Answer:
    """Return the answer to the search of a command, what it asks filled in. Raises CommandError, with exit code 2."""
    try:
        scope = scope_of_command(team)
        page = _page(criteria, saved, asked, scope, said)
        answer = Answer(replace(page, sort=sort or page.sort, by=""), scope)
        # What can't be asked is said here.
        answer.compiled  # noqa: B018
        return answer
    except (CriteriaError, ScopeError) as error:
        raise CommandError(str(error), returncode=2) from error
    except OSError as error:
        raise CommandError(f"{criteria[1:]} can't be read: {error.strerror}", returncode=2) from error
    except UnicodeDecodeError as error:
        raise CommandError(f"{criteria[1:]} is not text in UTF-8", returncode=2) from error


def _answer(text: str) -> tuple[str, str]:
    trait, sign, value = text.partition("=")
    if not sign or not value.strip():
        raise CriteriaError(f'"{text}" is no answer; write one as beds=3..', word=text)
    return trait.strip().casefold(), value.strip()
