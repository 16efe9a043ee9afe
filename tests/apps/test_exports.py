"""Contact data leaves in one way: every address is asked by every role for files with owners in them."""

from __future__ import annotations

import io
import re
import zipfile
from collections.abc import Iterable

from django.db import transaction
from django.http import HttpResponse
from django.test import Client
from pypdf import PdfReader

from jaded_ledger.accounts.models import User
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.contacts.export_limits import set_limits
from jaded_ledger.contacts.exports import BeyondLimitError
from jaded_ledger.contacts.models import ContactExport
from jaded_ledger.core.criteria.text import parse
from jaded_ledger.find.search_page import SearchPage
from jaded_ledger.find.selections import keep
from jaded_ledger.made_files.models import MadeFile
from jaded_ledger.made_files.services import ask
from jaded_ledger.mailings import letters
from jaded_ledger.mailings.file_kinds import MERGE_DATA
from jaded_ledger.mailings.mail_houses import mail_houses
from jaded_ledger.mailings.mail_orders import give_to
from tests.support.addresses import patterns
from tests.support.mailings import SEARCH, MailCase
from tests.support.tiers import thorough

DOORS = {
    "/outreach/contacts/<str:key>/", "/outreach/mailings/<int:pk>/make", "/outreach/mailings/<int:pk>/pieces.csv",
    "/outreach/mailings/<int:pk>/letters.zip", "/files/<int:pk>/download",
}  # fmt: skip
"""The addresses at which files with many owners are had. A new one has to ask ``exports``, and be named here."""
MOST = 3
PAGES = 20
"""So many pages of a PDF are read: letters to more than ``MOST`` owners show on them."""
SENT = {
    "q": SEARCH, "all": "1", "then": "contacts", "columns": ["envelope-name", "owner-name"], "form": "csv", "per": "parcel",
    "format": "csv", "label": "owner-name", "west": "-90", "south": "40", "east": "-80", "north": "50", "zoom": "14",
}  # fmt: skip


def text_of(response: HttpResponse) -> str:
    """Return what a file says, whatever it is; nothing for a page."""
    content = response.getvalue()
    if response.headers.get("Content-Type", "").startswith("text/html"):
        return ""
    if content.startswith(b"%PDF"):
        return "\n".join(page.extract_text() for page in PdfReader(io.BytesIO(content)).pages[:PAGES])
    if content.startswith(b"PK"):
        with zipfile.ZipFile(io.BytesIO(content)) as archive:
            return "\n".join(archive.read(name).decode(errors="replace") for name in archive.namelist())
    return content.decode(errors="replace")


class EveryDoor(MailCase):
    def setUp(self) -> None:
        super().setUp()
        letter = letters.write(self.scope, "Walk", "letters", "To {owner|x}")
        self.mailing = self.made(form="letters", letter=str(letter.pk))
        self.names = {piece.lines[0] for piece in self.mailing.pieces.all()}
        self.agent = User.objects.create_user("marsh", team=self.scope.team, role=User.Role.AGENT)
        self.theirs = Scope(self.scope.team, self.agent, self.scope.today)
        self.selection = keep(self.scope, SearchPage(parse(SEARCH)), [], is_all=True)

    def file_of(self, scope: Scope) -> MadeFile:
        return ask(scope, MERGE_DATA, {"mailing": self.mailing.pk}, name="x.csv", content_type="text/csv", rows=self.mailing.pieces_made)

    def doors(self, user: User, file: MadeFile, among: Iterable[str]) -> tuple[dict[str, int], list[str]]:
        """Return the addresses at which somebody has more owners at once than ``MOST``, with how many exports were noted.

        Beside them: every address that answers with anything but a page.
        """
        client = Client()
        client.force_login(user, backend="django.contrib.auth.backends.ModelBackend")
        found, files = {}, []
        for pattern in among:
            pk = file.pk if pattern.startswith("/files/") else self.mailing.pk
            path = re.sub(r"<[^>]+>", "1", re.sub(r"<int:pk>", str(pk), pattern).replace("<str:key>", self.selection.key))
            for ask_for in (client.get, client.post):
                with transaction.atomic():
                    before = ContactExport.objects.count()
                    text = text_of(ask_for(path, SENT))
                    if text and pattern not in files:
                        files.append(pattern)
                    if sum(name in text for name in self.names) > MOST:
                        found[pattern] = ContactExport.objects.count() - before
                    transaction.set_rollback(True)
        return found, files

    @thorough
    def test_by_every_role(self) -> None:
        self.assertGreater(len(self.names), 10 * MOST)
        unlimited, files = self.doors(self.user, self.file_of(self.scope), patterns())
        self.assertEqual(set(unlimited), DOORS)
        # Each file is noted as it is made, whoever made one before; one's own that is ready was.
        self.assertEqual({pattern for pattern, noted in unlimited.items() if noted != 1}, {"/files/<int:pk>/download"})
        file = self.file_of(self.theirs)
        set_limits(self.scope, {"agent": str(MOST)})
        # What is a page to somebody without limits is no file to somebody with them.
        self.assertEqual(self.doors(self.agent, file, files)[0], {})
        set_limits(self.scope, {})
        User.objects.filter(pk=self.agent.pk).update(role=User.Role.READER)
        self.assertEqual(self.doors(self.agent, file, files)[0], {})

    def test_the_limit_itself_and_one_beyond(self) -> None:
        pieces = self.mailing.pieces_made
        set_limits(self.scope, {"agent": str(pieces)})
        self.file_of(self.theirs)
        noted = ContactExport.objects.get(user=self.agent)
        self.assertEqual((noted.form, noted.count, len(noted.parcel_ids)), ("merge", pieces, pieces))
        set_limits(self.scope, {"agent": str(pieces - 1)})
        with self.assertRaises(BeyondLimitError):
            self.file_of(self.theirs)
        house = next(one for one in mail_houses().values() if one.price("letters") is not None)
        with self.assertRaises(BeyondLimitError):
            give_to(self.theirs, self.mailing, house.key)
        give_to(self.scope, self.mailing, house.key)
        self.assertEqual(ContactExport.objects.get(form="house").count, pieces)
