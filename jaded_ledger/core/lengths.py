"""Lengths in meters."""

METERS_PER_FOOT = 0.3048
METERS_PER_MILE = 1609.344
"""NIST Handbook 44, Appendix C: the international foot and mile."""
