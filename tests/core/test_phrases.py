"""Phrases in remarks: what they must find and what they must not. The fragments were written for the purpose."""

from __future__ import annotations

import re
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from jaded_ledger.core.criteria.phrase_book import PHRASE_BOOK
from jaded_ledger.core.criteria.text import CriteriaError, parse
from jaded_ledger.core.phrases import (
    BETWEEN,
    LONGEST,
    MOST_ACRONYMS,
    check_phrase,
    expression,
    expression_in,
    found_in,
    hits,
    plain_texts,
    sentence_around,
    wider,
)
from jaded_ledger.core.words import prose_line, words_of

# Phrase, a text that has it, a text that only seems to. The first three rows are the check values of the rules.
FRAGMENTS = (
    ("r.e.o.", "Sold as REO.", "CREOLE kitchen"),
    ("r.e.o.", "R.E.O, cash only", "STEREO stays; ask for Mrs OREOSKY"),
    ("fire damage", "Some fire-damage, repaired", "no fire, no damage"),
    ("r.e.o.", "offered r e o", "R.E.O.H. listed"),
    ("r.e.o.", "R.E.O. sale", "R.E. Olsen lists"),
    ("r.e.o.", "an R E O a block away", "an R E O H a block away"),
    ("t.l.c.", "T L C A BIT, and it shines", "P.T.L.C. meets here"),
    ("fixer*", "a ﬁxer", "a ﬁxed price"),
    ("needs updat*", "needs up\u00addating", "needs up dating"),
    ("café", "by the cafe\u0301", "by the cafe"),
    ("highest & best", "Highest & best by noon", "highest or best"),
    ("a.d.u.", "with an ADU over the garage", "graduate housing near"),
    ("r.e.o.", "REO, sold as is", "stereo system stays"),
    ("t.l.c.", "A bit of T L C and it shines", "outlet covers replaced"),
    ("v.t.b.", "VTB considered", "TV, tub and bar stay"),
    ("as is", "Sold as-is.", "as it is rented, 24 h notice"),
    ("as is", "AS/IS, no warranties", "bases its value on rent"),
    ("as is", "strictly (as is)", "as isolated as it gets"),
    ("as is", "As Is", "has issues"),
    ("where is", "as is, where is", "where his shop stands"),
    ("needs work", "Needs work!", "needs new worktops"),
    ("needs work", "needs  work", "needs little work"),
    ("needs work*", "needs working kitchen", "needs a workshop"),
    ("handyman*", "A handyman's delight", "handy, manageable size"),
    ("handyman*", "HANDYMANS SPECIAL", "a handy man’s dream"),
    ("fixer*", "fixer-upper", "all light fixtures stay; a prefixer"),
    ("gut*", "Gutted to the studs", "Long Guernsey fence"),
    ("rehab*", "Rehabber wanted", "prehab clinic next door"),
    ("estate sale", "Estate sale.", "real estates, sold by owner"),
    ("estate sale", "ESTATE-SALE pricing", "estate-like sale price"),
    ("heirs", "the heirs’ wish", "theirs to enjoy"),
    ("executor*", "Executrix? No: executors sign", "prosecutor next door"),
    ("probate", "subject to probate", "reprobate"),
    ("motivated", "Motivated!", "demotivated"),
    ("must sell", "MUST SELL", "must see; sells itself"),
    ("relocat*", "seller relocating", "collocated offices"),
    ("bring all offers", "Bring all offers", "bring all your offers"),
    ("quick clos*", "quick closing possible", "quickly closed"),
    ("short sale", "Short-sale, lender decides", "shortly on sale"),
    ("bank owned", "bank–owned", "bankowned"),
    ("foreclosure", "in foreclosure", "foreclosures"),
    ("power of sale", "under power of sale", "power and sale of solar"),
    ("trustee s sale", "trustee's sale", "trustees sale"),
    ("rent to own", "RENT-TO-OWN", "rent it or own it"),
    ("owner financ*", "Owner financing", "owner refinanced"),
    ("owner financ*", "owner will not; owner finance ok", "homeowner financing"),
    ("land contract", "land contract terms", "landcontract"),
    ("seller will carry", "Seller will carry 2nd", "seller will not carry"),
    ("tenant occupied", "tenant-occupied", "tenants occupied it once"),
    ("cash flow*", "cash flows from day one", "cash only; flowing creek"),
    ("cap rate", "7 % CAP RATE", "recap rates"),
    ("in law suite", "in-law suite", "within law; suites"),
    ("separate entrance", "sep. & separate entrance", "separate entrances"),
    ("second unit", "a second unit upstairs", "second, united"),
    ("duplex", "up/down duplex.", "duplexes nearby"),
    ("can be split", "lot can be split", "can be splitting"),
    ("subdivid*", "may be subdivided", "in a new subdivision"),
    ("double lot", "DOUBLE LOT", "doubles a lot"),
    ("tear down", "tear-down", "tears down the hall"),
    ("zoned multi*", "zoned multi-family", "zone of multiplexes"),
    ("highest and best", "Highest and best by Monday", "highest ceilings and best light"),
    ("multiple offers", "multiple offers in hand", "multiplex offers space"),
    ("offer deadline", "Offer deadline: 5 pm", "offers deadlines flexible"),
    ("bidding war", "in a bidding-war", "forbidding warden"),
    ("vacant", "Vacant, go and show", "vacantly"),
    ("move in now", "move-in now", "remove in November"),
    ("keys at office", "Keys @ office? keys at office", "keys at the office"),
    ("winterized", "Winterized 11/24", "unwinterized"),
    ("no warrant*", "no warranty, no survey", "know warrants"),
    ("d'angelo", "the D’Angelo house", "d and angelo"),
    ("2nd unit", "2ND unit", "22nd unit"),
    ("straße", "an der STRASSE", "strassen"),
)  # fmt: skip


class Phrases(TestCase):
    def test_fragments(self) -> None:
        self.assertGreaterEqual(len(FRAGMENTS), 60)
        for phrase, has, _ in FRAGMENTS:
            with self.subTest(phrase, text=has):
                self.assertTrue(hits(has, phrase))
                self.assertTrue(found_in(has, [phrase]))
                self.assertTrue(any(text in prose_line(has) for text in plain_texts(phrase)))
        for phrase, _, seems in FRAGMENTS:
            with self.subTest(phrase, text=seems):
                self.assertFalse(hits(seems, phrase))
                self.assertEqual(found_in(seems, [phrase]), [])

    def test_places(self) -> None:
        text = "Charming. Sold AS IS; needs  work. As-is!"
        found = found_in(text, ["as is", "needs work*"])
        self.assertEqual([text[hit.start : hit.end] for hit in found], ["AS IS", "needs  work", "As-is"])
        start, end = sentence_around(text, found[1])
        self.assertEqual(text[start:end], "Sold AS IS; needs  work.")

    def test_hits_one_after_the_other_and_one_within_another(self) -> None:
        self.assertEqual([hit[:2] for hit in found_in("gut gut gut", ["gut"])], [(0, 3), (4, 7), (8, 11)])
        self.assertEqual(len(found_in("as is where is", ["as is", "as is where is", "where is"])), 3)

    def test_a_long_sentence_is_shown_around_the_hit(self) -> None:
        text = " ".join(["word"] * 100) + " needs work " + " ".join(["more"] * 100)
        hit = found_in(text, ["needs work"])[0]
        start, end = sentence_around(text, hit)
        self.assertLess(end - start, 170)
        self.assertIn("needs work", text[start:end])
        self.assertEqual(text[start:end], text[start:end].strip())
        self.assertTrue(text[start:end].startswith("word ") and text[start:end].endswith(" more"))

    def test_wider_phrases_refuse_the_false_hit_and_keep_the_true_one(self) -> None:
        false, true = "There is room to grow vegetables.", "Former grow house."
        for phrase in wider(false, found_in(false, ["grow*"])[0]):
            self.assertTrue(hits(false, phrase), phrase)
            self.assertFalse(hits(true, phrase), phrase)
        self.assertEqual(wider("Grow!", found_in("Grow!", ["grow"])[0]), [])

    def test_fields(self) -> None:
        words = BETWEEN.join(prose_line(text) for text in ("Sold as is.", "", "Vacant, as is"))
        for phrase, fields, is_there in (
            ("as is", [0], True), ("as is", [1], False), ("as is", [2], True), ("vacant", [0], False), ("vacant", [0, 2], True),
            ("sold", [2], False), ("is vacant", [0, 1, 2], False),
        ):  # fmt: skip
            with self.subTest(phrase, fields=fields):
                self.assertEqual(re.search(expression_in(phrase, fields), words) is not None, is_there)
        self.assertEqual(expression_in("!", [0]), "")

    @given(st.text(alphabet="aAbß .,'-É\n", max_size=40), st.text(alphabet="abß *.", max_size=8))
    def test_found_where_and_only_where_it_hits(self, text: str, phrase: str) -> None:
        found = found_in(text, [phrase])
        self.assertEqual(bool(found), hits(text, phrase))
        if texts := plain_texts(phrase):
            self.assertEqual(any(one in prose_line(text) for one in texts), hits(text, phrase))
        for hit in found:
            self.assertTrue(hits(text[hit.start : hit.end], phrase))

    def test_the_phrase_book_can_be_read(self) -> None:
        keys = [group.key for group in PHRASE_BOOK]
        self.assertEqual(len(keys), len(set(keys)))
        for group in PHRASE_BOOK:
            for phrase in (*group.phrases, *group.refused):
                with self.subTest(group.name, phrase=phrase):
                    self.assertTrue(words_of(phrase) and expression(phrase))
            self.assertFalse(set(group.phrases) & set(group.refused))


class Bounds(TestCase):
    def test_spellings_are_counted_before_they_are_written_out(self) -> None:
        # Forty acronyms have a million million spellings.
        self.assertEqual(plain_texts("a.b. " * 40), ())
        self.assertEqual(len(plain_texts("a.b. " * MOST_ACRONYMS)), 2**MOST_ACRONYMS)
        self.assertTrue(expression("a.b. " * 40))

    def test_what_can_be_looked_for(self) -> None:
        for phrase in ("a.b. " * MOST_ACRONYMS, "x" * LONGEST, "as is", "word*"):
            check_phrase(phrase)
        for phrase, told in (
            ("a.b. " * (MOST_ACRONYMS + 1), "4 acronyms written with dots; a phrase has at most 3"),
            ("x" * (LONGEST + 1), "201 characters"), ("", "no word"), ("& !", "no word"),
        ):  # fmt: skip
            with self.subTest(phrase), self.assertRaisesRegex(ValueError, told):
                check_phrase(phrase)

    def test_a_search_says_which_phrase_is_wrong(self) -> None:
        for text in (f'remarks: any of "as is", "{"a.b. " * 30}"', f'remarks: "{"a.b. " * 30}"'):
            with self.assertRaisesRegex(CriteriaError, r'line 1: "a\.b\. .*…" has 30 acronyms'):
                parse(text)
