"""Loans and what is owed on them."""
