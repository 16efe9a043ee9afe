"""Other processes that do part of a long work: fresh ones, for a forked one would share this one's connection."""

from __future__ import annotations

import multiprocessing
import os
from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import Future, ProcessPoolExecutor
from itertools import islice
from multiprocessing.connection import wait
from threading import Thread
from typing import Any, TypeVar

import django
from django.db import connection

Made = TypeVar("Made")


def _begin() -> None:
    parent = multiprocessing.parent_process()
    assert parent is not None  # this is run in a process that another one began
    Thread(target=_end_with, args=(parent.sentinel,), daemon=True).start()
    django.setup()


def _end_with(parent: int) -> None:
    """End this process when the one that began it is gone, however that came about."""
    wait([parent])
    os._exit(1)


def other_processes(count: int) -> ProcessPoolExecutor:
    """Return so many other processes, with Django set up in each."""
    return ProcessPoolExecutor(count, multiprocessing.get_context("spawn"), _begin)


def in_database(name: str, work: Callable[..., Made], *arguments: Any) -> Made:
    """Do a work, in another process, in the database that this one has open: tests have one of their own."""
    connection.settings_dict["NAME"] = name
    return work(*arguments)


def made_in(processes: ProcessPoolExecutor, work: Iterable[Callable[[], Made]], ahead: int) -> Iterator[Made]:
    """Yield what other processes make, in order; no more than so many pieces are given out ahead, so that memory stays flat."""
    pieces = iter(work)
    waiting: list[Future[Made]] = [processes.submit(piece) for piece in islice(pieces, ahead)]
    while waiting:
        made = waiting.pop(0).result()
        waiting += [processes.submit(piece) for piece in islice(pieces, 1)]
        yield made
