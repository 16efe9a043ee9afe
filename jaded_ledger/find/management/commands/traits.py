"""The catalogue of traits, as a table or as JSON."""

from __future__ import annotations

import json
import textwrap
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from jaded_ledger.core.criteria.traits import Trait
from jaded_ledger.records.models import County
from jaded_ledger.records.own_columns import traits_of

_WIDTH = 100


def as_json(trait: Trait) -> dict[str, Any]:
    """Return a trait as JSON has it."""
    return {
        "key": trait.key,
        "label": trait.label,
        "section": trait.section,
        "kind": trait.kind,
        "unit": trait.unit,
        "meaning": trait.meaning,
        "rule": trait.rule,
        "source": trait.source,
        "synonyms": [*trait.synonyms, *(words for words, _ in trait.sayings)],
        "values": [choice.key for choice in trait.choices],
        "can_be_none": trait.has_none,
    }


class Command(BaseCommand):
    # They read every view there is, and look for mistakes of developers: bin/start and bin/test run them.
    requires_system_checks: list[str] = []

    help = "Print the traits that can be asked, shown and sorted; the counties' own columns among them."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("words", nargs="*", help="only traits with these words in key, label, meaning or synonyms")
        parser.add_argument("--format", choices=("table", "json"), default="table")

    def handle(self, *args: Any, words: list[str], **options: Any) -> None:
        traits = [trait for trait in traits_of(County.objects.order_by("name")) if all(self._has(trait, word) for word in words)]
        if not traits:
            raise CommandError(f"no trait has {' and '.join(words)} in it", returncode=1)
        if options["format"] == "json":
            self.stdout.write(json.dumps([as_json(trait) for trait in traits], ensure_ascii=False, indent=1))
            return
        width = max(len(trait.key) for trait in traits)
        for section in dict.fromkeys(trait.section for trait in traits):
            self.stdout.write(f"\n{section}")
            for trait in (one for one in traits if one.section is section):
                unit = f", {trait.unit}" if trait.unit else ""
                self.stdout.write(f"  {trait.key:{width}}  {f'{trait.kind}{unit}':24}  {trait.meaning}")
                if trait.synonyms:
                    said = textwrap.fill(f"also: {', '.join(trait.synonyms)}", _WIDTH, subsequent_indent="      ")
                    self.stdout.write(textwrap.indent(said, " " * (width + 4)))

    @staticmethod
    def _has(trait: Trait, word: str) -> bool:
        said = (trait.key, trait.label, trait.meaning, *trait.synonyms, *(words for words, _ in trait.sayings))
        return any(word.casefold() in text.casefold() for text in said)
