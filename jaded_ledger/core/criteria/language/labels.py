"""A trait by its own label with a value behind it, as pages show a line: ``equity % over 50 %``, ``last sale before 1 Jan 2010``."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from functools import lru_cache

from jaded_ledger.core.criteria.language.tokens import Token, lex
from jaded_ledger.core.criteria.search import Members
from jaded_ledger.core.criteria.text import CriteriaError, line_text, parse_line
from jaded_ledger.core.criteria.traits import Kind, Trait

_LONGEST = 48
"""Tokens of a value."""
_WRITTEN = (
    ("“", '"'), ("”", '"'), ("−", "-"), ("not known", "unknown"), ("or earlier", "or before"), (", but not ", "; not "),
    ("; not any of ", "; none of "),
)  # fmt: skip
"""How pages show values, and how the text form has them."""
_OPEN = (Kind.NAME, Kind.PHRASES, Kind.PLACE, Kind.PARCEL_NUMBER)
"""Kinds of which any text may be a value: it counts only in quotes."""
_IN_QUOTES = re.compile(r'(?:not |(?:any|all|none) of )*".*"\*?')
_ALONE = frozenset(("yes", "no", "not", "none", "any", "unknown"))
"""Values that end a line, unless a sign or the sentence's end says so they belong to the words behind them."""
_PRESENCES = frozenset(("any", "none", "unknown"))


Named = list[tuple[tuple[str, ...], Trait]]
"""Traits with the words of their labels."""


@lru_cache(maxsize=8)
def _by_first_word(traits: tuple[Trait, ...]) -> dict[str, Named]:
    found: dict[str, Named] = {}
    for trait in traits:
        words = tuple(token.key for token in lex(trait.label))
        found.setdefault(words[0], []).append((words, trait))
    return found


def _value(trait: Trait, text: str) -> str:
    for shown, written in _WRITTEN:
        text = text.replace(shown, written)
    if trait.kind in (Kind.SET, Kind.PHRASES):
        text = re.sub(r"\bnot any of\b", "none of", text)
    text = re.sub(r"\bon (?=\d|today)", "", text)
    text = re.sub(r'\bbeginning ("[^"]*")', r"\1*", text)
    return re.sub(r'\b(?:with|but) (?=not |none |")', "", text)


def _line(trait: Trait, text: str) -> str | None:
    value = _value(trait, text)
    is_open = trait.kind in _OPEN or (trait.kind is Kind.SET and not trait.value_names())
    if is_open and value not in _PRESENCES and not _IN_QUOTES.fullmatch(value):
        return None
    try:
        found = parse_line(f"{trait.key}: {value}")
    except CriteriaError:
        return None
    declared = {key for key, _ in trait.value_names()} | {umbrella.key for umbrella in trait.umbrellas}
    members = (item for one in (*found.accepts, *found.refuses) if isinstance(one, Members) for item in one.items)
    # Without quotes only a value that the trait has is one: not "and out of state".
    return line_text(found) if '"' in value or all(item in declared for item in members) else None


def labeled(tokens: Sequence[Token], sentence: str, traits: tuple[Trait, ...]) -> Iterator[tuple[int, int, str]]:
    """Yield spans that begin with a trait's label and go on with a value of it, each as long as it can be, with its line."""
    by_first, keys = _by_first_word(traits), [token.key for token in tokens]
    for start in range(len(tokens)):
        named = [(words, trait) for words, trait in by_first.get(keys[start], ()) if tuple(keys[start : start + len(words)]) == words]
        for words, trait in _to_the_letter(named, tokens, start, sentence):
            after = start + len(words)
            after += after < len(tokens) and tokens[after].text == ":"
            if after >= len(tokens):
                continue
            # What closes a quote stands behind the last token of it.
            for end in range(min(len(tokens), after + _LONGEST), after, -1):
                if end < len(tokens) and tokens[end].text == "%" and trait.kind is not Kind.PERCENT:
                    continue
                if tokens[end - 1].text in _ALONE and end < len(tokens) and (tokens[end].is_word or tokens[end].number is not None):
                    # No of "pool no garage" is of what follows.
                    continue
                if line := _line(trait, sentence[tokens[after].start : tokens[end - 1].end]):
                    yield start, end, line
                    break


def _to_the_letter(named: Named, tokens: Sequence[Token], start: int, sentence: str) -> Named:
    """Return of labels that differ in the s of several alone the one that is written, where it is one of them."""
    exact = [
        (words, trait)
        for words, trait in named
        if sentence[tokens[start].start : tokens[start + len(words) - 1].end].casefold() == trait.label.casefold()
    ]
    # Of labels that begin alike the longest is meant: stage since, not stage.
    return sorted(exact or named, key=lambda one: -len(one[0]))
