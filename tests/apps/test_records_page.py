"""The place Records: the fill-rate grid against brute force, how far records reach, and what Find makes of both."""

from __future__ import annotations

import re
from collections import Counter
from html import unescape
from typing import Any

from django.urls import reverse

from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.display import NONE
from jaded_ledger.core.criteria.traits import Kind, Trait
from jaded_ledger.find.parcels import parcels
from jaded_ledger.find.results import value_of, with_values
from jaded_ledger.records.fill_rates import measure_fill
from jaded_ledger.records.models import County, Coverage, FillRate, ParcelFacts, RollEntry, SourceFile
from jaded_ledger.records.own_columns import traits_of
from jaded_ledger.records.trait_columns import FEW
from tests.support.demo import DemoTestCase
from tests.support.page_text import page_text
from tests.support.tiers import thorough

PLACES = [trait.fact for trait in CATALOGUE if trait.kind is Kind.PLACE and not trait.of_team]


class Grid(DemoTestCase):
    def setUp(self) -> None:
        self.client.force_login(self.user)

    def counted(self, rows: list[ParcelFacts], trait: Trait) -> Counter[Any]:
        """Count a trait's values as they are stored, one by one."""
        found: Counter[Any] = Counter()
        for row in rows:
            stored = row.further.get(trait.fact.removeprefix("further__")) if trait.is_own else getattr(row, trait.fact)
            if stored is not None:
                found.update(stored if trait.kind is Kind.SET else [stored.text if trait.kind is Kind.PLACE else stored])
        return found

    def text(self, view: str) -> str:
        page = self.client.get(reverse("intake:records"), {"view": view}).content.decode()
        return page_text(page[page.index("<table") :])

    @thorough
    def test_every_cell_counts_the_parcels_one_by_one(self) -> None:
        page = self.text("fill")
        counties = list(County.objects.order_by("name"))
        traits = [trait for trait in traits_of(counties) if not trait.of_team]
        facts = {
            county.pk: list(with_values(parcels(self.scope).filter(county=county).select_related("county", *PLACES), traits))
            for county in counties
        }
        for trait in traits:
            shown = []
            for county in counties:
                if trait.is_own and trait.county != county.name:
                    shown.append("·")
                    continue
                # Of what there was no such event of, nothing is to be known.
                values = [value for row in facts[county.pk] if not ((value := value_of(row, trait)) == NONE and trait.event)]
                known = sum(value is not None for value in values)
                share = max(100 * known // len(values), 1 if known else 0) if values else None
                shown.append("none" if share is None else "all" if share == 100 else "blank" if not share else f"{share} %")
                rate = FillRate.objects.get(county=county, trait=trait.key)
                self.assertEqual(rate.known, known, (county, trait.key))
                if trait.kind in FEW and trait.key != "county":
                    commonest = sorted(self.counted(facts[county.pk], trait).items(), key=lambda one: (-one[1], one[0]))[:60]
                    self.assertEqual(rate.commonest, [list(one) for one in commonest], (county, trait.key))
            self.assertIn(f"{trait.label} {' '.join(shown)}", page)

    def test_how_far_and_which_files(self) -> None:
        Coverage.objects.filter(county__name="Tamarack", kind="permits").update(recorded_through="2026-11-02")
        self.assertRegex(self.text("reach"), r"Building permits permits 12 Nov 2026 31 Oct 2026 2 Nov 2026")
        head = self.client.get(reverse("intake:records"))
        reaches = "Data as of: Odell Marsh 12 Nov 2026 · Pike Hollow 31 Oct 2026 · Tamarack 2 Nov 2026"
        self.assertIn(reaches, page_text(head.content))
        newest = SourceFile.objects.order_by("-id").first()
        self.assertRegex(self.text("files"), rf"{newest.name} {newest.kind} {newest.county.name}")
        # Find names each chosen county's.
        found = self.client.get(reverse("find:find"), {"q": "county: Tamarack, Pike Hollow"})
        self.assertIn("Data as of: Tamarack 2 Nov 2026 · Pike Hollow 31 Oct 2026", page_text(found.content))
        changed = self.client.get(reverse("find:change"), {"do": "counties:", "county": "Odell Marsh"}, headers={"HX-Request": "true"})
        self.assertIn("Data as of: Odell Marsh 12 Nov 2026", page_text(changed.content))

    def warning(self, search: str) -> list[str]:
        page = self.client.get(reverse("find:find"), {"q": search}).content.decode()
        return [unescape(text) for text in re.findall(r'class="mostly-blank">([^<]+)<', page)]

    def test_a_criterion_says_where_its_trait_is_mostly_blank(self) -> None:
        share = FillRate.objects.get(county__name="Odell Marsh", trait="last-sale").share
        self.assertLess(share, 50)
        said = f"known of {share} % in Odell Marsh"
        self.assertEqual(self.warning("county: Tamarack, Odell Marsh\nlast-sale: since 2020-01-01\nassessed-value: 1.."), [said])
        self.assertEqual(self.warning("county: Tamarack\nlast-sale: since 2020-01-01"), [])
        self.assertEqual(self.warning("county: Odell Marsh\n~ last-sale: since 2020-01-01"), [])
        self.assertEqual(
            self.warning("county: Odell Marsh\nany of:\n  last-sale: since 2020-01-01\n  assessed-value: 3.."), [f"last sale {said}"]
        )
        self.assertEqual(self.warning("odell-marsh/tillable-ac: 5.."), ["a column of Odell Marsh only"])
        county = County.objects.get(name="Pike Hollow")
        RollEntry.objects.filter(county=county).update(beds=None)
        ParcelFacts.objects.filter(county=county).update(beds=None)
        measure_fill(county)
        self.assertEqual(self.warning("county: Pike Hollow\nbeds: 3.."), ["blank in Pike Hollow"])
