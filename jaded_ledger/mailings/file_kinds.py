"""The files that mailings are: made at once where they are small, by the worker where they are not."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Any

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.contacts.exports import require_rows
from jaded_ledger.contacts.models import ContactExport
from jaded_ledger.core.criteria.text import CriteriaError
from jaded_ledger.made_files.kinds import FileKind, Making, MakingError, Report
from jaded_ledger.mailings.mailing_files import documents, files_of, is_archive, merge_data, zipped
from jaded_ledger.mailings.mailing_terms import MailingError
from jaded_ledger.mailings.mailings import export_of, mailings_of, make, planned
from jaded_ledger.mailings.models import Mailing

MAILING, MERGE_DATA, LETTERS = "mailing", "merge-data", "letters"


def _mailing(scope: Scope, arguments: Mapping[str, Any], report: Report) -> Making:
    """Make a mailing that was not made before, and return its file."""
    mailing = _called(scope, arguments)
    if mailing.made_at is None:
        try:
            make(mailing, scope, planned(mailing, scope, report))
        except (CriteriaError, MailingError) as error:
            raise MakingError(str(error)) from error
    export = export_of(mailing, scope)

    def reported(files: Iterator[tuple[str, bytes]]) -> Iterator[tuple[str, bytes]]:
        for place, file in enumerate(files, start=1):
            report(min(mailing.pieces_made, place * (mailing.batch or mailing.pieces_made)))
            yield file

    files = reported(files_of(mailing, export))
    return Making(zipped(files) if is_archive(mailing) else (content for _, content in files), export.note)


def _called(scope: Scope, arguments: Mapping[str, Any]) -> Mailing:
    """Return the mailing that a file is of. Raises MakingError."""
    mailing = mailings_of(scope).filter(pk=arguments["mailing"]).first()
    if mailing is None:
        raise MakingError("The mailing was thrown away.")
    return mailing


def _merge_data(scope: Scope, arguments: Mapping[str, Any], report: Report) -> Making:
    mailing = _called(scope, arguments)
    export = export_of(mailing, scope, ContactExport.Form.MERGE)
    return Making((line.encode() for line in merge_data(mailing, export)), export.note)


def _letters(scope: Scope, arguments: Mapping[str, Any], report: Report) -> Making:
    """Return a mailing's letters as documents with merge fields, and the merge data that fill them."""
    mailing = _called(scope, arguments)
    export = export_of(mailing, scope, ContactExport.Form.MERGE)
    data = "".join(merge_data(mailing, export)).encode()
    return Making(zipped((*documents(mailing), (f"pieces-{mailing.code}.csv", data))), export.note)


FILE_KINDS = (
    FileKind(MAILING, _mailing, require_rows, at_once=3_000),
    FileKind(MERGE_DATA, _merge_data, require_rows, at_once=20_000),
    FileKind(LETTERS, _letters, require_rows, at_once=20_000),
)
