"""What kind of owner a recorded name is. Rules on whole words, in the order in which they decide; common practice throughout.

A word that is also a surname tells nothing where it stands first and given names follow (CHURCH JOHN A). Where no rule decides,
and neither does the census, ``probablepeople`` does: a tagger trained on labeled names.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from enum import StrEnum
from typing import NamedTuple

from jaded_ledger.core.ownership.census_names import as_given, as_surname
from jaded_ledger.core.ownership.people import GENERATIONS
from jaded_ledger.core.words import words_of


class OwnerKind(StrEnum):
    """What kind of owner a recorded name is."""

    INDIVIDUAL = "individual"
    COUPLE = "couple"
    COMPANY = "company"
    TRUST = "trust"
    ESTATE = "estate"
    LENDER = "lender"
    GOVERNMENT = "government"
    NON_PROFIT = "non-profit"
    SEVERAL_PEOPLE = "several people"


PEOPLE = frozenset({OwnerKind.INDIVIDUAL, OwnerKind.COUPLE, OwnerKind.SEVERAL_PEOPLE})
"""Kinds of those who are people themselves."""


class Decided(NamedTuple):
    """A kind, None where the owner is unknown, and what decided it."""

    kind: OwnerKind | None
    by: str


BY_CENSUS = "given and family names of the 1990 census"
BY_SURNAMES = "surnames, and no given name among them"
BY_ABSENCE = "no word of any other kind"
BY_TAGGER = "a tagger trained on labeled names (probablepeople)"


_NON_PROFIT_WORDS = """
    church churches ministries ministry foundation parish diocese archdiocese temple congregation charity charities cathedral
    synagogue mosque cemetery university college seminary hospital lutheran baptist catholic methodist presbyterian episcopal
    evangelical pentecostal islamic society lodge legion vfw ymca ywca habitat humanity mission council committee pac conservancy museum
    monastery convent abbey basilica academy laborers tabernacle adventist adventists mennonite nazarene apostolic wesleyan
    unitarian quaker fellowship gospel masjid mandir gurdwara gurudwara vihara buddhist hindu sikh masonic masons elks moose
    shriners kiwanis rotary jaycees ioof bpoe foe loom amvets scouts goodwill
""".split()
_COMPANY_WORDS = """
    holdings properties property realty rentals rental investments investment investors partners partnership enterprises group homes
    builders development developers ventures capital associates management mgmt assn association apartments condominium condominiums farm
    farms ranch dairy orchards brothers bros sons services service systems supply storage motors auto automotive repair repairs
    construction contractors contracting concrete plumbing electric electrical roofing painting landscaping paving asphalt hardware
    restaurant cafe saloon tavern grill bakery pizza liquor foods market store shop salon studio gallery hotel motel inn resort cottages
    spa insurance agency brokerage title attorneys offices dental dentistry clinic medical nursing rehab pharmacy veterinary industries
    industrial manufacturing mfg international technologies solutions consulting consultants design architects media music entertainment
    communications press signs jewelers telecom energy railroad railway transport trucking logistics leasing housing estates plaza stores
    coatings products center centre nursery gardens firm cpas assoc reporters dba gmbh towing lofts townhomes townhouses villas
    brewing brewery distillery winery vineyard vineyards lumber quarry gravel campground campgrounds apts hangars coop cooperative
    dredge warehouse warehouses laundromat greenhouse greenhouses sawmill foundry creamery fisheries outfitters kennels stables
    theatre theater cinema speedway raceway mortuary
""".split()


def _any_of(*marks: str) -> re.Pattern[str]:
    return re.compile("|".join(marks))


def _word(words: Iterable[str]) -> str:
    return rf"\b(?:{'|'.join(words)})\b"


_WITHHELD = r"(?:withheld|confidential|redacted|protected|suppressed|undisclosed|not disclosed|not released|private|restricted|exempt)"
_UNKNOWN = re.compile(
    rf"^(?:(?:property )?owners? |names? )*{_WITHHELD}(?: (?:property )?owners?| names?| information| records?)*"
    r"(?: (?:by|per|at|under) .*)?$|"
    r"^(?:unknown|unknown owners?|owners? unknown|current owners?|owners? of record|n a|"
    r"(?:(?:information|data|name|owner) )?not available|not known|no name|none|occupant|"
    r"unavailable|unassigned)$"
)
_FORM = _any_of(
    r"\b(?:llc|llp|lllp|pllc|inc|incorporated|corp|corporation|ltd|limited|l l c|l l p|l l l p|p l l c)\b",
    r"(?<=\w )(?:i n c|l t d|c o r p)$",
    r"(?<=\w )(?:co|company|lp|pc|plc)$",
)
_SPACED_FORM = re.compile(r"(?<=\w )(?:l p|p c|p a)$")
_RIGHT_BEFORE_FORM = (
    (OwnerKind.LENDER, re.compile(r"\b(?:mortgage|lending|home loans?|loan servicing|bank|bancorp)(?= $)")),
    (OwnerKind.NON_PROFIT, re.compile(r"\b(?:church|ministry|ministries|foundation|congregation|parish)(?= $)")),
)
"""What the last word before a company's form tells better than the form."""
_BODIES = _any_of(
    r"\b(?:latter day saints|jehovahs? witness(?:es)?|salvation army|knights of columbus|habitat for humanity|humane society|red cross)\b",
    r"\b(?:assembl(?:y|ies) of god|kingdom hall|tabernacle|diocese|archdiocese|goodwill|odd fellows|united way|historical society)\b",
    r"\b(?:boys?|girls?) (?:and )?(?:girls? )?club\b|\b(?:lions|rotary|kiwanis|elks|optimist) club\b|\bfriends of \w|\bsisters of\b",
    r"\b(?:church|ministr(?:y|ies)|congregation) (?:of|in) \w|\b(?:post|lodge|aerie) (?:no )?\d+\b",
)
"""Religious, fraternal and charitable bodies, whatever place or form their name ends with; an LLC is a company all the same."""
_OF_COMPANIES_ALONE = re.compile(r"\b(?:llc|llp|lllp|pllc|l l c|l l p|p l l c|lp)\b")
_TRUST = _any_of(
    r"\b(?:trusts?|trs|ttees?|trste|trustees?|revocable|irrevocable|rev tr|irrev tr|liv tr|u a d|u t d|uad|utd|u w of)\b",
    r"(?<=\w )tr\b",
)
_ESTATE = _any_of(r"\b(?<!real )(?:estate|decd|deceased|heirs)\b", r"(?<=\w )est\b", r"^est of\b")
_PLACES = "city|village|town|township|county|state|borough"
_GOVERNMENT = _any_of(
    rf"^(?:{_PLACES}|municipality|government|commonwealth|park district|school district) of\b",
    rf"\b(?:{_PLACES}) of$",
    r"^(?:city|village|town) (?!(?:square|center|centre|house|houses|hall|lofts|homes|view)\b)(?=\w+ \w+$)",
    r"(?<=\w )(?:county|township|municipality|borough|village)$",
    rf"\b(?:{_PLACES}) (?:treasurer|clerk|land bank|commission(?:ers)?|highway|dept)\b",
    r"\b(?:dept|department|secretary|bureau|board|division|ministry) of\b",
    r"\b(?:authority|usa|u s a|hud|municipality|united states|veterans affairs|forest service|trib(?:es?|al))\b",
    r"\b(?:school|park|sanitary|fire|water|drainage|sewer|library|utility|metropolitan) dist(?:rict)?\b",
    r"\b(?:public|high|elementary|middle) schools?\b",
    r"\belementary$",
)
_LENDER = _any_of(
    r"\b(?<!food )(?<!blood )(?<!land )(?:bank|bancorp)\b",
    r"\b(?:mortgage|mtg|savings|lending|credit union|fsb|fannie mae|freddie mac|receiver|home loans?)\b",
    r"\b(?:finance|financial)(?: services)?$",
    r"\b(?:national|trust) n a$",
)
_NON_PROFIT = _any_of(
    _word(_NON_PROFIT_WORDS),
    r"\b(?:friends|citizens) (?:of|for)\b|\bto elect\b|^taxpayers for\b|\bpolitical fund\b|\b(?:democratic|republican|political) party\b",
    r"\bfor (?:state|city|congress|mayor|senate|rep|county|states? att\w*)\b",
    r"\b(?:labor|workers|international|trades?) union\b|\b(?:local \d+|union local)\b",
    r"\b(?:kingdom hall|jehovahs? witness(?:es)?|latter day saints|assembl(?:y|ies) of god|salvation army|united way|red cross)\b",
    r"\b(?:knights|order|sisters|brothers|servants|daughters|sons|disciples|society|league|club) of (?=\w)|\bodd fellows\b|\baerie\b",
    r"\b(?:veterans|auxiliary|legion|vfw) (?:of|post)\b|\b(?:post|chapter|lodge|aerie|council) (?:no )?\d+\b",
    r"\b(?:boys?|girls?) (?:and )?(?:girls? )?club\b|\blions club\b|\bchamber of commerce\b",
    r"\bhistorical\b|\bhumane\b|\bworship (?:center|centre)\b|\bfood (?:pantry|bank)\b|\bprovince of st\b|\bislamic (?:center|centre)\b",
    r"^wat \w|\bbuddh\w+",
    r"^(?:beth|bnai|b nai|adath|agudas|anshe|temple) (?:el|am|israel|jacob|shalom|sholom|zion|sinai|emanuel|emanu|"
    r"torah|tikvah)\b",
    r"\b(?:catholic|lutheran|christian|hebrew|jewish|st \w+) (?:cong|conf|conference|center|centre|academy|school)\b|(?<=\w )cong$",
    r"\bchapel\b(?! hill)|\b\w+ of (?:grace|faith|hope|christ|god|peace|jesus|our lady|the lord)\b",
    r"\bsaint vincent de paul\b|\bschool (?:of|for)\b|\bcharter schools?\b",
)
_COMPANY = _any_of(
    _word(_COMPANY_WORDS),
    r"\breal estate\b|\blaw offices?\b",
    r"\b(?:owners|condos?|hills?|lakes?|village|estates) hoa$",
    r"^marina (?:at|of|on)\b|\b(?:harbor|bay|lake|point|creek|river|island|marsh|beach|cove|shores?|port|yacht|falls) marina\b",
    r"\b(?:self|mini) storage\b|\bmobile home\b|\b(?:yacht|golf|country) club\b|\bcar wash\b|\bfuneral home\b|"
    r"\bdrive in\b|\bfood mart\b|\bmemorial (?:park|gardens)\b",
    r"(?<=\w )(?:bowl|lanes|mall|wharf|books|power|commons|crossing|landing|manor|towers|"
    r"suites|flats|outlets?|steel|feeds?|grain|meats|marine)$",
    r"^the (?!\w+$)|\b\d{2,}$|^\d+ \w+ (?:st|ave|rd|dr|ln|blvd)\b",
)
_RULES = (
    (OwnerKind.TRUST, _TRUST),
    (OwnerKind.ESTATE, _ESTATE),
    (OwnerKind.GOVERNMENT, _GOVERNMENT),
    (OwnerKind.LENDER, _LENDER),
    (OwnerKind.NON_PROFIT, _NON_PROFIT),
    (OwnerKind.COMPANY, _COMPANY),
)
"""Marks of each kind, in the order in which they decide."""
_GIVEN_AND_INITIAL = 2
_INITIALS_BEHIND = 3
"""Behind so many words with them, or fewer, two letters at the end are somebody's initials."""
_SURNAMES_TOO = frozenset(
    "church temple parish bank city town state savings est group county village college legion lodge chapel abbey market sons ranch inn "
    "homes service council shop store center mission farm farms grill title foundation hospital masons moose".split()
)
"""Words of other kinds that are also surnames, though the census may not have them."""
_NO_GIVEN_NAMES = frozenset("hall hill house point ridge shalom sholom israel sinai zion el am emanuel unlimited street road place".split())
"""Words behind CHURCH or TEMPLE that are no given name."""


_BETWEEN_PEOPLE = re.compile(r"\s*(?:&|\+|;|\band\b|(?<=\s)/(?=\s))\s*", re.IGNORECASE)
_POSSESSIVE = re.compile(r"(?i)\w[’']S (?=\w\w)")


_JOINED = re.compile(r"\s*(?:,|&|\+|\band\b)\s*", re.IGNORECASE)
_INITIALS_JOINED = re.compile(r"(?i)^\w\.? ?(?:&|and) ?\w\.? \w{2,}")


def _is_firm(text: str) -> bool:
    """Return whether a name joins surnames without a given name among them, as a firm's does, or begins with joined initials."""
    if _INITIALS_JOINED.match(text):
        return True
    parts = [part for part in _JOINED.split(text) if part]
    # A comma alone sets off a surname: OSTROM, KNUD.
    if len(parts) < 2 or not re.search(r"(?i)&|\+|\band\b", text):
        return False
    return all(" " not in part and len(part) > 1 and as_given(part) <= as_surname(part) for part in parts)


def _is_surname_first(words: Sequence[str], *, has_others: bool) -> bool:
    """Return whether a name begins with a word that is also a surname, and goes on with given names and initials only.

    ``has_others`` tells that other people are named beside it.
    """
    rest = [word for word in words[1:] if word not in GENERATIONS and word != "and"]
    if not rest or not may_be_surname(words[0]) or not _NO_GIVEN_NAMES.isdisjoint(rest):
        return False
    unlisted = [word for word in rest if len(word) > 1 and not as_given(word)]
    # A given name that the census lacks stands alone or has an initial behind it, and is no word of another kind.
    is_one_name = len(rest) == 1 or (len(rest) == _GIVEN_AND_INITIAL and len(rest[-1]) == 1)
    return not unlisted or (len(unlisted) == 1 and (has_others or is_one_name) and is_one_name and not _is_mark(unlisted[0]))


def may_be_surname(word: str) -> bool:
    """Return whether a word of another kind is also a surname."""
    return word in _SURNAMES_TOO or (as_surname(word) > 0 and _is_mark(word))


def _is_mark(word: str) -> bool:
    return any(marks.search(f"x {word}") for _, marks in _RULES)


def _without_people(words: Sequence[str], text: str) -> str:
    """Return a name's words without those people in it whose surname is also a word of another kind."""
    parts = [words_of(part) for part in _BETWEEN_PEOPLE.split(text)]
    if not any(part and may_be_surname(part[0]) for part in parts):
        return " ".join(words)
    kept: list[str] = []
    others = " ".join(word for part in parts for word in (part[1:] if part and may_be_surname(part[0]) else part))
    has_others = len(parts) > 1 and not any(marks.search(others) for _, marks in _RULES)
    for part in parts:
        # CHURCH PAUL EST: what is left of an estate says so.
        is_person = bool(part) and _is_surname_first([word for word in part if not _ESTATE.search(f"x {word}")], has_others=has_others)
        kept += [word for word in part if not is_person or _ESTATE.search(f"x {word}")] if is_person else part
    return " ".join(["x", *kept] if len(kept) < len(words) else kept)


def _by_form(line: str) -> Decided | None:
    """Decide by a company's form, which wins over every other word but those right before it, and a trust named after it."""
    form = _FORM.search(line)
    words = line.split()
    if form is None and len(words) > _INITIALS_BEHIND and not (len(words) == _INITIALS_BEHIND + 1 and as_given(words[1])):
        # P C behind a surname, or behind a surname and a given name, are initials.
        form = _SPACED_FORM.search(line)
    if form is None:
        return None
    if after := _TRUST.search(line, form.end()):
        return Decided(OwnerKind.TRUST, after[0])
    if (body := _BODIES.search(line)) and not _OF_COMPANIES_ALONE.search(line):
        return Decided(OwnerKind.NON_PROFIT, body[0])
    for kind, mark in _RIGHT_BEFORE_FORM:
        if before := mark.search(line, 0, form.start()):
            return Decided(kind, before[0])
    return Decided(OwnerKind.COMPANY, form[0])


def _by_names(words: Sequence[str]) -> bool:
    """Return whether the census tells that words are a person's: given names behind a surname, or before one."""
    rest = words[1:]
    if any(len(word) == 1 or as_given(word) or word in GENERATIONS for word in rest):
        return True
    return len(words) > 1 and bool(as_given(words[0])) and bool(as_surname(words[-1]))


def kind_of(words: tuple[str, ...], text: str, *, is_person_like: bool) -> Decided:
    """Decide what kind of owner a name is; None where the owner is unknown, INDIVIDUAL for people of whatever number.

    ``words`` are the name's, in lower case, ``text`` the name itself. ``is_person_like`` tells that it reads as
    several names, or as one with a title or a degree.
    """
    line = " ".join(words)
    if unknown := _UNKNOWN.match(line):
        return Decided(None, unknown[0])
    if by_form := _by_form(line):
        return by_form
    rest = _without_people(words, text)
    if (body := _BODIES.search(rest)) and not (_TRUST.search(rest) or _ESTATE.search(rest)):
        return Decided(OwnerKind.NON_PROFIT, body[0])
    for kind, marks in _RULES:
        if found := marks.search(rest):
            return Decided(kind, found[0])
    # Behind two words that are no person's N A is a national association's.
    if words[-2:] == ("n", "a") and len(words) > _INITIALS_BEHIND and not as_given(words[1]):
        return Decided(OwnerKind.LENDER, "n a")
    if _is_firm(text):
        return Decided(OwnerKind.COMPANY, BY_SURNAMES)
    if possessive := _POSSESSIVE.search(text):
        return Decided(OwnerKind.COMPANY, possessive[0])
    if _by_names(words):
        return Decided(OwnerKind.INDIVIDUAL, BY_CENSUS)
    if not is_person_like and _is_tagged_company(text):
        return Decided(OwnerKind.COMPANY, BY_TAGGER)
    return Decided(OwnerKind.INDIVIDUAL, BY_ABSENCE)


def _is_tagged_company(text: str) -> bool:
    """Return whether the tagger takes a name for a company's, as recorded and with the first word behind the others, too.

    It takes two rare words for a company's name too often: they are a person's.
    """
    first, _, rest = text.partition(" ")
    if " " not in rest:
        return False
    # Loading its models takes a tenth of a second, and who only searches reads no names.
    import probablepeople

    for order in (text, f"{rest} {first}"):
        labels = [label for _, label in probablepeople.parse(order)]
        if sum(label.startswith("Corporation") for label in labels) * 2 <= len(labels):
            return False
    return True
