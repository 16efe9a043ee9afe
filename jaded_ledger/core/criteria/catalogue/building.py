"""What a property is: land, building, use."""

from __future__ import annotations

from jaded_ledger.core.criteria.catalogue.choices import AMENITIES, CLASS_UMBRELLAS, CLASSES, DISAGREEMENTS, TENURES
from jaded_ledger.core.criteria.traits import Kind, Section, Trait

_ROLL = "the county's assessment roll"
_BUILDINGS = "the assessor's measurements"
_LISTING = "the latest listing for sale"
_PERMITS = "the town's permits"

TRAITS = (
    Trait(
        "class", "class", Section.PROPERTY, Kind.CHOICE, "what kind of property it is, from the county's land use",
        _ROLL, synonyms=("property type", "property sub type", "land use", "property class"), choices=CLASSES,
        umbrellas=CLASS_UMBRELLAS, fact="property_class",
        rule="as the roll has it; where it has none, inferred from a residential land-use code and the dwellings",
    ),
    Trait("tenure", "tenure", Section.PROPERTY, Kind.CHOICE, "how the property is held", _ROLL, choices=TENURES, synonyms=("held as",)),
    Trait(
        "project", "project", Section.PROPERTY, Kind.NAME, "the condominium or co-operative project that it belongs to",
        "the county's projects", synonyms=("building name", "condominium name", "complex"), event="in_project",
        rule="the project on the parcel's ground, or on the ground that the unit stands on",
    ),
    Trait(
        "amenities", "amenities", Section.PROPERTY, Kind.SET, "what the project offers", "the county's projects",
        choices=AMENITIES, synonyms=("features", "project amenities", "association amenities", "community features"),
        rule="those recorded of its project; none where it is in no project",
    ),
    Trait(
        "land-use-code", "land-use code", Section.PROPERTY, Kind.NAME, "the county's own code or words for its use", _ROLL,
        synonyms=("use code", "county use"),
    ),
    Trait("beds", "beds", Section.PROPERTY, Kind.NUMBER, "bedrooms on the roll", _ROLL,
          synonyms=("bedrooms", "bedroom", "bdrms", "br", "bedrooms total"), adds_up=True),
    Trait(
        "baths", "baths", Section.PROPERTY, Kind.NUMBER, "bathrooms on the roll, a half bath as 0.5", _ROLL,
        synonyms=("bathrooms", "bathroom", "ba", "bathrooms total integer", "bathrooms total decimal"), decimals=2,
    ),
    Trait(
        "living-area", "living area", Section.PROPERTY, Kind.NUMBER, "finished living area on the roll", _ROLL,
        unit="sq ft", synonyms=("square feet", "square footage", "sq ft", "sqft", "size", "gla", "finished area",
                                "above grade finished area"), adds_up=True,
    ),
    Trait(
        "lot-sqft", "lot, sq ft", Section.PROPERTY, Kind.NUMBER, "area of the lot in square feet", _ROLL,
        unit="sq ft", synonyms=("lot size", "lot area", "land area", "lot size area", "lot size square feet"), adds_up=True,
    ),
    Trait(
        "lot-acres", "lot, acres", Section.PROPERTY, Kind.NUMBER, "area of the lot in acres", _ROLL,
        unit="acres", synonyms=("acreage", "acres", "acre", "lot size acres"), decimals=2, rule="square feet of the lot ÷ 43,560",
        adds_up=True,
    ),
    Trait("frontage", "frontage", Section.PROPERTY, Kind.NUMBER, "width of the lot at the street", _ROLL, unit="ft", decimals=1,
          synonyms=("lot width", "front feet", "frontage length"), adds_up=True),
    Trait("depth", "depth", Section.PROPERTY, Kind.NUMBER, "depth of the lot", _ROLL, unit="ft", decimals=1, synonyms=("lot depth",)),
    Trait(
        "frontage-of-usual", "frontage, of the usual", Section.PROPERTY, Kind.PERCENT, "frontage in percent of the area's median",
        "the roll", decimals=2, synonyms=("wide lot", "narrow lot", "frontage against the area"),
        rule="frontage ÷ the median frontage of lots in the area",
    ),
    Trait(
        "possible-lots", "possible lots", Section.PROPERTY, Kind.NUMBER, "how many lots the ground would make", "the roll",
        synonyms=("lot split", "subdivide", "development"),
        rule="frontage ÷ 25 ft, one where the depth is under 80 ft, and none smaller than 2,500 sq ft (common practice)", adds_up=True,
    ),
    Trait(
        "year-built", "year built", Section.PROPERTY, Kind.NUMBER, "the year the main building was finished", _ROLL,
        synonyms=("built", "age", "construction year", "year of construction"), grouped=False,
    ),
    Trait("stories", "stories", Section.PROPERTY, Kind.NUMBER, "stories of the main building", _BUILDINGS, decimals=1,
          synonyms=("storeys", "floors", "levels", "stories total")),
    Trait("units", "units", Section.PROPERTY, Kind.NUMBER, "dwellings on the parcel", _ROLL,
          synonyms=("dwellings", "doors", "number of units", "number of units total"),
          rule="as the roll says, else the dwelling units recorded one by one", adds_up=True),
    Trait("garage", "garage", Section.PROPERTY, Kind.NUMBER, "cars that the garage holds", _BUILDINGS,
          synonyms=("garage spaces", "car garage", "parking spaces"),
          zero_is_none=True, rule="spaces of all its buildings"),
    Trait("pool", "pool", Section.PROPERTY, Kind.FLAG, "whether it has a pool of its own", _BUILDINGS,
          synonyms=("swimming pool", "pool private yn"),
          rule="whether one of its buildings has one"),
    Trait("main-floor-beds", "beds on the main floor", Section.PROPERTY, Kind.NUMBER, "bedrooms on the main floor", _BUILDINGS,
          synonyms=("main level bedrooms", "main floor bedrooms", "first floor bedroom")),
    Trait("condition", "condition", Section.PROPERTY, Kind.NAME, "the assessor's word for the main building's condition", _BUILDINGS,
          synonyms=("state of repair", "property condition")),
    Trait(
        "raw-land", "raw land", Section.PROPERTY, Kind.FLAG, "whether nothing is built on it", _ROLL,
        synonyms=("unimproved", "unimproved land", "bare land"), rule="an improvement value of 0 on the roll",
    ),
    Trait("zoning", "zoning", Section.PROPERTY, Kind.NAME, "the zoning on the roll", _ROLL,
          synonyms=("zone", "zoning description", "zoning code")),
    Trait("sewer", "sewer", Section.PROPERTY, Kind.NAME, "how waste water is taken away", _ROLL, synonyms=("septic",)),
    Trait("water-source", "water source", Section.PROPERTY, Kind.NAME, "where its water comes from", _ROLL, synonyms=("well", "water")),
    Trait("hoa-fee", "association fee", Section.PROPERTY, Kind.MONEY, "what the owners' association takes a month",
          f"{_ROLL}, else its listing", unit="a month", synonyms=("hoa", "hoa dues", "hoa fee", "condo fee", "strata fee"),
          rule="as the roll says, else as the latest listing does"),
    Trait("listed-beds", "beds, as listed", Section.PROPERTY, Kind.NUMBER, "bedrooms of the latest listing", _LISTING, event="ever_listed"),
    Trait("listed-baths", "baths, as listed", Section.PROPERTY, Kind.NUMBER, "bathrooms of the latest listing", _LISTING, decimals=2,
          event="ever_listed", rule="full baths, and half of the half baths"),
    Trait("listed-living-area", "living area, as listed", Section.PROPERTY, Kind.NUMBER, "living area of the latest listing", _LISTING,
          unit="sq ft", event="ever_listed", adds_up=True),
    Trait("listed-lot-sqft", "lot, as listed", Section.PROPERTY, Kind.NUMBER, "area of the lot on the latest listing", _LISTING,
          unit="sq ft", event="ever_listed", adds_up=True),
    Trait("listed-year-built", "year built, as listed", Section.PROPERTY, Kind.NUMBER, "year built of the latest listing", _LISTING,
          grouped=False, event="ever_listed"),
    Trait(
        "disagreement", "roll and listing disagree", Section.PROPERTY, Kind.SET, "the figures that the roll and the latest listing give "
        "differently", "the roll and the latest listing", choices=DISAGREEMENTS, synonyms=("sources differ", "discrepancy", "mismatch"),
        rule="those of the figures that both give, and that differ; none where it was never listed",
    ),
    Trait("last-permit", "last permit", Section.PROPERTY, Kind.DATE, "when the last building permit was issued", _PERMITS,
          synonyms=("permit date", "building permit"), event="has_permit", rule="the newest permit on record"),
    Trait("last-permit-kind", "kind of last permit", Section.PROPERTY, Kind.NAME, "what the last building permit was for", _PERMITS,
          event="has_permit", rule="the newest permit on record"),
    Trait("last-permit-cost", "cost of last permit", Section.PROPERTY, Kind.MONEY, "what the permitted work was to cost", _PERMITS,
          event="has_permit", rule="the newest permit on record", adds_up=True),
)  # fmt: skip
