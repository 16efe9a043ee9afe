"""What a property is worth by its comps, and how far the method missed on a county's past sales."""

from __future__ import annotations

import json
from collections.abc import Mapping
from functools import partial
from typing import Any

import numpy as np
from django.core.management.base import BaseCommand, CommandError, CommandParser

from jaded_ledger.accounts.scope import Scope, ScopeError, scope_of_command
from jaded_ledger.comps.comps_page import shown
from jaded_ledger.comps.sales_on_record import county_sales
from jaded_ledger.comps.settings_by_hand import lines_of, settings_of
from jaded_ledger.comps.trust_here import constants_at, trust_here
from jaded_ledger.comps.trust_panel import panel_of
from jaded_ledger.comps.valuation import SETS, past_sales_after, value
from jaded_ledger.core.comps.lines import PoolError, parse_lines
from jaded_ledger.core.comps.trust import Trust, back_test
from jaded_ledger.find.parcel_lookup import NoSuchParcelError, parcel_named
from jaded_ledger.records.models import County


class Command(BaseCommand):
    # They read every view there is, and look for mistakes of developers: bin/start and bin/test run them.
    requires_system_checks: list[str] = []

    help = (
        "Show what a parcel is worth by its comps: the pool line by line, each comp's adjustments, the range, and how far to trust it. "
        "--backtest COUNTY tells each past sale of the last two years from those before it, and how much that missed."
    )

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("parcel", nargs="?", help="the parcel's number, its county before it where several have it")
        parser.add_argument("--lines", help='the pool\'s lines, as in "within: 0.5 mi; closed: 180 days; area: 20 %%"')
        parser.add_argument("--set", choices=tuple(SETS), default="as-is", dest="of_set", help="which comps the range is of")
        parser.add_argument("--backtest", metavar="COUNTY", help="how far the method missed on this county's past sales")
        parser.add_argument("--team", help="whose settings and decisions (needed only where there are several teams)")
        parser.add_argument("--format", choices=("table", "json"), default="table")

    def handle(self, *args: Any, parcel: str | None, backtest: str | None, team: str | None, **options: Any) -> None:
        try:
            scope = scope_of_command(team)
            lines = None if options["lines"] is None else parse_lines(options["lines"])
            if backtest:
                self._tell_trust(_backtest(backtest, lines, scope), options["format"])
            elif parcel:
                found = value(parcel_named(parcel), scope, lines, options["of_set"])
                about = shown(found) | {"trust": panel_of(trust_here(found.subject, scope, found.asked))}
                self._tell(about, options["format"])
            else:
                raise CommandError("name a parcel, or a county with --backtest", returncode=2)
        except (ScopeError, PoolError, NoSuchParcelError) as error:
            raise CommandError(str(error), returncode=2) from error

    def _tell(self, about: Mapping[str, Any], form: str) -> None:
        if form == "json":
            self.stdout.write(json.dumps({key: about[key] for key in about if key != "strip"}, ensure_ascii=False))
            return
        subject = about["subject"]
        self.stdout.write(f"{subject['address']}, {subject['number']}, as of {about['day']}\n")
        self.stdout.write(f"{'sales in ' + subject['county'] + ', 24 months':<44} {'':>9} {about['start']:>9,}")
        for line in about["lines"]:
            taken = f"− {line['removed']:,}" if line["removed"] else "0"
            self.stdout.write(f"{line['text'] + ', ' + line['reach']:<44.44} {taken:>9} {line['left']:>9,}")
        for step in about["widened"]:
            self.stdout.write(f"widened: {step}")
        self.stdout.write("")
        for comp in about["comps"]:
            counts = f"{comp['share']:.0f} %" if comp["share"] is not None else "out" if not comp["is_in"] else comp["of_set"]
            miles = "·" if comp["miles"] is None else f"{comp['miles']:.2f}"
            self.stdout.write(
                f"{comp['address']:<28.28} {miles:>6} {comp['closed']:>12} {comp['price']:>12} {comp['adjusted']['by']:>10} "
                f"{comp['adjusted']['value']:>12} {counts:>8}  {'; '.join(comp['warnings'])}"
            )
        found = about["range"]
        self.stdout.write("")
        if found:
            self.stdout.write(
                f"{found['value']} {about['sentence']}; {found['low']} – {found['median']} – {found['high']}, {found['per']} a sq ft"
            )
        else:
            self.stdout.write(about["sentence"])
        for doubt in about["doubts"]:
            self.stdout.write(doubt)
        self.stdout.write(about["competition"])
        trust = about["trust"]
        if trust["method"]:
            self.stdout.write(
                f"this method on {trust['method']['count']} past sales {trust['where']}: {trust['method']['median']}, "
                f"{trust['method']['close']} within 10 %"
            )
        else:
            self.stdout.write(f"only {trust['count']} past sales {trust['where']}: nothing is said of trust")

    def _tell_trust(self, trust: Trust, form: str) -> None:
        if form == "json":
            steps = [
                {"way": one.way, "count": one.count, "median": round(one.median, 3), "close": round(one.close, 2)} for one in trust.steps
            ]
            self.stdout.write(json.dumps({"sales": trust.sales, "steps": steps}))
            return
        self.stdout.write(f"{trust.sales:,} past sales, each told from those before it")
        for one in trust.steps:
            self.stdout.write(f"{one.way:<40} {one.count:>7,} told   missed by {one.median:5.2f} %   within 10 %: {one.close:5.1f} %")


def _backtest(county_name: str, lines: Any, scope: Scope) -> Trust:
    county = County.objects.filter(name__iexact=county_name).first()
    if county is None:
        known = ", ".join(County.objects.order_by("name").values_list("name", flat=True))
        raise CommandError(f"there is no county {county_name}; there are {known}", returncode=2)
    settings = settings_of(scope.team, county)
    sales = county_sales(county, scope.today)
    after = past_sales_after(scope.today).toordinal()
    rows = np.flatnonzero((sales.day > after) & ~np.isnan(sales.traits["living_area"]))
    asked = lines if lines is not None else lines_of(settings, is_land=False)
    return back_test(sales, rows, asked, partial(constants_at, county, scope.today, settings, False))
