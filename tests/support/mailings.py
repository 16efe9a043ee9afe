"""Cases for mailings: begun and created from a search."""

from __future__ import annotations

import re
from collections import Counter

from django.urls import reverse

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.text import parse
from jaded_ledger.core.mail.pieces import Reason
from jaded_ledger.find.search_page import SearchPage
from jaded_ledger.find.selections import keep
from jaded_ledger.mailings.mailing_terms import change
from jaded_ledger.mailings.mailings import begin, make, planned
from jaded_ledger.mailings.models import Mailing, MailPiece
from tests.support.demo import DemoTestCase

SEARCH = "class: duplex, triplex"
HOSTILE = ('=cmd|"/C calc"!A0', "O’NEILL “QUOTED” <B>", "A\nB\tC", "٣ שלום", "+1 @SUM(A1)")


class MailCase(DemoTestCase):
    def setUp(self) -> None:
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")
        self.scope = Scope(self.user.team, self.user, self.scope.today)

    def begun(self, search: str = SEARCH, **said: str) -> Mailing:
        mailing = begin(self.scope, keep(self.scope, SearchPage(parse(search)), [], is_all=True))
        change(self.scope, mailing, said, said.pop("relaxed", "").split())
        return mailing

    def made(self, search: str = SEARCH, **said: str) -> Mailing:
        mailing = self.begun(search, **said)
        make(mailing, self.scope, planned(mailing, self.scope))
        return mailing

    def created(self, mailing: Mailing) -> bytes:
        """Press Make on a mailing's page, and return the file that the page then hands over."""
        page = self.client.post(reverse("mailings:make-mailing", args=[mailing.pk]), follow=True)
        self.assertContains(page, f"{MailPiece.objects.filter(mailing=mailing).count():,} {mailing.form} created")
        (address,) = re.findall(r'href="([^"]+)" download data-starts', page.content.decode())
        return self.client.get(address).getvalue()

    def reasons(self, mailing: Mailing) -> Counter[Reason]:
        return planned(mailing, self.scope).made.reasons
