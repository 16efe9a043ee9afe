"""How what is recorded, land, building and area are explained."""

from __future__ import annotations

from collections.abc import Iterator

from jaded_ledger.core.criteria.traits import Section, Trait
from jaded_ledger.core.facts.explanations.entries import Entry, Source, day, figure, money, not_on_file, on_roll, yes_no
from jaded_ledger.core.facts.findings import Findings
from jaded_ledger.core.ground import Way
from jaded_ledger.core.market.land import LOT_RULES

_BUILDINGS = "the assessor's measurements"


def recorded(found: Findings, trait: Trait) -> Iterator[Entry]:
    """What is shown as it was recorded: the row it stands in."""
    if trait.source == _BUILDINGS:
        building = found.building
        yield Entry("As measured", "", "the main building", (Source("building", building.key),) if building else ())
    elif trait.section is Section.LISTING or trait.key.startswith("listed-"):
        yield from not_on_file(found, "listings")
        if found.chain:
            yield Entry(f"Listing {found.chain.latest.listing_id}", "", "the latest for sale", (Source("listing", found.chain.latest.key),))
        elif found.county.has("listings"):
            yield Entry("Listings for sale on record", "none")
    elif found.roll:
        yield Entry("On the roll", "", f"through {day(found.county.through.get('roll'))}", on_roll(found))
    else:
        yield Entry("The roll", "", "has no row of this parcel")


def land(found: Findings, trait: Trait) -> Iterator[Entry]:
    """Frontage, depth, area."""
    roll = found.roll
    if trait.key == "lot-acres":
        yield Entry("Lot", figure(roll.lot_sqft if roll else None, "sq ft"), "÷ 43,560 (NIST Handbook 44, Appendix C)", on_roll(found))
        return
    if trait.key == "raw-land":
        yield Entry("Improvement value", money(roll.improvement_value if roll else None), "0 is raw land", on_roll(found))
        return
    yield Entry("Frontage", figure(roll.frontage if roll else None, "ft"), "", on_roll(found))
    if trait.key == "frontage-of-usual":
        usual = found.record.area.frontage
        note = f"of {usual.count} lots in {found.record.area.name}" if usual else "not told by the area"
        yield Entry("Median frontage", figure(usual.value if usual else None, "ft"), note)
        return
    yield Entry("Depth", figure(roll.depth if roll else None, "ft"), f"at least {LOT_RULES.depth} ft for more than one lot", on_roll(found))
    yield Entry("Lot", figure(roll.lot_sqft if roll else None, "sq ft"), f"at least {LOT_RULES.square_feet:,} sq ft a lot", on_roll(found))
    yield Entry("Least width of a lot", figure(LOT_RULES.width, "ft"), "common practice")


def property_class(found: Findings, trait: Trait) -> Iterator[Entry]:
    """What the roll says, or what its land-use code and dwellings tell."""
    roll = found.roll
    if roll is None:
        yield Entry("The roll", "", "has no row of this parcel")
        return
    kind = trait.choice_by_code(roll.property_class).key if roll.property_class is not None else "·"
    yield Entry("Class on the roll", kind, f"through {day(found.county.through.get('roll'))}", on_roll(found))
    if roll.property_class is None:
        yield Entry("Land-use code", roll.land_use or "·", roll.tenure, on_roll(found))
        yield Entry("Dwellings", figure(found.dwellings), "", on_roll(found))
        inferred = found.inferred_class
        key = trait.choice_by_code(inferred).key if inferred is not None else "·"
        yield Entry("Inferred from them", key, "" if inferred is not None else "they don’t tell", is_sum=True)


def building(found: Findings, trait: Trait) -> Iterator[Entry]:
    """Units, garage, pool: building by building."""
    if trait.key == "units":
        yield Entry("On the roll", figure(found.roll.units if found.roll else None), "", on_roll(found))
        yield Entry("Recorded one by one", str(found.record.dwellings))
        return
    for one in sorted(found.record.buildings):
        text = figure(one.garage_spaces, "cars") if trait.key == "garage" else yes_no(one.has_pool)
        yield Entry(f"Building {one.number}", text, "", (Source("building", one.key),))
    if not found.record.buildings:
        yield Entry("Buildings as measured", "none on record")


def permits(found: Findings, trait: Trait) -> Iterator[Entry]:
    """The permits, newest first."""
    yield from not_on_file(found, "permits")
    for permit in sorted(found.record.permits, key=lambda permit: (permit.issued_on, permit.key), reverse=True):
        yield Entry(
            f"{permit.kind.capitalize()} permit of {day(permit.issued_on)}" if permit.kind else f"Permit of {day(permit.issued_on)}",
            money(permit.cost),
            "",
            (Source("permit", permit.key),),
        )
    if not found.record.permits and found.county.has("permits"):
        yield Entry("On record", "none")


def project(found: Findings, trait: Trait) -> Iterator[Entry]:
    """The project and what it offers."""
    yield from not_on_file(found, "projects")
    one = found.record.project
    if one:
        yield Entry(one.name, "", ", ".join(one.amenities), (Source("project", one.key),))
    elif found.county.has("projects"):
        yield Entry("Project", "none", "neither on this ground nor on that which it stands on")


def exemptions(found: Findings, trait: Trait) -> Iterator[Entry]:
    """Exemptions that stand, and those that have ended."""
    yield from not_on_file(found, "exemptions")
    for exemption in found.record.exemptions:
        stands = "stands" if exemption in found.exemptions else f"until {day(exemption.until)}"
        yield Entry(exemption.kind, f"since {day(exemption.since)}", stands, (Source("exemption", exemption.key),))
    if not found.record.exemptions and found.county.has("exemptions"):
        yield Entry("On record", "none")


def ground(found: Findings, trait: Trait) -> Iterator[Entry]:
    """What the map says."""
    if trait.key == "waterfront":
        yield Entry("On the roll", yes_no(found.roll.waterfront if found.roll else None), "", on_roll(found))
        said = found.described
        yield Entry("On the latest listing", yes_no(said.waterfront if said else None))
        return
    yield from not_on_file(found, "layers")
    here = found.record.ground
    if (way := trait.key.removesuffix("-distance")) in set(Way):
        feet = here.feet_to.get(Way(way))
        yield Entry(f"From the outline to the nearest {way}", figure(None if feet is None else round(feet), "ft"), "on the ellipsoid")
    elif trait.key == "flood-zone":
        yield Entry("Zones that the outline touches", ", ".join(here.flood_zones or ()) or ("none" if here.flood_zones == () else "·"))
    else:
        yield Entry("Class of the nearest road", here.road_class or "·", "within 200 feet of the outline")


def terrain(found: Findings, trait: Trait) -> Iterator[Entry]:
    """The ground's height or slope at the parcel's point."""
    here = found.record.ground.terrain
    if here is None:
        yield Entry("Elevations on file", "·", "none that cover the parcel")
    elif trait.key == "slope":
        yield Entry("Slope at its point", f"{here.slope:g} %", "from the elevations around it")
    else:
        yield Entry("Elevation at its point", figure(here.feet, "ft"), "above the sea")


def side(found: Findings, trait: Trait) -> Iterator[Entry]:
    """The house number."""
    yield Entry("House number", str(found.roll.house_number) if found.roll and found.roll.house_number else "·", "", on_roll(found))


def fee(found: Findings, trait: Trait) -> Iterator[Entry]:
    """The association's fee by either source."""
    yield Entry("On the roll", money(found.roll.hoa_fee if found.roll else None), "a month", on_roll(found))
    said = found.described
    yield Entry("On the latest listing", money(said.association_fee if said else None), "a month")


def baths(found: Findings, trait: Trait) -> Iterator[Entry]:
    """Full and half baths of the listing."""
    yield from not_on_file(found, "listings")
    said = found.described
    source = (Source("listing", found.chain.latest.key),) if found.chain else ()
    yield Entry("Full baths", figure(said.full_baths if said else None), "", source)
    yield Entry("Half baths", figure(said.half_baths if said else None), "each counted as 0.5", source)


def area(found: Findings, trait: Trait) -> Iterator[Entry]:
    """What the area's figure stands on."""
    area = found.record.area
    for label, text in area.stated:
        yield Entry(label, text)
    if not area.stated:
        yield Entry("The area", "·", "no neighborhood or municipality is on the roll, or nothing is on record there")
