"""Lines whose value is asked for each time: which wait for one, and the search with the answers filled in."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass, replace

from jaded_ledger.core.criteria.search import AnyOf, Criterion, Search
from jaded_ledger.core.criteria.text import CriteriaError, line_text, parse_line


@dataclass(frozen=True)
class Question:
    """A criterion that asks: its line and, in a group, which member it is, from 0."""

    line: int
    member: int
    criterion: Criterion

    @property
    def waits(self) -> bool:
        """Whether it has no value yet."""
        return not (self.criterion.accepts or self.criterion.refuses or self.criterion.unknown)


def questions(search: Search) -> Iterator[Question]:
    """Yield what a search asks, in order; struck lines ask nothing."""
    for number, line in enumerate(search.lines):
        for member, criterion in enumerate(line.members()):
            if criterion.ask and not line.struck:
                yield Question(number, member, criterion)


def _put(search: Search, question: Question, criterion: Criterion) -> Search:
    line = search.lines[question.line]
    if isinstance(line, AnyOf):
        members = (*line.criteria[: question.member], criterion, *line.criteria[question.member + 1 :])
        return search.with_line_at(question.line, replace(line, criteria=members))
    return search.with_line_at(question.line, criterion)


def answered(search: Search, question: Question, value: str) -> Search:
    """Return the search with a value, as it is typed in the text form, for a question. Raises CriteriaError."""
    return _put(search, question, replace(parse_line(f"{question.criterion.trait}: {value}"), ask=True))


def unanswered(search: Search, *, but: Collection[str] = ()) -> Search:
    """Return the search with all that it asks still to be asked, as it is when it is opened; ``but`` are traits that keep their answer."""
    for question in questions(search):
        if question.criterion.trait in but:
            continue
        search = _put(search, question, Criterion(question.criterion.trait, ask=True))
    return search


def answer_text(question: Question) -> str:
    """Return the value that a question has, as it is typed; blank where it waits for one."""
    return "" if question.waits else line_text(replace(question.criterion, ask=False)).partition(": ")[2]


def with_answers(search: Search, answers: Sequence[tuple[str, str]]) -> Search:
    """Return the search with pairs of trait and value filled in, a trait's questions in the order of their lines.

    Raises CriteriaError for an answer to nothing that is asked, and for a question that is left without a value.
    """
    left = list(questions(search))
    for trait, value in answers:
        question = next((one for one in left if one.criterion.trait == trait), None)
        if question is None:
            asked = ", ".join(dict.fromkeys(one.criterion.trait for one in questions(search)))
            raise CriteriaError(f"{trait} is not asked (left to be asked: {asked})" if asked else "the search asks for nothing", word=trait)
        left.remove(question)
        search = answered(search, question, value)
    waiting = [one.criterion.trait for one in questions(search) if one.waits]
    if waiting:
        raise CriteriaError(f"{waiting[0]} is to be asked; give it a value, as in {waiting[0]}=VALUE", word=waiting[0])
    return search
