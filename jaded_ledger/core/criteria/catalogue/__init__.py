"""The traits, each declared once. Everything that offers, filters, shows or exports a trait reads this."""

from __future__ import annotations

from jaded_ledger.core.criteria.catalogue import area, building, distress, listing, lists, owner, place, sales, value
from jaded_ledger.core.criteria.traits import Catalogue

CATALOGUE = Catalogue(trait for module in (place, building, owner, value, sales, distress, listing, area, lists) for trait in module.TRAITS)
"""Every trait there is."""
