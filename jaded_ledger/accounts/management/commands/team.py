"""Make a team and put people in it."""

from __future__ import annotations

from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from jaded_ledger.accounts.models import Team, User


class Command(BaseCommand):
    help = "Make a team, or put users in it: bin/manage team NAME [--add USERNAME …] [--role owner|agent|reader]"

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("name")
        parser.add_argument("--add", nargs="+", default=[], metavar="USERNAME")
        parser.add_argument("--role", choices=User.Role.values, default=User.Role.OWNER)

    def handle(self, *args: Any, name: str, add: list[str], role: str, **options: Any) -> None:
        users = User.objects.filter(username__in=add)
        if missing := set(add) - {user.username for user in users}:
            raise CommandError(f"there is no user {', '.join(sorted(missing))}; make one with bin/manage createsuperuser")
        team, _ = Team.objects.get_or_create(name=name)
        users.update(team=team, role=role)
        self.stdout.write(f"{team}: {', '.join(team.users.values_list('username', flat=True)) or 'nobody yet'}")
