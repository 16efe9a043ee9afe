"""Files that a team keeps of a property or of a worksheet: kept, and listed."""

from __future__ import annotations

import hashlib
from pathlib import PurePath

from django.db.models import QuerySet

from jaded_ledger.accounts.roles import require
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.records.clock import now
from jaded_ledger.records.models import Parcel
from jaded_ledger.worksheets.acts import FILES
from jaded_ledger.worksheets.file_reading import FileError, read_file
from jaded_ledger.worksheets.models import DealFile, Worksheet
from jaded_ledger.worksheets.models.files import FileKind

MOST_OF_PARCEL = 200
_LONGEST_NAME = 120


def files_of(scope: Scope) -> QuerySet[DealFile]:
    """Return a team's files without their bytes, the latest first."""
    return DealFile.objects.filter(team=scope.team, deleted_at=None).defer("content", "preview").select_related("kept_by")


def keep_file(scope: Scope, parcel: Parcel, name: str, content: bytes, kind: str, worksheet: Worksheet | None = None) -> DealFile:
    """Keep a file of a property; the same bytes are kept once. Raises FileError and PermissionDenied."""
    require(scope, FILES)
    if kind not in FileKind.values:
        raise FileError(f"say what it is: {', '.join(str(label) for label in FileKind.labels)}")
    found = read_file(content)
    sha256 = hashlib.sha256(content).hexdigest()
    mine = files_of(scope).filter(parcel=parcel)
    if same := mine.filter(sha256=sha256).first():
        raise FileError(f"that file is kept already, as “{same.name}”")
    if mine.count() >= MOST_OF_PARCEL:
        raise FileError(f"a property has room for {MOST_OF_PARCEL} files; put some away")
    return DealFile.objects.create(
        team=scope.team, parcel=parcel, worksheet=worksheet, kind=kind, name=_name(name), content_type=found.content_type,
        size=len(content), pages=found.pages, sha256=sha256, content=content, preview=found.preview, kept_by=scope.user, kept_at=now(),
    )  # fmt: skip


def _name(typed: str) -> str:
    """Return a file's name without a folder, and without what no name should hold."""
    plain = "".join(letter for letter in PurePath(typed.replace("\\", "/")).name if letter.isprintable())
    return " ".join(plain.split())[-_LONGEST_NAME:] or "file"
