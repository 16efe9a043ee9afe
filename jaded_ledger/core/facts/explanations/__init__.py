"""How each figure came about: ``explain`` finds for a trait whoever can tell."""

from __future__ import annotations

from jaded_ledger.core.criteria.display import Shown
from jaded_ledger.core.criteria.traits import Trait
from jaded_ledger.core.facts.explanations import distress, money, offers, property, title
from jaded_ledger.core.facts.explanations.distress import KIND_OF
from jaded_ledger.core.facts.explanations.entries import Entry, Explainer, Explanation, Source
from jaded_ledger.core.facts.findings import Findings
from jaded_ledger.core.ground import Way

__all__ = ["EXPLAINERS", "Entry", "Explanation", "Source", "explain"]

_BY_EXPLAINER: tuple[tuple[Explainer, tuple[str, ...]], ...] = (
    (title.sales, ("last-sale", "last-sale-price", "sale-parcels", "sale-sqft", "last-transfer", "last-deed", "sales-10y", "never-sold")),
    (title.cash, ("cash-purchase", "seller-financed")),
    (title.flips, ("flips", "flip-margin", "flip-days")),
    (title.holding, ("years-owned", "acquired")),
    (title.occupancy, (
        "owner-occupied", "out-of-state", "out-of-county", "mailing-distance", "mailing-city", "mailing-state", "mailing-zip",
    )),
    (title.owner, ("owner-kind", "owner-role", "parcels-owned", "has-telephone", "has-email", "do-not-contact")),
    (title.on_deed, ("owner-not-on-deed",)),
    (title.tired, ("tired-landlord",)),
    (money.value, ("estimated-value", "value-low", "value-high", "value-sqft")),
    (money.assessed, ("assessed-value",)),
    (money.loans, ("loan-balance", "open-loans", "blanket-loan", "last-loan", "last-loan-kind", "lender", "free-and-clear")),
    (money.equity, ("ltv", "equity", "equity-pct")),
    (money.taxes, ("tax-years-delinquent", "tax-due", "tax-bill", "market-value-1y", "market-value-5y")),
    (distress.of_kind, tuple(KIND_OF)),
    (distress.all_signals, ("open-signals", "signals", "newest-signal")),
    (distress.liens, ("lien-total",)),
    (distress.suits, ("tax-suit", "evictions")),
    (distress.foreclosure, ("foreclosure-stage", "foreclosure-step")),
    (distress.auctions, ("auction", "auction-kind", "auction-result")),
    (offers.latest, ("ever-listed", "on-offer", "offer", "listing-number", "last-listed", "status-since")),
    (offers.days, ("days-on-market", "cumulative-days", "relistings")),
    (offers.cuts, ("price-cut", "price-cuts")),
    (offers.ratios, ("list-sqft", "list-to-assessed", "percent-of-median", "asking-yield", "sale-to-list")),
    (offers.rents, ("rent-in-place", "rent-advertised", "rent-potential", "rent-area")),
    (offers.competition, ("competition",)),
    (offers.seller, ("seller-kind", "seller-role", "ownership", "short-sale")),
    (offers.disagreements, ("disagreement",)),
    (property.land, ("lot-acres", "frontage-of-usual", "possible-lots", "raw-land")),
    (property.property_class, ("class",)),
    (property.building, ("units", "garage", "pool")),
    (property.permits, ("last-permit", "last-permit-kind", "last-permit-cost")),
    (property.project, ("project", "amenities")),
    (property.exemptions, ("exemptions",)),
    (property.ground, ("flood-zone", "waterfront", "road-class", *(f"{way}-distance" for way in Way))),
    (property.terrain, ("elevation", "slope")),
    (property.side, ("house-side",)),
    (property.fee, ("hoa-fee",)),
    (property.baths, ("listed-baths",)),
    (property.area, (
        "zip-population", "area-price", "area-yield", "area-growth", "area-days", "area-supply", "area-population", "area-resales",
        "area-grade",
    )),
)  # fmt: skip
EXPLAINERS: dict[str, Explainer] = {key: explainer for explainer, keys in _BY_EXPLAINER for key in keys}
"""Who explains each derived trait."""


def explain(found: Findings, trait: Trait, value: Shown) -> Explanation:
    """Return how a parcel's value of a trait came about: the rule, and the ledger's lines with the rows they were read from.

    ``value`` is what the searchable row has, None where it is not known. What is shown as recorded is explained by its row.
    """
    explainer = EXPLAINERS.get(trait.key, property.recorded)
    return Explanation(trait, value, trait.rule or "as recorded", tuple(explainer(found, trait)))
