"""Test cases that have the demo's reading copies: written once for a class, to a folder of its own."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from unittest import mock

from django.core.cache import caches
from django.test import override_settings

from jaded_ledger.records.models import County
from jaded_ledger.records.reading_copy.opened import OPENED, NoCopyError
from jaded_ledger.records.reading_copy.writing import write_copy
from tests.support.demo import DemoTestCase


class CopiesTestCase(DemoTestCase):
    """Tests on the demo and its reading copies."""

    databases = {"default", "reading_copy"}

    @classmethod
    def setUpClass(cls) -> None:
        held = tempfile.TemporaryDirectory()
        cls.addClassCleanup(held.cleanup)
        cls.addClassCleanup(OPENED.close)
        elsewhere = override_settings(READING_COPIES=held.name)
        elsewhere.enable()
        cls.addClassCleanup(elsewhere.disable)
        super().setUpClass()

    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        for county in County.objects.all():
            write_copy(county)

    @contextmanager
    def without_copies(self) -> Iterator[None]:
        """Have PostgreSQL answer within the block."""
        caches["tallies"].clear()
        with mock.patch("jaded_ledger.find.reading_copy.in_copy", side_effect=NoCopyError):
            yield
        caches["tallies"].clear()
