"""Comps: what a property is worth by what its like sold for, every step of it shown, and how far to trust it."""
