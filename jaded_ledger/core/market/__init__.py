"""Transfers and sales, and what they say of the market."""
