"""Acts on a search's lines, by the numbers under which they were seen."""

from __future__ import annotations

from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from jaded_ledger.core.criteria.acts import VERBS, Lines, _refusing
from jaded_ledger.core.criteria.text import CriteriaError, format, parse, parse_line

SEARCH = """county: Tamarack
beds: 3..
class: duplex; not triplex
any of:
  units: 2..
  baths: 2
~ year-built: ..1960
remarks: all of "as is", "cash"
"""


def after(*acts: str, search: str = SEARCH) -> str:
    lines = Lines(parse(search))
    for act in acts:
        lines.do(*act.split(":"))
    return format(lines.search)


class Acts(TestCase):
    def lines(self, *acts: str) -> list[str]:
        return after(*acts).splitlines()[1:]

    def test_each(self) -> None:
        for acts, line, text in (
            (("strike:0",), 0, "~ beds: 3.."),
            (("apply:3",), 5, "year-built: ..1960"),
            (("turn:0",), 0, "beds: not 3.."),
            (("turn:0", "turn:0"), 0, "beds: 3.."),
            (("turn:1",), 1, "class: triplex; not duplex"),
            (("turn:3",), 5, "~ year-built: not ..1960"),
            (("unknowns:0",), 0, "beds: 3.., or unknown"),
            (("ask:0",), 0, "beds: ask 3.."),
            (("copy:0",), 1, "~ beds: 3.."),
            (("up:1",), 0, "class: duplex; not triplex"),
            (("down:0",), 1, "beds: 3.."),
            (("move:0:end",), 6, "beds: 3.."),
            (("move:4:0",), 0, 'remarks: all of "as is", "cash"'),
            (("move:0:3",), 4, "beds: 3.."),
        ):  # fmt: skip
            with self.subTest(acts):
                self.assertEqual(self.lines(*acts)[line], text)

    def test_groups(self) -> None:
        self.assertEqual(self.lines("join:1")[:3], ["any of:", "  beds: 3..", "  class: duplex; not triplex"])
        self.assertEqual(self.lines("join:0:2")[1:5], ["any of:", "  units: 2..", "  baths: 2", "  beds: 3.."])
        self.assertEqual(self.lines("join:3")[2:6], ["any of:", "  units: 2..", "  baths: 2", "  year-built: ..1960"])
        self.assertEqual(self.lines("part:2:0")[2:4], ["baths: 2", "units: 2.."])
        self.assertEqual(self.lines("strike:2", "part:2:1")[2:4], ["~ units: 2..", "~ baths: 2"])
        # Joined and parted again, a line is where it was.
        self.assertEqual(self.lines("join:1", "part:0:1"), self.lines())

    def test_numbers_are_those_on_the_page(self) -> None:
        self.assertEqual(self.lines("remove:0", "strike:1")[0], "~ class: duplex; not triplex")
        self.assertEqual(self.lines("move:4:0", "remove:0", "strike:4")[0], '~ remarks: all of "as is", "cash"')
        self.assertEqual(self.lines("copy:0", "remove:1")[:2], ["beds: 3..", "~ beds: 3.."])

    def test_what_can_not_be_done_is_said(self) -> None:
        for acts, told in (
            (("strike:9",), "no longer there"),
            (("remove:0", "strike:0"), "no longer there"),
            (("strike:x",), "no longer there"),
            (("part:0:0",), "no longer there"),
            (("part:2:5",), "no longer there"),
            (("join:0",), "no other line"),
            (("turn:2",), "out of its group"),
            (("turn:4",), "exclude each"),
            ((f"strike:{'1' * 5000}",), "no longer there"),
            (("strike:²",), "no longer there"),
            ((f"part:2:{'1' * 5000}",), "no longer there"),
            ((f"refuse:4:{'a.b. ' * 9}",), "9 acronyms"),
        ):
            with self.subTest(acts), self.assertRaisesRegex(CriteriaError, told):
                after(*acts)
        with self.assertRaisesRegex(CriteriaError, "at most 60"):
            after("copy:0", search="\n".join(["beds: 3.."] * 60))
        with self.assertRaisesRegex(CriteriaError, "no value"):
            after("turn:0", search="beds: ask")
        with self.assertRaisesRegex(CriteriaError, "fill one in"):
            after("ask:0", search="beds: ask")

    @given(st.lists(st.tuples(st.sampled_from(sorted(VERBS)), st.integers(0, 5), st.integers(0, 5)), max_size=8))
    def test_whatever_is_done_can_be_written_and_read(self, acts: list[tuple[str, int, int]]) -> None:
        lines = Lines(parse(SEARCH))
        for verb, number, other in acts:
            try:
                lines.do(verb, str(number), str(other))
            except CriteriaError:
                continue
        self.assertEqual(parse(format(lines.search)), lines.search)


class Refusing(TestCase):
    def test_a_phrase_refused_joins_those_of_the_same_fields(self) -> None:
        for text, refused in (
            ('any of "as is"', 'any of "as is"; none of "not this"'),
            ('any of "as is"; none of "a"; none of "b" in private', 'any of "as is"; none of "a", "not this"; none of "b" in private'),
            ('any of "as is" in private; none of "a"; none of "b" in private; none of "c" in public',
             'any of "as is" in private; none of "a"; none of "b", "not this" in private; none of "c" in public'),
        ):  # fmt: skip
            line = parse_line(f"remarks: {text}")
            self.assertEqual(_refusing(line, "not this"), parse_line(f"remarks: {refused}"))
        for other in ("class: duplex", 'remarks: none of "a"'):
            self.assertEqual(_refusing(parse_line(other), "not this"), parse_line(other))
