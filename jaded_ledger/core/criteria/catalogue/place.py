"""Where a property lies."""

from __future__ import annotations

from jaded_ledger.core.criteria.catalogue.choices import HOUSE_SIDES
from jaded_ledger.core.criteria.traits import Kind, Section, Trait
from jaded_ledger.core.ground import Way

_ROLL = "the county's assessment roll"
_LAYERS = "the county's map layers"
_TERRAIN = "the installation's elevations"


_CALLED = {
    Way.HIGHWAY: ("freeway", "interstate"),
    Way.ARTERIAL: ("main road", "busy street"),
    Way.COLLECTOR: ("collector road",),
    Way.RAIL: ("railroad", "railway", "train tracks", "tracks"),
    Way.WATER: ("shore", "lake", "river", "creek"),
}


def _distance(way: Way) -> Trait:
    return Trait(
        f"{way}-distance",
        f"distance from {way}",
        Section.PLACE,
        Kind.NUMBER,
        f"how far the parcel's outline lies from the nearest {_IN_FULL.get(way, way)} of its county",
        _LAYERS,
        unit="ft",
        synonyms=(f"{way} distance", f"near {way}", *(f"distance from {name}" for name in _CALLED[way])),
        rule=f"the shortest line on the ellipsoid from the outline to the nearest {_IN_FULL.get(way, way)} of the map",
    )


_IN_FULL = {Way.ARTERIAL: "arterial road", Way.COLLECTOR: "collector road", Way.RAIL: "rail line"}

TRAITS = (
    Trait("state", "state", Section.PLACE, Kind.PLACE, "the state that the property lies in", _ROLL, synonyms=("state or province",)),
    Trait(
        "county", "county", Section.PLACE, Kind.PLACE,
        "the county whose records hold the parcel; choosing counties opens a search", _ROLL,
    ),
    Trait(
        "municipality", "municipality", Section.PLACE, Kind.PLACE,
        "the city, village or town that taxes the parcel", _ROLL,
        synonyms=("taxing district", "town", "township", "village", "jurisdiction"),
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
        "zip-population", "ZIP population", Section.PLACE, Kind.NUMBER, "how many people live in the property's ZIP Code",
        "the county's areas", synonyms=("population of the zip",), fact="zip__figures__population",
        rule="the population on record of the property's ZIP Code",
    ),
    Trait(
        "subdivision", "subdivision", Section.PLACE, Kind.NAME, "the recorded plat or subdivision", _ROLL,
        synonyms=("plat", "addition", "subdivision name"),
    ),
    Trait(
        "neighborhood", "neighborhood", Section.PLACE, Kind.PLACE, "the assessor's neighborhood", _ROLL,
        synonyms=("neighbourhood", "ward", "market area", "mls area major", "area"),
    ),
    Trait("school-district", "school district", Section.PLACE, Kind.PLACE, "the school district on the roll", _ROLL,
          synonyms=("schools", "high school district")),
    Trait(
        "parcel-number", "parcel number", Section.PLACE, Kind.PARCEL_NUMBER,
        "the county's number for the parcel, whole or by its leading segments", _ROLL,
        synonyms=("parcel id", "tax key", "apn", "pin", "tax id"),
    ),
    Trait(
        "address", "address", Section.PLACE, Kind.NAME, "the property's own address (situs)", _ROLL,
        synonyms=("situs", "property address", "site address", "full address", "unparsed address", "street address"),
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
        synonyms=("even", "odd", "side"), choices=HOUSE_SIDES, rule="even where the house number divides by two",
    ),
    Trait(
        "flood-zone", "flood zone", Section.PLACE, Kind.NAME, "the flood zone that the parcel lies in or touches", _LAYERS,
        synonyms=("floodplain", "flood"), event="in_flood_zone",
        rule="the zones of the flood layer that the outline touches",
    ),
    Trait(
        "waterfront", "waterfront", Section.PLACE, Kind.FLAG, "whether the property has a shore", f"{_ROLL}, else its listing",
        synonyms=("lakefront", "shore", "on the water", "waterfront yn"), rule="as the roll says, else as the latest listing does",
    ),
    Trait(
        "road-class", "road class", Section.PLACE, Kind.NAME, "the class of the road nearest to the parcel", _LAYERS,
        synonyms=("busy road", "arterial", "quiet street"), rule="the class of the nearest road of the map within 200 feet",
    ),
    *map(_distance, Way),
    Trait(
        "elevation", "elevation", Section.PLACE, Kind.NUMBER, "how high the ground lies, above the sea", _TERRAIN, unit="ft",
        synonyms=("height of the ground", "altitude"), rule="the elevation at the point that represents the parcel",
    ),
    Trait(
        "slope", "slope", Section.PLACE, Kind.PERCENT, "how steep the ground is", _TERRAIN, decimals=1,
        synonyms=("steepness", "grade of the ground"),
        rule="Horn's slope of the elevations about the point that represents the parcel",
    ),
)  # fmt: skip
