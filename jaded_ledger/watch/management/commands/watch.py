"""Run watched searches, or report what is new in them."""

from __future__ import annotations

import json
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from jaded_ledger.accounts.models import User
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.records.clock import today
from jaded_ledger.records.models import Parcel
from jaded_ledger.watch.models import Watch
from jaded_ledger.watch.morning import TODAY, WEEK, YESTERDAY, morning_of
from jaded_ledger.watch.news import Item
from jaded_ledger.watch.reasons import Reason, reason_of
from jaded_ledger.watch.telling import run_due


class Command(BaseCommand):
    help = "Run the watched searches that are due and mail what is new; or report what is new in somebody's watched searches, and why."

    def add_arguments(self, parser: CommandParser) -> None:
        what = parser.add_subparsers(dest="what", required=True)
        run = what.add_parser("run", help="run those that are due")
        run.add_argument("--all", action="store_true", help="run every watched search that is not paused, due or not")
        report = what.add_parser("report", help="say what waits for somebody, and why")
        report.add_argument("--user", required=True, help="whose watched searches")
        report.add_argument("--when", choices=(YESTERDAY, WEEK), default=TODAY, help="what was new then, read or not")
        for one in (run, report):
            one.add_argument("--search", default="", metavar="NAME", help="of one search")
            one.add_argument("--format", choices=("text", "json"), default="text")

    def handle(self, *args: Any, **options: Any) -> None:
        if options["search"] and not Watch.objects.filter(search__name__iexact=options["search"], search__deleted_at=None).exists():
            raise CommandError(f"nobody watches a search called “{options['search']}”; bin/manage searches lists those that are saved")
        if options["what"] == "run":
            self._run(options)
        else:
            self._report(options)

    def _run(self, options: dict[str, Any]) -> None:
        done = run_due(search=options["search"], every=options["all"])
        if options["format"] == "json":
            found = {"searches": done.asked, "watches": done.watches, "not_told": list(done.failed), "mails": done.mails}
            self.stdout.write(json.dumps(found, ensure_ascii=False))
            return
        self.stdout.write(f"{done.asked} searches run, {done.watches} watches told, {done.mails} mails sent")
        for name in done.failed:
            self.stderr.write(f"“{name}” could not be asked, or another round was at it")

    def _report(self, options: dict[str, Any]) -> None:
        user = User.objects.filter(username=options["user"], team__isnull=False).select_related("team").first()
        if user is None or user.team is None:
            raise CommandError(f"there is no user “{options['user']}” in a team")
        scope = Scope(user.team, user, today(user.team.time_zone))
        wanted = options["search"].casefold()
        items = [one for one in morning_of(scope, options["when"]).items if not wanted or one.watch.search.name.casefold() == wanted]
        parcels = Parcel.objects.select_related("county").in_bulk({one.parcel_id for one in items})
        rows = [(one, parcels[one.parcel_id], reason_of(one, scope)) for one in items]
        if options["format"] == "json":
            self.stdout.write(json.dumps([_plain(*one) for one in rows], ensure_ascii=False, indent=1))
            return
        for item, parcel, reason in rows:
            self.stdout.write(f"{item.watch.search.name}: {item.news.kind}, {parcel.county.name} {parcel.number}")
            for line in _words(reason):
                self.stdout.write(f"    {line}")
        if not rows:
            self.stdout.write("nothing waits")


def _words(reason: Reason) -> list[str]:
    found = [f"{one.label}: {one.before} → {one.now}" for one in reason.traits]
    for line in reason.lines:
        if line.is_other:
            because = "; ".join([row.text for row in line.rows] + ([line.because] if line.because else []))
            found.append(f"{line.label} {line.phrase}: {line.before}, now {line.now}{f' ({because})' if because else ''}")
    return found + ([reason.unknown] if reason.unknown else [])


def _plain(item: Item, parcel: Parcel, reason: Reason) -> dict[str, Any]:
    return {
        "search": item.watch.search.name,
        "kind": item.news.kind,
        "at": item.news.at.isoformat(),
        "county": parcel.county.name,
        "parcel": parcel.number,
        "also": list(item.also),
        "changed": [{"trait": one.label, "before": one.before, "now": one.now} for one in reason.traits],
        "lines": [
            {
                "line": f"{one.label} {one.phrase}",
                "before": one.before,
                "now": one.now,
                "rows": [row.text for row in one.rows],
                "because": one.because,
            }
            for one in reason.lines
        ],
        "unknown": reason.unknown,
    }
