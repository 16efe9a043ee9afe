"""Signs that an owner may have to sell."""
