"""Test cases that stand on the demo. It is loaded once into a template database; who writes gets a copy of it."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

from django.contrib.staticfiles.testing import StaticLiveServerTestCase
from django.core.management import call_command
from django.db import connection
from django.test import TestCase

from jaded_ledger.accounts.models import Team, User
from jaded_ledger.accounts.scope import Scope, scope_of_command
from jaded_ledger.comps.settings_by_hand import forget_measured
from jaded_ledger.records.own_columns import read_anew

_template = ""


def _quoted(name: str) -> str:
    return connection.ops.quote_name(name)


def _switch_to(name: str) -> str:
    """Point the connection, and those that server threads will open, at another database; return the one before."""
    before = connection.settings_dict["NAME"]
    connection.close()
    connection.settings_dict["NAME"] = name
    return before


def _copy(source: str, target: str) -> None:
    connection.close()
    with connection._nodb_cursor() as cursor:
        cursor.execute(f"CREATE DATABASE {_quoted(target)} TEMPLATE {_quoted(source)} STRATEGY FILE_COPY")


def _drop(name: str) -> None:
    with connection._nodb_cursor() as cursor:
        cursor.execute(f"DROP DATABASE IF EXISTS {_quoted(name)} WITH (FORCE)")


def _is_there(name: str) -> bool:
    with connection._nodb_cursor() as cursor:
        cursor.execute("SELECT 1 FROM pg_database WHERE datname = %s", [name])
        return cursor.fetchone() is not None


def template() -> str:
    """Return the database that holds the demo, loading it at the first call."""
    global _template
    if not _template:
        empty = connection.settings_dict["NAME"]
        name = f"{empty}_demo"
        if not _is_there(name):
            _copy(empty, name)
            _switch_to(name)
            try:
                call_command("demo", verbosity=0, stdout=open("/dev/null", "w"))  # noqa: SIM115
            finally:
                _switch_to(empty)
        _template = name
    return _template


def give_template_to(processes: int) -> None:
    """Load the demo once, and give each of some processes a copy of its own."""
    global _template
    empty = connection.settings_dict["NAME"]
    for number in range(1, processes + 1):
        _copy(template(), f"{empty}_{number}_demo")
    # The processes begin as this one is, and each is to find its own.
    _template = ""


def drop_templates(processes: int) -> None:
    """Remove the databases that hold the demo: this process's, and those of the processes that ran tests beside it."""
    empty = connection.settings_dict["NAME"]
    connection.close()
    for name in (empty, *(f"{empty}_{number}" for number in range(1, processes + 1) if processes > 1)):
        _drop(f"{name}_demo")


class DemoTestCase(TestCase):
    """Tests on the demo; what a test writes is rolled back."""

    scope: Scope
    user: User

    @classmethod
    def setUpClass(cls) -> None:
        cls._before = _switch_to(template())
        try:
            super().setUpClass()
        except BaseException:
            _switch_to(cls._before)
            raise

    @classmethod
    def setUpTestData(cls) -> None:
        cls.scope = scope_of_command()
        cls.user = User.objects.get(username="nora")

    def tearDown(self) -> None:
        # What a test declared is rolled back with it, and so is what follows from what it wrote.
        read_anew()
        forget_measured()
        super().tearDown()

    @classmethod
    def tearDownClass(cls) -> None:
        super().tearDownClass()
        _switch_to(cls._before)

    def other_team(self) -> User:
        """Return a user of another team."""
        return User.objects.create_user("oskar", password="x", team=Team.objects.create(name="Other Side Realty"))


class DemoServerCase(StaticLiveServerTestCase):
    """The live server of this process on a copy of the demo, which the tests of the class may change."""

    databases = {"default", "reading_copy"}
    _running: Any = None

    @classmethod
    def _start_server_thread(cls) -> None:
        """Start the server at the first class only: each request connects anew, to the database of the class that runs."""
        if DemoServerCase._running is None:
            super()._start_server_thread()
            DemoServerCase._running = cls.server_thread
        cls.server_thread = DemoServerCase._running

    @classmethod
    def _terminate_thread(cls) -> None:
        """Leave the server to the next class: it ends with the process."""

    @classmethod
    def setUpClass(cls) -> None:
        cls._copy = f"{template()}_{cls.__name__.lower()}"
        _drop(cls._copy)
        _copy(template(), cls._copy)
        cls._before = _switch_to(cls._copy)
        super().setUpClass()

    @classmethod
    def tearDownClass(cls) -> None:
        super().tearDownClass()
        _switch_to(cls._before)
        _drop(cls._copy)

    def _switch_to_a_fresh_copy(self) -> None:
        """Stand on the demo as it was before the tests of the class."""
        connection.close()
        _drop(self._copy)
        _copy(template(), self._copy)

    @classmethod
    def _fixture_setup(cls) -> None:
        """Leave the copy as it is."""

    def _fixture_teardown(self) -> None:
        """Leave the copy to the next test of the class."""


@contextmanager
def empty_database() -> Iterator[str]:
    """Give the name of a database with nothing in it, for the length of the block."""
    name = f"{connection.settings_dict['NAME']}_empty"
    _drop(name)
    with connection._nodb_cursor() as cursor:
        cursor.execute(f"CREATE DATABASE {_quoted(name)} TEMPLATE template0")
    try:
        yield name
    finally:
        _drop(name)


@contextmanager
def switched_to(name: str) -> Iterator[None]:
    """Stand on another database for the length of the block."""
    before = _switch_to(name)
    try:
        yield
    finally:
        _switch_to(before)
