"""Sentences as people type them against what each means. They were written before the parser; see ``sentences``."""

from __future__ import annotations

import itertools
import re
from dataclasses import dataclass, replace
from datetime import date
from decimal import Decimal
from pathlib import Path

from django.test import SimpleTestCase
from hypothesis import given
from hypothesis import strategies as st

from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.display import value_phrase
from jaded_ledger.core.criteria.language.edges import canonical
from jaded_ledger.core.criteria.language.reading import Reading, read
from jaded_ledger.core.criteria.language.tokens import LONGEST, lex
from jaded_ledger.core.criteria.search import Criterion, Exactly, FigureRange, Members, Presence, Quantity, Search, Value
from jaded_ledger.core.criteria.text import CriteriaError, format, line_text, parse
from jaded_ledger.core.criteria.traits import Kind, Trait
from tests.support.lexicon import Lexicon
from tests.support.strategies import criteria
from tests.support.tiers import deep

SENTENCES = Path(__file__).parent / "sentences"
TODAY = date(2026, 11, 24)
TRAITS = tuple(CATALOGUE)
NEAR = "?"
"""Stands in the corpus, as ``..``, for a distance that is asked for."""


@dataclass(frozen=True)
class Meant:
    sentence: str
    options: frozenset[frozenset[str]]
    unused: frozenset[str]
    cannot: str = ""


def _line(text: str) -> str:
    """Return a line in the one spelling in which lines are compared."""
    text = re.sub(r"(\d+) weeks?", lambda found: f"{7 * int(found[1])} days", text.strip())
    text = text.replace("condition: any of ", "condition: ")
    if found := re.fullmatch(r"([a-z-]+: (?:any|none) of )(?!\")(.*)", text):
        text = found[1] + ", ".join(f'"{word.strip()}"' for word in found[2].split(","))
    if text == "mailing-address: PO Box":
        text = 'mailing-address: "PO Box"'
    if text.endswith(": .."):
        return text.replace("..", NEAR)
    try:
        return canonical(text)
    except CriteriaError:
        return text


def _meant(row: str) -> Meant:
    sentence, meaning = (part.strip() for part in row.split("=>", 1))
    if meaning.startswith("cannot "):
        return Meant(sentence, frozenset(), frozenset(), meaning.removeprefix("cannot ").partition(":")[0].strip())
    meaning, _, unused = meaning.partition(" !")
    options = (re.split(r" & (?![^{]*\})", option) for option in meaning.split(" ?? "))
    return Meant(sentence, frozenset(frozenset(map(_line, lines)) for lines in options), frozenset(_words_in(unused)))


def _words_in(text: str) -> list[str]:
    return re.findall(r"[\w'.]+", text.casefold())


def corpus(name: str) -> list[Meant]:
    return [_meant(row) for row in (SENTENCES / f"{name}.txt").read_text().splitlines() if "=>" in row and not row.startswith("#")]


def _options(reading: Reading) -> frozenset[frozenset[str]]:
    """Return every set of lines that a reading offers."""
    chosen = itertools.product(*(part.options for part in reading.parts))
    return frozenset(frozenset(_line(line) for option in one for line in option) for one in chosen)


def is_as_meant(reading: Reading, meant: Meant) -> bool:
    if meant.cannot or reading.cannot:
        return [what for what, _ in reading.cannot] == [meant.cannot]
    offered = _options(reading)
    if any(line.endswith(NEAR) for option in meant.options for line in option):
        asked = {frozenset(line.partition(":")[0] for line in option) for option in meant.options}
        return len(offered) > 1 and {frozenset(line.partition(":")[0] for line in option) for option in offered} == asked
    return offered == meant.options


def read_here(sentence: str) -> Reading:
    return read(sentence, TRAITS, Lexicon(), TODAY)


class Asked(SimpleTestCase):
    def figures(self, name: str) -> tuple[float, list[str]]:
        """Return which share of a corpus is read as meant, and what is read otherwise and nothing says so."""
        rows = corpus(name)
        readings = [(meant, read_here(meant.sentence)) for meant in rows]
        wrong = [(meant, reading) for meant, reading in readings if not is_as_meant(reading, meant)]
        return 1 - len(wrong) / len(rows), [meant.sentence for meant, reading in wrong if reading.is_clear]

    def test_those_that_the_parser_was_made_with(self) -> None:
        self.assertGreater(len(corpus("asked")), 400)
        share, silent = self.figures("asked")
        self.assertEqual(silent, [])
        self.assertGreaterEqual(share, 0.99)

    SAME_IN_OTHER_WORDS = frozenset((
        "price reduced more than 5 percent", "r1 zoning vacant lot", "2 or 3 beds, 1 bath, 800 to 1000 ft",
        "motivated seller or fixer upper",
    ))  # fmt: skip
    """Read as what finds the same, written otherwise than was expected."""

    def test_those_that_were_set_aside(self) -> None:
        # Each part was looked at once, and then the parser was mended; what it showed first is in decision 78.
        for name, least in (("held_out", 0.93), ("set_aside", 0.89)):
            with self.subTest(name):
                share, silent = self.figures(name)
                self.assertLessEqual(set(silent), self.SAME_IN_OTHER_WORDS)
                self.assertGreaterEqual(share, least)

    def test_no_refusal_goes_to_what_stands_behind_it(self) -> None:
        for sentence, lines in (
            ("no pool no garage", ("pool: no", "garage: 0")),
            ("dont want any condos", ("class: not condominium",)),
            ("pool no, garage 2", ("pool: no", "garage: 2")),
        ):
            with self.subTest(sentence):
                self.assertEqual(read_here(sentence).lines, lines)

    def test_figures_as_they_are_spoken(self) -> None:
        for sentence, lines in (
            ("listed under two fifty k", ("list-price: ..249999",)),
            ("at least 2 and a half baths", ("baths: 2.5..",)),
            ("equity between a hundred and two hundred thousand", ("equity: 100000..200000",)),
            ("ltv under half", ("ltv: ..49.99",)),
            ("at least 60x150", ("frontage: 60..", "depth: 150..")),
            ("last sold 1998 or earlier", ("last-sale: before 1999-01-01",)),
        ):
            with self.subTest(sentence):
                self.assertEqual(read_here(sentence).lines, lines)
        self.assertEqual(read_here("worth about 200k").unused, ("about",))
        # Thousands that nobody said are asked about.
        self.assertEqual(read_here("asking under 200").parts[0].options, (("list-price: ..199",), ("list-price: ..199999",)))


class NothingIsLost(SimpleTestCase):
    WORDS = sorted({word for meant in corpus("asked") for word in meant.sentence.split()})

    @deep(300)
    @given(st.lists(st.sampled_from(WORDS), min_size=1, max_size=12))
    def test_every_figure_is_in_a_part_or_said_to_be_unused(self, words: list[str]) -> None:
        sentence = " ".join(words)
        reading = read_here(sentence)
        if reading.cannot:
            return
        accounted = " ".join([*(part.words for part in reading.parts), *reading.unused])
        for token in lex(sentence):
            if token.number is not None:
                written = sentence[token.start : token.end]
                self.assertIn(re.sub(r"\s+", " ", written), re.sub(r"\s+", " ", accounted), sentence)

    def test_a_refusal_is_never_lost(self) -> None:
        for sentence, line in (
            ("never listed", "ever-listed: no"),
            ("no pool", "pool: no"),
            ("not condos", "class: not condominium"),
            ("without a phone", "has-telephone: no"),
            ("no probate", "probate: none"),
        ):
            with self.subTest(sentence):
                self.assertEqual(read_here(sentence).lines, (line,))
        # What can't be refused in one line is said not to be used.
        reading = read_here("not over 3 beds or 2 baths, not 2000 sq ft")
        self.assertFalse(reading.is_clear)

    SIGNS = "$ # @ % ^ * _ + = ~ < > / \\ ` ≠ − § € ½".split()

    @deep(100)
    @given(st.lists(st.sampled_from(["3 beds", "empty", "in Alder Bay", "owner Okafor", *SIGNS]), min_size=1, max_size=6))
    def test_no_sign_is_lost(self, words: list[str]) -> None:
        sentence = " ".join(words)
        reading = read_here(sentence)
        accounted = " ".join([*(part.words for part in reading.parts), *reading.unused])
        for word in words:
            if word in self.SIGNS:
                self.assertGreaterEqual(accounted.count(word), sentence.count(word), sentence)

    def test_signs_that_compare(self) -> None:
        for sentence, line in (
            ("beds ≥ 3", "beds: 3.."),
            ("beds <= 3", "beds: ..3"),
            ("beds = 3", "beds: 3"),
            ("equity > 40%", "equity-pct: 40.01.."),
            ("townhouse | condo", "class: townhouse, condominium"),
        ):
            with self.subTest(sentence):
                self.assertEqual(read_here(sentence).lines, (line,))
        self.assertFalse(read_here("# beds @ parcel").is_clear)
        self.assertEqual(read_here("beds ≠ 3").unused, ("beds ≠ 3",))
        self.assertIn("-5", " ".join(read_here("cheap, -5").unused))
        self.assertEqual(read_here("3 -4 beds").lines, ("beds: 3..4",))

    def test_a_part_says_where_its_words_stand(self) -> None:
        sentence = "2 units, or 2 units on Mast Ln; with 2 baths"
        for part in read_here(sentence).parts:
            self.assertEqual(sentence[part.start : part.end], part.words)

    def test_what_is_too_long_is_not_read(self) -> None:
        words = ["empty"] * LONGEST
        self.assertTrue(read_here(" ".join(words)).parts)
        longer = " ".join([*words, "empty"])
        self.assertEqual(read_here(longer), Reading((), (longer,)))

    def test_an_empty_sentence_and_signs_alone(self) -> None:
        for sentence in ("", "  ", ", ; -", "the and of"):
            with self.subTest(sentence):
                self.assertEqual(read_here(sentence), Reading(()))


SAID_EXACTLY = (Kind.FLAG, Kind.CHOICE, Kind.DATE, Kind.NUMBER, Kind.MONEY, Kind.PERCENT)
"""Kinds whose values pages say in words that are no names."""


def _words(criterion: Criterion) -> str:
    return f"{CATALOGUE[criterion.trait].label} {value_phrase(criterion, most=99)}"


def _rounded(trait: Trait, value: Value) -> Value:
    """Return a value with no more decimals than pages show."""

    def end(figure: Decimal | None) -> Decimal | None:
        if figure is None:
            return None
        rounded = Decimal(f"{figure:.{trait.decimals}f}")
        return rounded.quantize(Decimal(1)) if rounded == rounded.to_integral_value() else rounded.normalize()

    match value:
        case Exactly(Decimal() as figure):
            return Exactly(end(figure) or Decimal(0))
        case FigureRange(low, high):
            return FigureRange(end(low), end(high))
        case Members(Quantity.ALL, (_,)):
            # All of one is any of one.
            return replace(value, quantity=Quantity.ANY)
    return value


def _shown_whole(criterion: Criterion, most: int) -> Criterion:
    """Return of a criterion what pages show whole: applied, with values once each that don't contradict each other."""
    trait = CATALOGUE[criterion.trait]
    accepts, refuses = (
        tuple(dict.fromkeys(_rounded(trait, one) for one in values if "'not-" not in str(one) and not _is_twice(one)))
        for values in (criterion.accepts, criterion.refuses)
    )
    accepts = accepts[:most]
    refuses = tuple(one for one in refuses if one not in accepts)
    if any(isinstance(one, Presence) for one in (*accepts, *refuses)):
        accepts, refuses = accepts[:1], ()
    return Criterion(trait.key, accepts, refuses, criterion.unknown or not (accepts or refuses))


def _is_twice(value: Value) -> bool:
    return isinstance(value, Members) and len(set(value.items)) < len(value.items)


def _of_kinds(*kinds: Kind) -> st.SearchStrategy[Criterion]:
    keys = [trait.key for trait in TRAITS if trait.kind in kinds and trait.key != "county"]
    return st.sampled_from(keys).flatmap(lambda key: criteria(of=key))


class WordsOfASearch(SimpleTestCase):
    """A search in the words that pages show, read again."""

    @deep(60)
    @given(st.lists(_of_kinds(*SAID_EXACTLY), min_size=1, max_size=3, unique_by=lambda one: one.trait))
    def test_read_again_it_is_the_same(self, asked: list[Criterion]) -> None:
        lines = [_shown_whole(one, 3) for one in asked]
        wanted = [line_text(line) for line in parse(format(Search((), tuple(lines)))).lines]
        sentence = "; ".join(map(_words, lines))
        if len(lex(sentence)) <= LONGEST:
            self.assertEqual(list(read_here(sentence).lines), wanted)

    @deep(60)
    @given(_of_kinds(*SAID_EXACTLY, Kind.PLACE, Kind.SET, Kind.PHRASES, Kind.PARCEL_NUMBER))
    def test_with_names_it_is_the_same_or_says_what_is_open(self, asked: Criterion) -> None:
        # Sets that are accepted side by side are shown as one.
        line = _shown_whole(asked, 1)
        reading = read_here(_words(line))
        if reading.is_clear:
            self.assertEqual(reading.lines, (line_text(line),))
