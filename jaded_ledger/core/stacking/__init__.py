"""Lists that stack."""
