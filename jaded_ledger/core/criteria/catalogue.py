"""The traits, each declared once. Everything that offers, filters, shows or exports a trait reads this."""

from __future__ import annotations

from jaded_ledger.core.criteria.traits import Catalogue, Choice, Kind, Section, Trait
from jaded_ledger.core.ownership.names import OwnerKind

CLASSES = (
    Choice(1, "single-family", ("house", "single family", "sfr")),
    Choice(2, "duplex", ("two-family", "two-flat", "2-flat")),
    Choice(3, "triplex", ("three-family", "three-flat")),
    Choice(4, "fourplex", ("four-family", "quadplex", "four-flat")),
    Choice(5, "apartments", ("multifamily", "multi-family")),
    Choice(6, "condominium", ("condo",)),
    Choice(7, "townhouse", ("row house",)),
    Choice(8, "manufactured", ("mobile home",)),
    Choice(9, "residential-lot", ("vacant lot", "vacant land")),
    Choice(10, "commercial", ("shop", "office")),
    Choice(11, "industrial", ("warehouse",)),
    Choice(12, "agricultural", ("farm", "farmland")),
    Choice(13, "woodland", ("forest", "woods")),
    Choice(14, "exempt", ("church", "school", "government")),
)
OWNER_KINDS = tuple(
    Choice(code, kind.value, synonyms)
    for code, (kind, synonyms) in enumerate(
        (
            (OwnerKind.INDIVIDUAL, ("person",)),
            (OwnerKind.COUPLE, ("two people",)),
            (OwnerKind.COMPANY, ("llc", "corporation", "corporate", "business")),
            (OwnerKind.TRUST, ("living trust", "trustee")),
            (OwnerKind.ESTATE, ("heirs", "deceased", "probate")),
            (OwnerKind.LENDER, ("bank", "bank-owned")),
            (OwnerKind.GOVERNMENT, ("city", "state", "public")),
            (OwnerKind.NON_PROFIT, ("church", "charity")),
        ),
        start=1,
    )
)
HOUSE_SIDES = (Choice(1, "odd"), Choice(2, "even"))

_ROLL = "the county's assessment roll"
_DEEDS = "the county's recorded deeds"

CATALOGUE = Catalogue(
    (
        # Place
        Trait(
            "county", "county", Section.PLACE, Kind.PLACE,
            "the county whose records hold the parcel; choosing counties opens a search", _ROLL,
        ),
        Trait(
            "municipality", "municipality", Section.PLACE, Kind.PLACE,
            "the city, village or town that taxes the parcel", _ROLL,
            synonyms=("taxing district", "town", "village", "jurisdiction"),
        ),
        Trait(
            "city", "city", Section.PLACE, Kind.PLACE, "the post office's city of the property's address", _ROLL,
            synonyms=("postal city", "post town"),
        ),
        Trait(
            "zip", "ZIP", Section.PLACE, Kind.PLACE, "the ZIP Code of the property's address", _ROLL,
            synonyms=("zip code", "postal code", "postcode"),
        ),
        Trait(
            "subdivision", "subdivision", Section.PLACE, Kind.NAME, "the recorded plat or subdivision", _ROLL,
            synonyms=("plat", "addition"),
        ),
        Trait(
            "parcel-number", "parcel number", Section.PLACE, Kind.PARCEL_NUMBER,
            "the county's number for the parcel, whole or by its leading segments", _ROLL,
            synonyms=("parcel id", "tax key", "apn", "pin", "tax id"),
        ),
        Trait(
            "address", "address", Section.PLACE, Kind.NAME, "the property's own address (situs)", _ROLL,
            synonyms=("situs", "property address", "site address"),
        ),
        Trait(
            "street", "street", Section.PLACE, Kind.NAME, "the street of the property's address", _ROLL,
            synonyms=("road", "street name"),
        ),
        Trait(
            "house-number", "house number", Section.PLACE, Kind.NUMBER, "the number of the property's address", _ROLL,
            synonyms=("street number", "address number"), grouped=False,
        ),
        Trait(
            "house-side", "side of the street", Section.PLACE, Kind.CHOICE, "odd or even house number", _ROLL,
            synonyms=("even", "odd", "side"), choices=HOUSE_SIDES,
        ),
        # Property
        Trait(
            "class", "class", Section.PROPERTY, Kind.CHOICE, "what kind of property it is, from the county's land use",
            _ROLL, synonyms=("property type", "land use", "property class"), choices=CLASSES, fact="property_class",
        ),
        Trait(
            "beds", "beds", Section.PROPERTY, Kind.NUMBER, "bedrooms on the roll", _ROLL,
            synonyms=("bedrooms", "bedroom"), fact="beds",
        ),
        Trait(
            "baths", "baths", Section.PROPERTY, Kind.NUMBER, "bathrooms on the roll, a half bath as 0.5", _ROLL,
            synonyms=("bathrooms", "bathroom"), decimals=2,
        ),
        Trait(
            "living-area", "living area", Section.PROPERTY, Kind.NUMBER, "finished living area", _ROLL,
            unit="sq ft", synonyms=("square feet", "sqft", "size", "gla", "finished area"),
        ),
        Trait(
            "lot-sqft", "lot, sq ft", Section.PROPERTY, Kind.NUMBER, "area of the lot in square feet", _ROLL,
            unit="sq ft", synonyms=("lot size", "lot area", "land area"),
        ),
        Trait(
            "lot-acres", "lot, acres", Section.PROPERTY, Kind.NUMBER, "area of the lot in acres of 43,560 sq ft", _ROLL,
            unit="acres", synonyms=("acreage", "acres", "lot size"), decimals=2,
        ),
        Trait(
            "year-built", "year built", Section.PROPERTY, Kind.NUMBER, "the year the main building was finished", _ROLL,
            synonyms=("built", "age", "construction year"), grouped=False,
        ),
        # Owner
        Trait(
            "owner-name", "owner", Section.OWNER, Kind.NAME, "the owner's name as the roll records it", _ROLL,
            synonyms=("owner name", "name", "taxpayer"),
        ),
        Trait(
            "owner-kind", "owner kind", Section.OWNER, Kind.CHOICE,
            "what kind of owner it is, read from the recorded name", "computed from the owner's name",
            synonyms=("owner type", "ownership type", "corporate owned", "trust owned"), choices=OWNER_KINDS,
        ),
        Trait(
            "owner-occupied", "owner occupied", Section.OWNER, Kind.FLAG,
            "whether the owner lives there, by comparing mailing address and situs",
            "computed from both addresses and the homestead exemption",
            synonyms=("occupancy", "homestead"),
            sayings=(
                ("absentee", "no"), ("mailing address differs", "no"), ("owner lives elsewhere", "no"), ("landlord", "no"),
                ("not owner occupied", "no"), ("owner lives there", "yes"),
            ),
        ),
        Trait(
            "mailing-address", "mailing address", Section.OWNER, Kind.NAME, "where the owner's tax bill is sent", _ROLL,
            synonyms=("owner address", "tax bill address"),
        ),
        Trait(
            "mailing-state", "mailing state", Section.OWNER, Kind.PLACE, "the state of the owner's mailing address",
            _ROLL, synonyms=("owner state",),
        ),
        # Value
        Trait(
            "assessed-value", "assessed value", Section.VALUE, Kind.MONEY, "land and improvements as assessed", _ROLL,
            synonyms=("assessment", "assessed", "roll value"),
        ),
        Trait(
            "improvement-value", "improvement value", Section.VALUE, Kind.MONEY,
            "what the buildings are assessed at; 0 is how raw land is recognised", _ROLL,
            synonyms=("building value", "improvements"), sayings=(("raw land", "0"), ("vacant land", "0")),
        ),
        # Sale history
        Trait(
            "last-sale", "last sale", Section.SALES, Kind.DATE, "the date of the last arm's-length sale", _DEEDS,
            synonyms=("sale date", "sold", "years owned", "last sold"),
        ),
        Trait(
            "last-sale-price", "last sale price", Section.SALES, Kind.MONEY, "the price of the last arm's-length sale",
            _DEEDS, synonyms=("sale price", "sold for", "purchase price"),
        ),
    )
)  # fmt: skip
"""Every trait there is."""
