"""The budgets, as ratios against a statement written by hand or a bare tool, measured in one run."""
