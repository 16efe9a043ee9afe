"""Invented people, companies and places, and who may sign in to the demo. No name stands for anybody."""

from __future__ import annotations

from dataclasses import dataclass
from random import Random

USER, PASSWORD = "nora", "lantern-street"
TEAM = "Lantern Street Realty"
RETURN_ADDRESS = [TEAM, "12 Lantern St", "Alder Bay WI 53301"]
SIGNATURE = {"phone": "(414) 555-0142", "license": "Broker license 57-20114 (invented)"}
"""What the demo's letters and mails give of the team. Numbers from 555-0100 to 555-0199 are nobody's."""

_SURNAMES = (
    "OSTROM KELM QUILLFEATHER TOLLIVER LARKMOOR PELLWORTH SORREL VANTONGEREN BRANDVOLD HARROWGATE FENNIMORE "
    "ASKEVOLD DUNMORROW TREVANNION MARSTRAND HOLLOWAY-PIKE ELLINGBOE SKARSGARD BIRKELAND THISTLEWOOD CORRIGAN "
    "NAKAGAWA OYELARAN DELACRUZ MBEKI PRZYBYLSKI RASMUSSEN WETHERBY ABERNATHY-COLE STOLTENBERG VUKOVIC YOUNGBEAR "
    "ZIELINSKI GRANDPRE HEIKKINEN IVERSLEY JOHANNSDOTTIR KOWALCZYK LINDQVIST MOSSGROVE NORDAHL OBERHOLTZER "
    "PETTIBONE QUINLIVAN RIDGEWELL SALTONSTALL TERWILLIGER UNDERHAY VANDERWALL WHITCHER XIONG YARBOROUGH ZUMBRUNNEN "
    "AMBLECOTE BOLLINGER CASTELLANO DRINKWATER EASTERLING FOXGLOVE GREENHALGH HUCKABAY INGERSOLL JARLSBERG "
    "KITTREDGE LONGSTRETH MERRYWEATHER NIGHTINGALE OAKHURST PENHALIGON RAINSFORD STARKWEATHER TILLINGHAST UPJOHN "
    "VALDERRAMA WINDERMERE YELLOWLEES CHURCH BANKS TEMPLE"
).split()
_GIVEN = (
    "HELEN PETER ARVID DORA INES MIKKEL LISE KARL ADA JOSEPH NORA EINAR SOLVEIG TOMAS GRETA OLAF MARTHA RUBEN IDA "
    "WALTER CLARA FELIX AGNES OSCAR STELLA HUGO EDITH VICTOR MABEL LEON VERA OTIS PEARL ROLAND ALMA CYRUS HAZEL "
    "DEXTER JUNE AMARA KOFI LUCIA MATEO YUKI KENJI PRIYA ARJUN LEILA OMAR ZOFIA PAVEL THERESE MARCEL BRIDGET COLM "
    "ELSPETH RORY"
).split()
_COMPANY_FIRST = (
    "TWO LAMPS", "HARROW POINT", "NORTHING STREET", "SALT & TIMBER", "COPPERLINE", "GULLWING", "THIRD REEF", "BRASS KEY",
    "LONG JETTY", "MILLRACE", "ANCHORAGE ROW", "FOUR CORNERS",
)  # fmt: skip
_COMPANY_LAST = ("HOLDINGS LLC", "RENTALS LLC", "PROPERTIES LLC", "INVESTMENTS INC", "REALTY PARTNERS LP")
_LENDERS = ("LAKEPORT SAVINGS BANK", "FIRST BEACON BANK N A", "ALDER MUTUAL MORTGAGE CORP", "TIDEWATER CREDIT UNION")
_CHURCHES = ("ST OLAF LUTHERAN CHURCH", "HARBOUR LIGHT MINISTRIES", "OUR LADY OF THE SHOALS PARISH")
_AWAY = (
    ("MARLOW KEY", "FL"), ("CALDER SPRINGS", "AZ"), ("GRAND TOLLAND", "IL"), ("WEST HARLAN", "IL"), ("LAKE ORREN", "MN"),
    ("PORT VESPER", "MI"), ("DRY CREEK BEND", "TX"), ("SAN ALDO", "CA"), ("MILLBROOK FALLS", "IA"), ("EAST CORVID", "WI"),
    ("ODELL", "WI"), ("PINE LANDING", "WI"),
)  # fmt: skip
_AWAY_STREETS = (
    "JUNIPER ST", "W 4TH AVE", "PALMETTO DR", "STATION RD", "OLD MILL LN", "S COURT ST", "ORCHARD PKWY", "N 18TH ST",
    "COUNTY ROAD 9", "PROSPECT TER", "BAYVIEW CIR", "E SYCAMORE BLVD",
)  # fmt: skip


@dataclass(frozen=True)
class Mailing:
    """A mailing address as a roll writes it, in cells."""

    line: str
    city: str
    state: str
    zip_code: str


def person(rng: Random) -> tuple[str, str]:
    """Return a surname and given names."""
    given = rng.choice(_GIVEN)
    return rng.choice(_SURNAMES), f"{given} {rng.choice('ABCDEFGHJKLMPRSTW')}" if rng.random() < 0.6 else given


def household(rng: Random) -> str:
    """Return a person or couple, last name first."""
    surname, given = person(rng)
    shape = rng.random()
    if shape < 0.42:
        return f"{surname} {given}"
    if shape < 0.9:
        return f"{surname} {given} & {rng.choice(_GIVEN)}"
    other, other_given = person(rng)
    return f"{surname} {given} & {other} {other_given}"


def company(rng: Random) -> tuple[str, int]:
    """Return one of sixty companies, now and then in another spelling, and its number."""
    number = min(int(rng.expovariate(1 / 9)), 59)
    name = f"{_COMPANY_FIRST[number % 12]} {_COMPANY_LAST[number // 12]}"
    spelling = rng.random()
    if spelling < 0.06:
        name = name.replace("LLC", "L.L.C.")
    elif spelling < 0.1:
        name = name.replace("HOLDINGS", "HLDGS").replace("PROPERTIES", "PROPS")
    return name, number


def company_mailing(number: int, zip_base: int) -> Mailing:
    """Return where a company gets its mail: always the same."""
    if number % 4 == 1:
        return Mailing(f"PO BOX {200 + number}", "ALDER BAY", "WI", str(zip_base + 3))
    city, state = _AWAY[number % len(_AWAY)]
    return Mailing(f"{400 + number * 7} {_AWAY_STREETS[number % 12]} STE {number + 1}", city, state, str(53360 + number % 30))


def lender(rng: Random) -> tuple[str, Mailing]:
    number = rng.randrange(len(_LENDERS))
    return _LENDERS[number], Mailing(f"{number + 1}00 EXCHANGE PLZ STE 40{number}", "GRAND TOLLAND", "IL", "53350")


def church(rng: Random) -> str:
    return rng.choice(_CHURCHES)


def away(rng: Random) -> Mailing:
    """Return a mailing address somewhere else."""
    city, state = rng.choice(_AWAY)
    zip_code = str(53340 + rng.randrange(50))
    shape = rng.random()
    if shape < 0.1:
        line = f"PO BOX {rng.randrange(10, 2400)}"
    elif shape < 0.13:
        line = f"RR {rng.randrange(1, 6)} BOX {rng.randrange(10, 300)}"
    elif shape < 0.25:
        line = f"{rng.randrange(100, 9900)} {rng.choice(_AWAY_STREETS)} APT {rng.randrange(1, 30)}{rng.choice('ABCD')}"
    else:
        line = f"{rng.randrange(100, 9900)} {rng.choice(_AWAY_STREETS)}"
    return Mailing(line, city, state, f"{zip_code}-{rng.randrange(1000, 9999)}" if rng.random() < 0.3 else zip_code)


_OFFICES = (
    ("LSR", "Lantern Street Realty"), ("BRK", "Breakwater Brokers"), ("CTL", "Capstan & Tiller Homes"), ("MLW", "Mill and Weir Realty"),
    ("FFA", "Four Furlongs Agency"), ("ODL", "Odell Land & Lake"),
)  # fmt: skip
_CONTRACTORS = ("KEEL & PLUMB BUILDERS", "NORTH GABLE ROOFING", "HEARTHSTONE MASONRY", "BRIGHT MAINS ELECTRIC", "TRUELINE PLUMBING")
_AREA_CODES = (920, 414, 608, 715, 262, 312, 239, 602, 507, 616)


@dataclass(frozen=True)
class Agent:
    """Somebody who lists houses, and for whom."""

    number: str
    name: str
    telephone: str
    office_number: str
    office: str


def agents() -> list[Agent]:
    """Return the listing services' members: always the same, three or four to an office."""
    rng = Random("agents")
    found = []
    for place, (key, office) in enumerate(_OFFICES):
        for number in range(3 + place % 2):
            given, surname = rng.choice(_GIVEN).title(), rng.choice(_SURNAMES).title()
            found.append(Agent(f"{key}{number + 1:02d}", f"{given} {surname}", telephone(rng), f"{key}-1", office))
    return found


def telephone(rng: Random) -> str:
    """Return one of the numbers that are kept for invented people."""
    return f"{rng.choice(_AREA_CODES)}-555-01{rng.randrange(100):02d}"


def email(surname: str, rng: Random) -> str:
    return f"{surname.casefold()}{rng.randrange(10, 99)}@example.{rng.choice(('com', 'org'))}"


def contractor(rng: Random) -> str:
    return rng.choice(_CONTRACTORS)


def heirs(rng: Random) -> str:
    """Return four cousins with one surname, as a roll squeezes them into a line."""
    surname = rng.choice(_SURNAMES)
    return f"{surname} {' & '.join(rng.sample(_GIVEN, 4))}"


def surname_of(owner: str) -> str:
    """Return the name a household is called by."""
    words = owner.replace("ESTATE OF ", "").replace("HEIRS OF ", "").split()
    return words[-1] if owner.startswith(("ESTATE OF", "HEIRS OF")) else words[0]


def sign_in_hint() -> str:
    """Return what to tell somebody who has just started the server."""
    from jaded_ledger.accounts.models import User

    if User.objects.filter(username=USER).exists():
        return f"Sign in as {USER} with the password {PASSWORD}."
    if User.objects.filter(is_active=True).exists():
        return "Sign in with your name and password."
    return "Nobody can sign in yet. Make the first administrator: bin/manage administrator NAME --team TEAM"
