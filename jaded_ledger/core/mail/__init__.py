"""Addresses, pieces and label sheets."""
