"""The files that labels and exports are: made at once where they are small, by the worker where they are not."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import replace
from typing import Any

from jaded_ledger.accounts.roles import require
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.text import CriteriaError
from jaded_ledger.core.mail.label_pdf import write_labels
from jaded_ledger.core.mail.pieces import Addressing
from jaded_ledger.core.mail.sheets import SHEETS
from jaded_ledger.find.models import Selection
from jaded_ledger.find.named_things import search_from
from jaded_ledger.find.selections import parcels_of
from jaded_ledger.lists.staleness import stale_on
from jaded_ledger.made_files.kinds import FileKind, Making, MakingError, Report
from jaded_ledger.outreach.acts import CONTACTS
from jaded_ledger.outreach.contact_file import FileLayout, contact_file
from jaded_ledger.outreach.labels import LabelRun, log_labels, plan

LABELS, CONTACT_FILE = "labels", "contact-file"


def planned(selection: Selection, chosen: Mapping[str, Any], scope: Scope, report: Report = lambda read: None) -> LabelRun:
    """Return the run of labels that the answers of its form ask for. Raises CriteriaError where the search no longer can be asked."""
    stale = {} if chosen["stale"] else stale_on(search_from(selection.search, scope.team), scope)
    return plan(parcels_of(selection, scope), Addressing(chosen["to"]), SHEETS[chosen["sheet"]], chosen["start"], stale, report)


def _selection(arguments: Mapping[str, Any], scope: Scope) -> Selection:
    found = Selection.objects.filter(key=arguments["selection"], team=scope.team).first()
    if found is None:
        raise MakingError("What was chosen is not kept any more. Choose again.")
    return found


def _labels(scope: Scope, arguments: Mapping[str, Any], report: Report) -> Making:
    require(scope, CONTACTS)
    selection = _selection(arguments, scope)
    try:
        run = planned(selection, arguments["chosen"], scope, report)
    except CriteriaError as error:
        raise MakingError(str(error)) from error
    if not run.labels:
        raise MakingError("Nothing was printed: every parcel was left out.")
    pdf = write_labels(run.labels, run.sheet, run.start)
    return Making(iter([pdf]), lambda: log_labels(run, scope, selection.search))


def _contacts(scope: Scope, arguments: Mapping[str, Any], report: Report) -> Making:
    selection = _selection(arguments, scope)
    layout = replace(FileLayout(), **arguments["layout"], columns=tuple(arguments["columns"]))
    try:
        made = contact_file(parcels_of(selection, scope), layout, selection.sort, scope, selection.search)
    except CriteriaError as error:
        raise MakingError(str(error)) from error

    def parts() -> Iterator[bytes]:
        for number, line in enumerate(made.lines):
            report(number)
            yield line.encode()

    return Making(parts(), made.log)


FILE_KINDS = (FileKind(LABELS, _labels, at_once=3_000), FileKind(CONTACT_FILE, _contacts, at_once=5_000))
