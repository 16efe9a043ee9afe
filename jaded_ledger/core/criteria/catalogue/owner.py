"""Whose a property is."""

from __future__ import annotations

from jaded_ledger.core.criteria.catalogue.choices import ACQUIRED, KIND_UMBRELLAS, OWNER_KINDS, ROLES
from jaded_ledger.core.criteria.traits import Kind, Section, Trait

_ROLL = "the county's assessment roll"
_DEEDS = "the county's recorded deeds"
_BOTH = "the owner's and the property's address"
_CONTACTS = "the owners' contacts on record"

TRAITS = (
    Trait(
        "owner-name", "owner", Section.OWNER, Kind.NAME, "the owner's name as the roll records it", _ROLL,
        synonyms=("owner name", "name", "taxpayer", "who owns it"),
    ),
    Trait(
        "owner-kind", "owner kind", Section.OWNER, Kind.CHOICE, "what kind of owner it is", _ROLL,
        synonyms=("owner type", "ownership type", "type of owner"), choices=OWNER_KINDS,
        umbrellas=KIND_UMBRELLAS,
        rule="told by the words of the recorded name, as whole words and not where one is a person's surname (common practice)",
    ),
    Trait(
        "owner-role", "representative", Section.OWNER, Kind.CHOICE, "in which part somebody else acts for the owner", _ROLL,
        synonyms=("acts for the owner", "owner's representative", "legal representative"), choices=ROLES,
        rule="the line of a care-of, executor, guardian or attorney-in-fact, split off the recorded name",
    ),
    Trait(
        "owner-occupied", "owner occupied", Section.OWNER, Kind.FLAG, "whether the owner lives there", f"{_BOTH}, and homestead exemptions",
        synonyms=("occupancy", "homestead"),
        sayings=(
            ("absentee", "no"), ("absentee owner", "no"), ("non owner occupied", "no"), ("tenant occupied", "no"),
            ("rental property", "no"), ("mailing address differs", "no"), ("owner lives elsewhere", "no"), ("landlord", "no"),
            ("not owner occupied", "no"), ("owner lives there", "yes"),
        ),
          rule="with a homestead exemption, or where the tax bill goes to the property itself; not known for a box or general delivery "
          "in its own ZIP",
    ),
    Trait("out-of-state", "owner out of state", Section.OWNER, Kind.FLAG, "whether the owner's mail goes to another state", _BOTH,
          synonyms=("out of state owner", "out-of-state owner", "lives out of state"), rule="the mailing state is not the property's"),
    Trait("out-of-county", "owner out of county", Section.OWNER, Kind.FLAG, "whether the owner's mail goes to another county", _BOTH,
          synonyms=("out of county owner", "out-of-county owner", "out of area"),
          rule="the mailing ZIP Code is none of the county's, or the state another; not known without either"),
    Trait(
        "mailing-address", "mailing address", Section.OWNER, Kind.NAME, "where the owner's tax bill is sent", _ROLL,
        synonyms=("owner address", "tax bill address"),
    ),
    Trait("mailing-city", "mailing city", Section.OWNER, Kind.NAME, "the city of the owner's mailing address", _ROLL,
          synonyms=("owner city",), rule="read from the mailing address (USPS Publication 28)"),
    Trait(
        "mailing-state", "mailing state", Section.OWNER, Kind.PLACE, "the state of the owner's mailing address",
        _ROLL, synonyms=("owner state",), rule="read from the mailing address (USPS Publication 28)",
    ),
    Trait("mailing-zip", "mailing ZIP", Section.OWNER, Kind.NAME, "the ZIP Code of the owner's mailing address", _ROLL,
          synonyms=("owner zip",), rule="read from the mailing address (USPS Publication 28)"),
    Trait("mailing-distance", "owner's distance", Section.OWNER, Kind.NUMBER, "how far the owner's mail goes from the property", _BOTH,
          unit="mi", decimals=1, synonyms=("distance from owner", "miles away"),
          rule="geodesic from the property to the parcel at the mailing address, else to the middle of its ZIP Code's area; "
          "not known where neither is on record"),
    Trait("years-owned", "years owned", Section.OWNER, Kind.NUMBER, "whole years of the current ownership", _DEEDS, unit="years",
          synonyms=("length of ownership", "owned", "owned for", "tenure in years", "long-time owner", "long term owner",
                    "longtime owner"), fact="owned_since", since="owned_since",
          rule="since the first recorded instrument of the unbroken ownership; a transfer within the family or into the owner's trust for "
          "no more than a nominal price does not begin another"),
    Trait("parcels-owned", "parcels owned", Section.OWNER, Kind.NUMBER, "how many parcels on record the owner has", _ROLL,
          synonyms=("portfolio", "properties owned", "number of properties", "multiple properties"),
          rule="parcels of the same owner in all counties: the same name at the same address, close spellings at one address, or as merged "
          "by hand"),
    Trait("acquired", "acquired by", Section.OWNER, Kind.CHOICE, "how the owner came by the property", _DEEDS, choices=ACQUIRED,
          synonyms=("how acquired", "acquisition"),
          rule="the last instrument that is neither a correction nor one into the owner's own trust"),
    Trait("owner-not-on-deed", "owner not on last deed", Section.OWNER, Kind.FLAG,
          "whether the owner on the roll shares no name with whoever the last deed names", "roll and deeds",
          synonyms=("owner mismatch", "roll and deed differ", "new owner not on roll"),
          rule="not the same name, and no surname shared; not known where either is not named"),
    Trait("exemptions", "exemptions", Section.OWNER, Kind.SET, "exemptions from tax that stand, in the county's words",
          "the county's exemptions", synonyms=("senior", "veteran", "homestead exemption"), rule="those on record that have not ended"),
    Trait("has-telephone", "has telephone", Section.OWNER, Kind.FLAG, "whether a telephone number of the owner is on record", _CONTACTS,
          synonyms=("phone", "phone number"), rule="any number that may be called"),
    Trait("has-email", "has e-mail", Section.OWNER, Kind.FLAG, "whether an e-mail address of the owner is on record", _CONTACTS,
          synonyms=("email",), rule="any address that may be written to"),
    Trait("do-not-contact", "do not contact", Section.OWNER, Kind.FLAG, "whether the owner asked to be left alone", _CONTACTS,
          synonyms=("do not call", "do not mail", "opted out"), rule="any contact of the owner that is marked so"),
)  # fmt: skip
