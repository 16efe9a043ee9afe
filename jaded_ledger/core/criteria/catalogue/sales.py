"""How a property changed hands."""

from __future__ import annotations

from jaded_ledger.core.criteria.catalogue.choices import DEEDS
from jaded_ledger.core.criteria.traits import Kind, Section, Trait

_DEEDS = "the county's recorded deeds"
_SALE = (
    "a transfer above $1,000 (common practice), not between related names and neither a step of a foreclosure nor a correction; the latest"
)

TRAITS = (
    Trait(
        "last-sale", "last sale", Section.SALES, Kind.DATE, "the date of the last arm's-length sale", _DEEDS,
        synonyms=("sale date", "sold", "sold in", "last sold", "purchase date", "purchased", "bought", "close date", "closing date",
                  "settlement date"), rule=_SALE,
    ),
    Trait(
        "last-sale-price", "last sale price", Section.SALES, Kind.MONEY, "the price of the last arm's-length sale",
        _DEEDS, synonyms=("sale price", "sold for", "sold price", "purchase price", "paid", "close price", "closing price"),
        rule=f"{_SALE}; of all the parcels that its deed covers",
        of_several="sale_parcels", adds_up=True,
    ),
    Trait("sale-parcels", "parcels in last sale", Section.SALES, Kind.NUMBER, "how many parcels the last sale's price is for", _DEEDS,
          synonyms=("multiple parcels", "multi-parcel sale", "package sale"), rule="the parcels that the deed of the last sale covers"),
    Trait("sale-sqft", "sale price a sq ft", Section.SALES, Kind.MONEY, "the last sale's price for each square foot of living area", _DEEDS,
          decimals=2, synonyms=("sale $/sq ft", "sold price per square foot"),
          rule="last sale price ÷ living area; a price for several parcels is shared by assessed value, not known where one of "
          "them has none"),
    Trait("last-transfer", "last transfer", Section.SALES, Kind.DATE, "the date of the last transfer, sale or not", _DEEDS,
          synonyms=("deed date", "transfer date"), rule="the latest deed by its own date"),
    Trait("last-deed", "last deed", Section.SALES, Kind.CHOICE, "the kind of deed of the last transfer", _DEEDS, choices=DEEDS,
          synonyms=("deed type", "kind of deed"), rule="the latest deed by its own date"),
    Trait("cash-purchase", "cash purchase", Section.SALES, Kind.FLAG, "whether the last sale was paid without a loan",
          "deeds and mortgages", synonyms=("paid cash", "cash buyer", "cash sale", "all cash"),
          rule="no purchase loan of the buyer recorded within 30 days of the sale or its recording (common practice), and no credit of the "
          "seller; not known until the county's mortgages are recorded through that day"),
    Trait("seller-financed", "seller-financed", Section.SALES, Kind.FLAG, "whether the seller financed the last sale",
          "deeds and mortgages",
          synonyms=("land contract", "contract for deed", "seller financing", "seller finance", "owner financed", "owner financing",
                    "vendor finance", "vendor take back", "purchase money mortgage"),
          rule="a land contract (contract for deed), a deed that recites one, or a purchase loan that the seller gave"),
    Trait("sales-10y", "sales in ten years", Section.SALES, Kind.NUMBER, "arm's-length sales of the last ten years", _DEEDS,
          synonyms=("number of sales", "turnover"), zero_is_none=True, rule="sales on record of the ten years to today"),
    Trait("flips", "flips", Section.SALES, Kind.NUMBER, "how often it was bought and resold for more within 24 months", _DEEDS,
          synonyms=("flipped", "resold"),
          zero_is_none=True,
          rule="two sales within 24 months, the second above the first (common practice); of the same parcels, or each price shared by "
          "assessed value, and not known where it can't be"),
    Trait("flip-margin", "flip margin", Section.SALES, Kind.MONEY, "by how much the last flip's second price was above its first", _DEEDS,
          event="was_flipped", rule="of the last flip: second price − first price, of the same parcels or shared by assessed value",
          adds_up=True),
    Trait("flip-days", "flip days", Section.SALES, Kind.NUMBER, "days between the two sales of the last flip", _DEEDS, unit="days",
          event="was_flipped", rule="of the last flip: days between the sales"),
    Trait("never-sold", "no sale on record", Section.SALES, Kind.FLAG, "whether the deeds on record hold no sale", _DEEDS,
          synonyms=("never sold",),
          rule="no arm's-length sale among the deeds on record; it may have sold before they begin, so its last sale is unknown"),
)  # fmt: skip
