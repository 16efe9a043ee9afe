"""What a search asks for before it is whole: each trait with a value that is proposed, and how its values lie."""

from __future__ import annotations

from collections import ChainMap
from contextlib import suppress
from dataclasses import dataclass, replace

from jaded_ledger.core.criteria.asking import Question, questions
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.search import Criterion
from jaded_ledger.core.criteria.text import CriteriaError, parse_line
from jaded_ledger.core.criteria.traits import Kind, Trait
from jaded_ledger.find.answer import Answer
from jaded_ledger.find.histogram import Histogram, histogram
from jaded_ledger.plugins import hooks

_EXAMPLES = {
    Kind.NUMBER: "3.. or 2..4",
    Kind.MONEY: "..250k",
    Kind.PERCENT: "60..",
    Kind.DATE: "more than 5 years ago",
    Kind.FLAG: "yes or no",
    Kind.PARCEL_NUMBER: "12-034-*",
    Kind.RING: "0.5 mi of parcel 12-034-007",
}
_RANGES = (Kind.NUMBER, Kind.MONEY, Kind.PERCENT, Kind.DATE)


@dataclass(frozen=True)
class AskedValue:
    """A trait that is asked for: what an answer looks like, what is proposed, and how its values lie over what the other lines leave."""

    trait: Trait
    example: str
    proposed: str = ""
    picture: Histogram | None = None


def _asked(question: Question) -> AskedValue:
    trait = CATALOGUE[question.criterion.trait]
    example = ", ".join(choice.key for choice in trait.choices[:4]) if trait.choices else _EXAMPLES.get(trait.kind, "")
    return AskedValue(trait, example)


def asked_values(answer: Answer) -> list[AskedValue]:
    """Return what a search waits for, in order. Of one that can't be asked otherwise nothing is proposed."""
    waiting = [question for question in questions(answer.asked.search) if question.waits]
    found = [_asked(question) for question in waiting]
    if not found:
        return []
    with suppress(CriteriaError):
        proposed = ChainMap(*({**one} for one in hooks.proposed_answers(answer=answer)))
        proposals = [proposed.get((question.line, question.member), "") for question in waiting]
        found = [replace(one, proposed=text, picture=_picture(answer, one.trait, text)) for one, text in zip(found, proposals, strict=True)]
    return found


def _picture(answer: Answer, trait: Trait, proposed: str) -> Histogram | None:
    if trait.kind not in _RANGES:
        return None
    criterion = parse_line(f"{trait.key}: {proposed}") if proposed else None
    assert criterion is None or isinstance(criterion, Criterion)
    return histogram(answer.compiled, trait, criterion)
