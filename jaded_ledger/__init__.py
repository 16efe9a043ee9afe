"""Jaded Ledger: find property owners worth contacting, from public records to a sheet of labels."""
