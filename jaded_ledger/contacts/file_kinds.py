"""Contact files: made at once where they are small, by the worker where they are not."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import replace
from typing import Any

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.contacts.contact_file import FileForm, FileLayout, Per, contact_file
from jaded_ledger.contacts.exports import require_rows
from jaded_ledger.contacts.workbook import TooManyRowsError
from jaded_ledger.core.criteria.text import CriteriaError
from jaded_ledger.core.phone_numbers import Dialing
from jaded_ledger.find.models import Selection
from jaded_ledger.find.selections import parcels_of
from jaded_ledger.made_files.kinds import FileKind, Making, MakingError, Report

CONTACT_FILE = "contact-file"


def _contacts(scope: Scope, arguments: Mapping[str, Any], report: Report) -> Making:
    selection = Selection.objects.filter(key=arguments["selection"], team=scope.team).first()
    if selection is None:
        raise MakingError("What was chosen is not kept any more. Choose again.")
    layout = replace(
        FileLayout(),
        **arguments["layout"]
        | {"per": Per(arguments["layout"]["per"]), "dialing": Dialing(arguments["layout"].get("dialing", Dialing.NATIONAL))},
        columns=tuple(arguments["columns"]),
    )
    form = FileForm(arguments["form"])
    try:
        made = contact_file(parcels_of(selection, scope), layout, selection.sort, scope, selection.search, form)
    except CriteriaError as error:
        raise MakingError(str(error)) from error

    def parts() -> Iterator[bytes]:
        try:
            for number, part in enumerate(made.parts):
                report(number)
                yield part
        except TooManyRowsError as error:
            raise MakingError(str(error)) from error

    return Making(parts(), made.export.note)


FILE_KINDS = (FileKind(CONTACT_FILE, _contacts, require_rows, at_once=5_000),)
