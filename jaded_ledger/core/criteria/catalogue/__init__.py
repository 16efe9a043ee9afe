"""The traits, each declared once. Everything that offers, filters, shows or exports a trait reads this."""

from __future__ import annotations

from jaded_ledger.core.criteria.catalogue import area, building, distress, listing, owner, place, sales, value
from jaded_ledger.core.criteria.traits import Catalogue

CATALOGUE = Catalogue(trait for module in (place, building, owner, value, sales, distress, listing, area) for trait in module.TRAITS)
"""Every trait that records tell of. Those that a team keeps itself are added by the app that keeps them."""
