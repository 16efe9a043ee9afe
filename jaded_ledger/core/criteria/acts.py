"""What can be done to a search's lines by hand, one act after another.

Every act names lines by the numbers that they had on the page on which somebody saw them, so that acts which follow fast
upon each other mean the lines they were meant for, whatever was moved or taken away between.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.search import AnyOf, Criterion, Line, Members, Quantity, Search
from jaded_ledger.core.criteria.text import LARGEST, CriteriaError, parse_line
from jaded_ledger.core.criteria.traits import Kind
from jaded_ledger.core.phrases import check_phrase
from jaded_ledger.core.whole_numbers import whole_number

_END = "end"


def _gone() -> CriteriaError:
    return CriteriaError("that line is no longer there; the search was changed in the meantime")


class Lines:
    """A search's lines under the hand. An act is ``verb:number``, or ``verb:number:other``; numbers count from 0 as shown."""

    def __init__(self, search: Search) -> None:
        self.counties = search.counties
        # Each line with the number under which it was seen; None for one that was made since.
        self._lines: list[tuple[int | None, Line]] = list(enumerate(search.lines))

    @property
    def search(self) -> Search:
        return Search(self.counties, tuple(line for _, line in self._lines))

    def add(self, search: Search) -> None:
        """Add a search's lines at the end, and take its counties where it names any. Raises CriteriaError."""
        if len(self._lines) + len(search.lines) > LARGEST:
            raise CriteriaError(f"a search has at most {LARGEST} lines")
        self.counties = search.counties or self.counties
        self._lines += [(None, line) for line in search.lines]

    def place_of(self, number: str) -> int:
        """Return where a line stands now. Raises CriteriaError for one that is no longer there."""
        wanted = whole_number(number)
        if wanted is not None:
            for place, (shown, _) in enumerate(self._lines):
                if shown == wanted:
                    return place
        raise _gone()

    def line(self, number: str) -> Line:
        """Return a line by its number. Raises CriteriaError."""
        return self._lines[self.place_of(number)][1]

    def put(self, number: str, line: Line) -> None:
        """Put another line in a line's place. Raises CriteriaError."""
        place = self.place_of(number)
        self._lines[place] = (self._lines[place][0], line)

    def put_in_place_of(self, fits: Callable[[Line], bool], line: Line | None) -> None:
        """Put a line in the place of the first that fits, or last where none does; with None that one is removed. Raises CriteriaError."""
        for place, (number, there) in enumerate(self._lines):
            if fits(there):
                self._lines[place : place + 1] = [(number, line)] if line else []
                return
        if line:
            self.add(Search((), (line,)))

    def do(self, verb: str, number: str, other: str = "") -> None:
        """Do an act. Raises CriteriaError, and KeyError for a verb that is none."""
        if verb in _ON_ONE:
            self.put(number, _ON_ONE[verb](self.line(number)))
        else:
            _ON_ALL[verb](self, number, other)

    def remove(self, number: str, _: str = "") -> None:
        del self._lines[self.place_of(number)]

    def up(self, number: str, _: str = "") -> None:
        place = self.place_of(number)
        self._lines.insert(max(0, place - 1), self._lines.pop(place))

    def down(self, number: str, _: str = "") -> None:
        place = self.place_of(number)
        self._lines.insert(place + 1, self._lines.pop(place))

    def move(self, number: str, before: str) -> None:
        """Put a line before another, or with ``end`` last."""
        place = self.place_of(number)
        if before == number:
            return
        target = len(self._lines) if before == _END else self.place_of(before)
        line = self._lines.pop(place)
        self._lines.insert(target - (place < target), line)

    def refuse(self, number: str, phrase: str) -> None:
        """Have a line of phrases refuse one more: what was found with it means something else. Raises CriteriaError."""
        line = self.line(number)
        try:
            check_phrase(phrase)
        except ValueError as error:
            raise CriteriaError(f"“{phrase[:60]}” {error}", word=phrase[:60]) from error
        members = tuple(_refusing(member, phrase) for member in line.members())
        if members == line.members():
            raise CriteriaError("that line looks for no phrases")
        self.put(number, replace(line, criteria=members) if isinstance(line, AnyOf) else members[0])

    def also(self, number: str, value: str) -> None:
        """Have a line accept one more value, as it is typed. Raises CriteriaError."""
        criterion = _only(self.line(number))
        self.put(number, replace(criterion, accepts=(*criterion.accepts, *parse_line(f"{criterion.trait}: {value}").accepts)))

    def instead(self, number: str, value: str) -> None:
        """Have a line accept another value in the place of its own, as it is typed. Raises CriteriaError."""
        criterion = _only(self.line(number))
        self.put(number, replace(criterion, accepts=parse_line(f"{criterion.trait}: {value}").accepts))

    def copy(self, number: str, _: str = "") -> None:
        """Put a line's like beneath it, struck, so that nothing changes until it is edited."""
        place = self.place_of(number)
        if len(self._lines) >= LARGEST:
            raise CriteriaError(f"a search has at most {LARGEST} lines")
        self._lines.insert(place + 1, (None, replace(self._lines[place][1], struck=True)))

    def join(self, number: str, other: str = "") -> None:
        """Make a line one of the alternatives of another; of the one above it unless another is named."""
        place = self.place_of(number)
        target = self.place_of(other) if other else place - 1
        if target < 0 or target == place:
            raise CriteriaError("there is no other line to be an alternative to")
        shown, line = self._lines[target]
        joined = self._lines[place][1]
        members = tuple(replace(member, struck=False) for member in (*line.members(), *joined.members()))
        self._lines[target] = (shown, AnyOf(members, struck=line.struck))
        del self._lines[place]

    def part(self, number: str, member: str) -> None:
        """Take a member out of its group; a group of one becomes a line as any other."""
        place = self.place_of(number)
        shown, group = self._lines[place]
        wanted = whole_number(member)
        if not isinstance(group, AnyOf) or wanted is None or wanted >= len(group.criteria):
            raise _gone()
        out = replace(group.criteria[wanted], struck=group.struck)
        left = tuple(criterion for at, criterion in enumerate(group.criteria) if at != wanted)
        rest: Line = AnyOf(left, struck=group.struck) if len(left) > 1 else replace(left[0] if left else out, struck=group.struck)
        self._lines[place] = (shown, rest)
        if left:
            self._lines.insert(place + 1, (None, out))


def _refusing(criterion: Criterion, phrase: str) -> Criterion:
    """Return a criterion of phrases that refuses one more; any other as it is."""
    asked = [value for value in criterion.accepts if isinstance(value, Members)]
    if CATALOGUE[criterion.trait].kind is not Kind.PHRASES or not asked:
        return criterion
    within = asked[0].within
    for place, value in enumerate(criterion.refuses):
        if isinstance(value, Members) and value.within == within:
            items = tuple(dict.fromkeys([*value.items, phrase]))
            refuses = (*criterion.refuses[:place], replace(value, items=items), *criterion.refuses[place + 1 :])
            return replace(criterion, refuses=refuses)
    return replace(criterion, refuses=(*criterion.refuses, Members(Quantity.ANY, (phrase,), within)))


def _strike(line: Line) -> Line:
    return replace(line, struck=True)


def _apply(line: Line) -> Line:
    return replace(line, struck=False)


def _only(line: Line) -> Criterion:
    if not isinstance(line, Criterion):
        raise CriteriaError("that is for a line of one criterion; take it out of its group first")
    return line


def _keep_unknown(line: Line) -> Line:
    return replace(_only(line), unknown=True)


def _turn(line: Line) -> Line:
    """Refuse what was accepted, and the other way round."""
    criterion = _only(line)
    if not criterion.accepts and not criterion.refuses:
        raise CriteriaError("there is no value yet that could be excluded")
    if any(isinstance(value, Members) and value.quantity is Quantity.ALL and len(value.items) > 1 for value in criterion.accepts):
        raise CriteriaError("all of several can't be excluded together; exclude each, or any of them")
    accepts = tuple(replace(value, quantity=Quantity.ANY) if isinstance(value, Members) else value for value in criterion.accepts)
    return replace(criterion, accepts=criterion.refuses, refuses=accepts)


def _ask(line: Line) -> Line:
    """Have the value asked for each time, or no longer."""
    criterion = _only(line)
    if criterion.ask and not criterion.is_applied and not criterion.struck:
        raise CriteriaError("it has no value that it could keep; fill one in, or remove the line")
    return replace(criterion, ask=not criterion.ask)


_ON_ONE: dict[str, Callable[[Line], Line]] = {
    "strike": _strike,
    "apply": _apply,
    "unknowns": _keep_unknown,
    "turn": _turn,
    "ask": _ask,
}
_ON_ALL: dict[str, Callable[[Lines, str, str], None]] = {
    "remove": Lines.remove,
    "up": Lines.up,
    "down": Lines.down,
    "move": Lines.move,
    "copy": Lines.copy,
    "join": Lines.join,
    "part": Lines.part,
    "refuse": Lines.refuse,
    "also": Lines.also,
    "instead": Lines.instead,
}
VERBS = frozenset({*_ON_ONE, *_ON_ALL})
