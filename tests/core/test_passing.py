"""Whether a property has passed on since it was put on a list, by the days themselves and by names. Common practice."""

from __future__ import annotations

import unittest
from datetime import date

from jaded_ledger.core.title.passing import Held, Passed, has_passed
from tests.support.records import DAY

ADDED = date(2026, 1, 1)
BEGAN = date(2001, 5, 1)


def held(name: int | None, surname: str = "ostrom", since: date | None = BEGAN) -> Held:
    return Held(name, [surname] if surname else [], since)


class HasPassed(unittest.TestCase):
    def test_by_the_deed(self) -> None:
        for now, expected in (
            (held(1), None),
            (held(1, since=BEGAN + DAY), Passed.DEED),
            (held(1, since=BEGAN - DAY), None),
            # A deed that begins an ownership counts whatever the names; one within a family begins none.
            (held(2, "kelm", BEGAN + DAY), Passed.DEED),
        ):
            with self.subTest(now):
                self.assertIs(has_passed(held(1), now, ADDED), expected)

    def test_where_no_deed_was_on_record_then(self) -> None:
        then = held(1, since=None)
        for now, expected in (
            (held(2, "kelm", ADDED), Passed.NAME),
            (held(2, "kelm", ADDED + DAY), Passed.DEED),
            (held(2, "ostrom", ADDED + DAY), None),
            (held(1, "", ADDED + DAY), Passed.DEED),
            (held(1, "", ADDED), None),
        ):
            with self.subTest(now):
                self.assertIs(has_passed(then, now, ADDED), expected)

    def test_by_the_name(self) -> None:
        for then, now, expected in (
            (held(1), held(2, "kelm"), Passed.NAME),
            (held(1), held(2, "kelm", None), Passed.NAME),
            (held(1), held(1, "kelm"), None),
            (held(None), held(2, "kelm"), None),
            (held(1), held(None, "kelm"), None),
            (held(1), held(2, "ostrom"), None),
            # A name by which nobody's relations are told says nothing.
            (held(1, ""), held(2, "kelm"), None),
            (held(1), held(2, ""), None),
        ):
            with self.subTest(then=then, now=now):
                self.assertIs(has_passed(then, now, ADDED), expected)
