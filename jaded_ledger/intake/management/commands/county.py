"""Add a county whose records are to be taken in."""

from __future__ import annotations

from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from jaded_ledger.intake.forms import CountyForm


class Command(BaseCommand):
    # They read every view there is, and look for mistakes of developers: bin/start and bin/test run them.
    requires_system_checks: list[str] = []

    help = "Add a county whose records are to be taken in."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("name")
        parser.add_argument("--state", required=True, help="two letters")
        parser.add_argument("--fips", help="state and county code, five digits, by which files may name it")
        parser.add_argument(
            "--numbers", default="*", metavar="MASK", help="the form of its parcel numbers, such as NN-NNN-NNN[-UUU] (default: *, no form)"
        )
        parser.add_argument("--ratio", default="1", help="assessed over market value (default: 1)")
        parser.add_argument("--relisting-gap", default="30", metavar="DAYS", help="off the market before a new listing (default: 30)")

    def handle(self, *args: Any, **options: Any) -> None:
        form = CountyForm(
            {
                "name": options["name"], "state": options["state"], "fips": options["fips"], "parcel_number_mask": options["numbers"],
                "assessment_ratio": options["ratio"], "relisting_gap_days": options["relisting_gap"],
            }
        )  # fmt: skip
        if not form.is_valid():
            raise CommandError("; ".join(f"{field}: {' '.join(map(str, problems))}" for field, problems in form.errors.items()))
        self.stdout.write(f"{form.save().name} is there. Take in its parcels first, then its roll.")
