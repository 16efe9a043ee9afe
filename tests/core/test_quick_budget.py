"""The check of the quick tier's cost lets through what it says it lets through, whatever machine the run was on."""

from __future__ import annotations

import unittest

from tests.support.budget import GROWTH, MINUTES, Line, faults, lines

LAST = Line("comps", 900, 0.10)


class QuickBudget(unittest.TestCase):
    def test_growth_up_to_the_limit_passes_and_a_second_more_does_not(self) -> None:
        self.assertEqual(faults(900 + GROWTH, MINUTES, 0.10, LAST), [])
        (fault,) = faults(901 + GROWTH, MINUTES, 0.10, LAST)
        self.assertIn("946 CPU seconds, 46 more than comps left it with", fault)

    def test_a_run_longer_than_twelve_minutes_does_not_pass(self) -> None:
        (fault,) = faults(900, MINUTES + 0.1, 0.10, LAST)
        self.assertIn("took 12.1 minutes", fault)

    def test_a_slower_machine_is_excused_in_proportion(self) -> None:
        self.assertEqual(faults(1_800, 2 * MINUTES, 0.20, LAST), [])
        self.assertEqual(len(faults(2_000, 2 * MINUTES + 1, 0.20, LAST)), 2)

    def test_a_machine_with_a_faster_processor_is_not_charged_more(self) -> None:
        """A run of 955 seconds was once counted as 1,865 on a machine that did the fixed work in half the time."""
        self.assertEqual(faults(900, MINUTES, 0.05, LAST), [])

    def test_the_committed_budget_can_be_read(self) -> None:
        self.assertTrue(lines())


if __name__ == "__main__":
    unittest.main()
