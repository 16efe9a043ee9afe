"""The files that mailings and exports are: made at once where they are small, by the worker where they are not."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import replace
from typing import Any

from jaded_ledger.accounts.roles import require
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.text import CriteriaError
from jaded_ledger.find.models import Selection
from jaded_ledger.find.selections import parcels_of
from jaded_ledger.made_files.kinds import FileKind, Making, MakingError, Report
from jaded_ledger.outreach.acts import CONTACTS
from jaded_ledger.outreach.contact_file import FileForm, FileLayout, Per, contact_file
from jaded_ledger.outreach.export_limits import BeyondLimitError
from jaded_ledger.outreach.mail_settings import sender_of
from jaded_ledger.outreach.mailing_files import files_of, is_archive, zipped
from jaded_ledger.outreach.mailing_terms import MailingError
from jaded_ledger.outreach.mailings import mailings_of, make, planned
from jaded_ledger.outreach.workbook import TooManyRowsError

MAILING, CONTACT_FILE = "mailing", "contact-file"


def _mailing(scope: Scope, arguments: Mapping[str, Any], report: Report) -> Making:
    """Make a mailing that was not made before, and return its file."""
    require(scope, CONTACTS)
    mailing = mailings_of(scope).filter(pk=arguments["mailing"]).first()
    if mailing is None:
        raise MakingError("The mailing was thrown away.")
    if mailing.made_at is None:
        try:
            make(mailing, scope, planned(mailing, scope, report))
        except (CriteriaError, MailingError) as error:
            raise MakingError(str(error)) from error
    sender = sender_of(scope)

    def told(files: Iterator[tuple[str, bytes]]) -> Iterator[tuple[str, bytes]]:
        for place, file in enumerate(files, start=1):
            report(min(mailing.pieces_made, place * (mailing.batch or mailing.pieces_made)))
            yield file

    files = told(files_of(mailing, sender))
    return Making(zipped(files) if is_archive(mailing) else (content for _, content in files))


def _contacts(scope: Scope, arguments: Mapping[str, Any], report: Report) -> Making:
    selection = Selection.objects.filter(key=arguments["selection"], team=scope.team).first()
    if selection is None:
        raise MakingError("What was chosen is not kept any more. Choose again.")
    layout = replace(FileLayout(), **arguments["layout"] | {"per": Per(arguments["layout"]["per"])}, columns=tuple(arguments["columns"]))
    form = FileForm(arguments["form"])
    try:
        made = contact_file(parcels_of(selection, scope), layout, selection.sort, scope, selection.search, form)
    except (BeyondLimitError, CriteriaError) as error:
        raise MakingError(str(error)) from error

    def parts() -> Iterator[bytes]:
        try:
            for number, part in enumerate(made.parts):
                report(number)
                yield part
        except TooManyRowsError as error:
            raise MakingError(str(error)) from error

    return Making(parts(), made.log)


FILE_KINDS = (FileKind(MAILING, _mailing, at_once=3_000), FileKind(CONTACT_FILE, _contacts, at_once=5_000))
