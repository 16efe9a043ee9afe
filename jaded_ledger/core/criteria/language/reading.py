"""A sentence read: what each part of it means, what it may mean as well, and which words were not used."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from datetime import date
from itertools import product

from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.language.corrections import Correction
from jaded_ledger.core.criteria.language.edges import Edge, Option, Recorded, edges, known_words, trait_of
from jaded_ledger.core.criteria.language.idioms import FILLERS, NEAR
from jaded_ledger.core.criteria.language.tokens import LONGEST, Token, is_hedge, lex
from jaded_ledger.core.criteria.search import Criterion
from jaded_ledger.core.criteria.text import CriteriaError, line_text, parse_line
from jaded_ledger.core.criteria.trait_names import is_slip
from jaded_ledger.core.criteria.traits import Kind, Trait

_NEGATORS = frozenset("no not without except excluding non never arent isnt dont doesnt minus".split())
_NEGATING_PAIRS = frozenset((("other", "than"), ("anything", "but"), ("everything", "but")))
_BEFORE_NEGATED = frozenset("a an the want need in on to is are any of its their owned by but show me".split())
_UNUSED_WORD, _UNUSED_FIGURE = 9.0, 40.0
_LEARNED = 12.0
"""What a word of a correction is worth: more than in any row of the tables."""


@dataclass(frozen=True)
class Part:
    """A part of a sentence: its words and where they start, and the options of what they mean, one of which is chosen where several."""

    words: str
    start: int
    options: tuple[Option, ...]
    others: tuple[Option, ...] = ()
    """What its words mean as well, though less likely."""

    @property
    def end(self) -> int:
        """Where its words end in the sentence."""
        return self.start + len(self.words)


@dataclass(frozen=True)
class Reading:
    """What a sentence means. ``cannot`` is what no record tells, with the traits that are near."""

    parts: tuple[Part, ...]
    unused: tuple[str, ...] = ()
    cannot: tuple[tuple[str, tuple[str, ...]], ...] = ()
    is_learned: bool = False
    """Whether a part is offered as the team corrected it."""

    @property
    def is_clear(self) -> bool:
        """Whether every word is used and nothing is left to be chosen."""
        return bool(self.parts) and not self.unused and not self.cannot and all(len(part.options) == 1 for part in self.parts)

    @property
    def lines(self) -> tuple[str, ...]:
        """The criteria, of each part the first option."""
        return tuple(line for part in self.parts for line in part.options[0])


def _without_slips(tokens: Sequence[Token], known: frozenset[str]) -> list[Token]:
    """Put the word that was meant in the place of one with a letter wrong."""
    found = []
    for token in tokens:
        if token.is_word and len(token.text) >= 5 and token.text not in known:
            near = sorted(word for word in known if len(word) >= 4 and is_slip(token.text, word))
            if len(near) == 1 or (near and all(word.startswith(near[0]) for word in near)):
                token = replace(token, text=near[0])
        found.append(token)
    return found


def _best(tokens: Sequence[Token], found: Sequence[Edge]) -> list[Edge]:
    """Return the edges, none over another, that explain most: words not used cost, and figures more."""
    by_start: dict[int, list[Edge]] = {}
    for edge in found:
        by_start.setdefault(edge.start, []).append(edge)
    best: list[tuple[float, Edge | None]] = [(0.0, None)] * (len(tokens) + 1)
    for place in range(len(tokens) - 1, -1, -1):
        best[place] = (best[place + 1][0] - _cost(tokens[place]), None)
        for edge in by_start.get(place, ()):
            worth = edge.worth + best[edge.end][0]
            if worth > best[place][0]:
                best[place] = (worth, edge)
    path: list[Edge] = []
    place = 0
    while place < len(tokens):
        taken = best[place][1]
        if taken:
            path.append(taken)
        place = taken.end if taken else place + 1
    return path


def _cost(token: Token) -> float:
    if token.number is not None:
        return _UNUSED_FIGURE
    if not token.is_word:
        return _UNUSED_WORD if token.counts else 0.0
    return 0.0 if token.text in FILLERS or token.text in _NEGATORS or token.text in ("or", "but", "only") else _UNUSED_WORD


def _negated(line: str) -> str | None:
    """Return a line that asks for what another refuses; None where that can't be said in one."""
    if line.startswith("{"):
        return None
    criterion = parse_line(line)
    trait = CATALOGUE[criterion.trait]
    value = line.partition(": ")[2]
    match trait.kind:
        case Kind.FLAG:
            return f"{trait.key}: {'no' if value == 'yes' else 'yes'}"
        case Kind.CHOICE | Kind.PLACE | Kind.NAME if value not in ("any", "unknown"):
            return _line(f"{trait.key}: {'not ' if not value.startswith('not ') else ''}{value.removeprefix('not ')}")
        case Kind.SET if value.startswith("any of "):
            return _line(f"{trait.key}: none of {value.removeprefix('any of ')}")
        case Kind.PHRASES if value.startswith("any of "):
            return _line(f"{trait.key}: none of {value.removeprefix('any of ')}")
        case Kind.NUMBER | Kind.MONEY if value == "1..":
            return _line(f"{trait.key}: 0")
    return _line(f"{trait.key}: none") if value == "any" else None


def _line(text: str) -> str | None:
    try:
        return line_text(parse_line(text))
    except CriteriaError:
        return None


def _negate(options: Sequence[Option]) -> tuple[Option, ...] | None:
    if len(options) != 1:
        return None
    *kept, last = options[0]
    refused = _negated(last)
    return ((*kept, refused),) if refused else None


@dataclass(frozen=True)
class _Item:
    """A part while parts are put together: whether it is refused, and whether *or* stands before it."""

    start: int
    end: int
    options: tuple[Option, ...]
    is_negated: bool
    is_or: bool
    is_listed: bool
    others: tuple[Option, ...] = ()


def _merged(one: str, other: str) -> str | None:
    """Return a line that accepts, or refuses, what either of two of one trait does; None for lines of two traits, and for ranges."""
    if one.startswith("{") or other.startswith("{"):
        return None
    first, second = parse_line(one), parse_line(other)
    if first.trait != second.trait:
        return None
    accepts, refuses = dict.fromkeys((*first.accepts, *second.accepts)), dict.fromkeys((*first.refuses, *second.refuses))
    joined = Criterion(first.trait, tuple(accepts), tuple(refuses), first.unknown or second.unknown)
    return line_text(joined)


def _is_choice(line: str) -> bool:
    trait = trait_of(line)
    return trait is not None and trait.kind in (Kind.CHOICE, Kind.PLACE, Kind.NAME)


def _joined(items: list[_Item]) -> list[_Item]:
    """Put alternatives together: values of one trait in one line, others in a group."""
    found: list[_Item] = []
    for item in items:
        before = found[-1] if found else None
        if before and len(before.options) == len(item.options) == 1 and len(before.options[0]) == len(item.options[0]) == 1:
            one, other = before.options[0][0], item.options[0][0]
            same = one.partition(":")[0] == other.partition(":")[0] and _is_choice(one)
            if before.is_negated and not item.is_negated and (item.is_or or item.is_listed) and same and (refused := _negated(other)):
                item, other = replace(item, options=((refused,),), is_negated=True), refused
            if same and before.is_negated == item.is_negated and (merged := _merged(one, other)):
                found[-1] = replace(before, end=item.end, options=((merged,),), others=())
                continue
            if same and item.is_negated and not before.is_negated and (merged := _merged(one, other)):
                found[-1] = replace(before, end=item.end, options=((merged,),), others=())
                continue
            if item.is_or:
                members = [*one.strip("{}").split(" | "), other]
                merged = _merged(one, other) if one.partition(":")[0] == other.partition(":")[0] else None
                found[-1] = replace(before, end=item.end, options=((merged or "{" + " | ".join(members) + "}",),), others=())
                continue
        found.append(item)
    return found


def _others(edge: Edge, found: Sequence[Edge]) -> tuple[Option, ...]:
    """Return what the same words mean by other rows of the tables."""
    same = (option for one in found if (one.start, one.end) == (edge.start, edge.end) for option in one.options)
    return tuple(option for option in dict.fromkeys(same) if option not in edge.options)


def _items(tokens: Sequence[Token], path: Sequence[Edge], found: Sequence[Edge], unused: list[int]) -> list[_Item]:
    items: list[_Item] = []
    last = 0
    for edge in path:
        between = [token.text for token in tokens[last : edge.start]]
        words = list(between)
        while words and words[-1] in (*_BEFORE_NEGATED, "all", "with"):
            words.pop()
        is_refused = (bool(words) and words[-1] in _NEGATORS) or tuple(between[-2:]) in _NEGATING_PAIRS
        is_or = "or" in between
        if is_refused:
            negated = _negate(edge.options)
            if negated is None:
                unused += range(edge.start, edge.end)
                unused += [at for at in range(last, edge.start) if tokens[at].text in _NEGATORS]
                last = edge.end
                continue
            edge = replace(edge, options=negated)
        # A run of commas that ends in "or" is one run of alternatives.
        is_listed = "and" in between or "," in between or not between
        others = () if is_refused else _others(edge, found)
        items.append(_Item(edge.start, edge.end, edge.options, is_refused, is_or, is_listed, others))
        last = edge.end
    for place in range(len(items) - 1, 0, -1):
        if items[place].is_or and place >= 2:
            before = items[place - 1]
            between = [token.text for token in tokens[items[place - 2].end : before.start]]
            after = items[place]
            if between == [","] and _is_alike(items[place - 2], before) and _is_alike(before, after):
                items[place - 1] = replace(before, is_or=True)
    return items


def _is_alike(one: _Item, other: _Item) -> bool:
    """Return whether two parts are of one section of the catalog, so that a comma between them can be an *or*."""
    first, second = one.options[0][-1], other.options[0][-1]
    a, b = trait_of(first), trait_of(second)
    return a is not None and b is not None and a.section is b.section and a.kind is b.kind


def _learned(tokens: Sequence[Token], found: Sequence[Edge], corrections: Sequence[Correction]) -> Iterator[Edge]:
    """Yield a span for each correction whose words are in a sentence: its lines are the first option, its own reading the next."""
    for correction in corrections:
        for start, end in correction.spans(tokens):
            within = [
                replace(edge, start=edge.start - start, end=edge.end - start)
                for edge in found
                if start <= edge.start and edge.end <= end and edge.options
            ]
            own = _best(tokens[start:end], within)
            options = [tuple(line for option in chosen for line in option) for chosen in product(*(edge.options for edge in own))]
            yield Edge(start, end, tuple(dict.fromkeys([correction.lines, *filter(None, options)])), _LEARNED * (end - start))


def read(sentence: str, traits: Sequence[Trait], recorded: Recorded, today: date, corrections: Sequence[Correction] = ()) -> Reading:
    """Return what a sentence means. Every word and figure is in a part, in what was not used, or says nothing by itself.

    Words that a team corrected are offered as it corrected them, and as they would be read.
    """
    known = tuple(traits)
    lexed = lex(sentence)
    if len(lexed) > LONGEST:
        return Reading((), (sentence.strip(),))
    tokens = _without_slips(lexed, known_words(known))
    found = edges(tokens, sentence, known, recorded, today)
    learned = list(_learned(lexed, found, corrections))
    path = _best(tokens, [*found, *learned])
    covered = {place for edge in path for place in range(edge.start, edge.end)}
    unused = [place for place, token in enumerate(tokens) if (place not in covered and _cost(token) > 0) or is_hedge(tokens, place)]
    asked = [edge for edge in path if not edge.cannot]
    items = _joined(_items(tokens, asked, found, unused))
    negators = [place for place, token in enumerate(tokens) if token.text in _NEGATORS and place not in covered]
    for place in negators:
        if not any(item.is_negated and item.start > place for item in items) and place not in unused:
            unused.append(place)
    parts = []
    for item in items:
        start, end = tokens[item.start].start, tokens[item.end - 1].end
        parts.append(Part(sentence[start:end], start, item.options, item.others))
    cannot = tuple((edge.cannot, NEAR.get(edge.cannot, ())) for edge in path if edge.cannot)
    return Reading(tuple(parts), _runs(sentence, tokens, sorted(set(unused))), cannot, any(edge in path for edge in learned))


def _runs(sentence: str, tokens: Sequence[Token], places: Sequence[int]) -> tuple[str, ...]:
    """Return words that were not used, those side by side together."""
    found: list[list[int]] = []
    for place in places:
        if found and found[-1][-1] == place - 1:
            found[-1].append(place)
        else:
            found.append([place])
    return tuple(re.sub(r"\s+", " ", sentence[tokens[run[0]].start : tokens[run[-1]].end]) for run in found)
