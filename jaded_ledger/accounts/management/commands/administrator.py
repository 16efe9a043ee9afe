"""Make the first administrator, or let one back in."""

from __future__ import annotations

from typing import Any

from django.core.exceptions import ValidationError
from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db import transaction

from jaded_ledger.accounts.invitations import invitation
from jaded_ledger.accounts.models import Team, User
from jaded_ledger.accounts.two_factor import take_away


class Command(BaseCommand):
    help = "Make somebody staff, with a link by which they choose a password: bin/manage administrator NAME --team TEAM"

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("username", metavar="NAME")
        parser.add_argument("--team", help="the team they work in; it is made if there is none of that name")
        parser.add_argument("--without-second-factor", action="store_true", help="take away the second factor, which they have lost")
        parser.add_argument("--address", default="http://127.0.0.1:8000", help="where Jaded Ledger is reached")

    @transaction.atomic
    def handle(self, *args: Any, username: str, team: str | None, address: str, without_second_factor: bool, **options: Any) -> None:
        user = User.objects.filter(username=username).first() or User(username=username, role=User.Role.OWNER)
        if team:
            user.team = Team.objects.get_or_create(name=team)[0]
        if user.team is None:
            names = ", ".join(Team.objects.values_list("name", flat=True))
            raise CommandError("say which team they work in, with --team TEAM" + (f" (there is {names})" if names else ""))
        user.is_staff = user.is_active = True
        if not user.pk:
            user.set_unusable_password()
        try:
            user.full_clean()
        except ValidationError as error:
            raise CommandError("; ".join(error.messages)) from error
        user.save()
        if without_second_factor:
            take_away(user)
        self.stdout.write(f"{username} of {user.team} is staff. This link, good once and for three days, lets them choose a password:")
        self.stdout.write(f"{address.rstrip('/')}{invitation(user)}")
