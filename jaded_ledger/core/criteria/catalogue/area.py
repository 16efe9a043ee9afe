"""What the records say of the area around: its neighborhood, or where none is on record its municipality."""

from __future__ import annotations

from functools import partial

from jaded_ledger.core.criteria.catalogue.choices import GRADES
from jaded_ledger.core.criteria.traits import Kind, Section, Trait

_ENOUGH = "; not known with fewer than 5"
_figure = partial(Trait, section=Section.AREA, source="deeds, rentals and listings of the area")

TRAITS = (
    _figure("area-price", "area price", kind=Kind.MONEY, meaning="median price of a sale in the area", fact="area__figures__price",
            rule=f"median of the last 12 months’ sales{_ENOUGH}", synonyms=("median price", "median sale price")),
    _figure("area-yield", "area yield", kind=Kind.PERCENT, meaning="a year's rent of a dwelling in percent of the price of one",
            fact="area__figures__rental_yield", decimals=2,
            rule=f"12 × median rent of a let dwelling ÷ median price for each dwelling of the last 12 months’ sales{_ENOUGH} of either"),
    _figure("area-growth", "area growth", kind=Kind.PERCENT, meaning="change of prices over twelve months", fact="area__figures__growth",
            decimals=2, synonyms=("appreciation of the area",),
            rule=f"median price a sq ft of the last 12 months’ sales against the 12 months before{_ENOUGH} in either"),
    _figure("area-days", "area days on market", kind=Kind.NUMBER, meaning="usual days on the market in the area",
            fact="area__figures__days", unit="days", rule=f"median days on market of listings closed in the last 12 months{_ENOUGH}"),
    _figure("area-supply", "area months of supply", kind=Kind.NUMBER, meaning="how long what is for sale would last",
            fact="area__figures__supply", unit="months", decimals=1, synonyms=("inventory",),
            rule=f"active listings ÷ sales a month over the last 12 months{_ENOUGH} sales"),
    _figure("area-population", "area population", kind=Kind.NUMBER, meaning="how many people live in the area",
            fact="area__figures__population", rule="the population on record of the area"),
    _figure("area-resales", "area resales after repair", kind=Kind.PERCENT, fact="area__figures__resales", decimals=2,
            meaning="share of sales that were a resale for more within 24 months", synonyms=("flip share", "rehab share"),
            rule=f"flips among the last 12 months’ sales{_ENOUGH} sales"),
    Trait("area-grade", "area grade", Section.AREA, Kind.CHOICE, "your team's own judgment of the neighborhood", "your team",
          choices=GRADES, of_team=True, rule="as your team graded it on a property's page"),
)  # fmt: skip
