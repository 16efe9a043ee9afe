"""Arithmetic typed into a number field: ``198000-25000``, ``205k*0.9``, ``(815+40)*12``."""

from __future__ import annotations

import re
from collections.abc import Iterator

LONGEST = 60
_NUMBER = r"(?:[0-9]+(?:\.[0-9]*)?|\.[0-9]+)[km]?"
_TOKEN = re.compile(rf"{_NUMBER}|[-+*/()]")
_SUM = re.compile(rf"(?:{_NUMBER}|[-+*/()])+")
_DAY = re.compile(r"[0-9]{4}-[0-9]{1,2}-[0-9]{1,2}|[0-9]{1,2}/[0-9]{1,2}/[0-9]{2,4}")
_SCALE = {"k": 1_000.0, "m": 1_000_000.0}


def result_of(text: str) -> float:
    """Return the value of a number or an expression; ``*`` and ``/`` bind before ``+`` and ``-``.

    Raises ValueError for anything else, a date included, and ZeroDivisionError.

    >>> result_of("198000-25000"), result_of("2+3*4"), result_of("-(1.5k)/3"), result_of("184.5k")
    (173000.0, 14.0, -500.0, 184500.0)
    """
    if len(text) > LONGEST or not _SUM.fullmatch(text) or _DAY.fullmatch(text):
        raise ValueError(text)
    tokens = _Tokens(_TOKEN.findall(text))
    found = _sum(tokens)
    if tokens.next:
        raise ValueError(text)
    return found


class _Tokens:
    """The unread tokens of an expression."""

    def __init__(self, tokens: list[str]) -> None:
        self._left: Iterator[str] = iter(tokens)
        self.next = next(self._left, "")

    def take(self) -> str:
        taken, self.next = self.next, next(self._left, "")
        return taken


def _sum(tokens: _Tokens) -> float:
    found = _product(tokens)
    while tokens.next in ("+", "-"):
        found = found + _product(tokens) if tokens.take() == "+" else found - _product(tokens)
    return found


def _product(tokens: _Tokens) -> float:
    found = _signed(tokens)
    while tokens.next in ("*", "/"):
        found = found * _factor(tokens) if tokens.take() == "*" else found / _factor(tokens)
    return found


def _signed(tokens: _Tokens) -> float:
    if tokens.next == "-":
        tokens.take()
        return -_factor(tokens)
    return _factor(tokens)


def _factor(tokens: _Tokens) -> float:
    part = tokens.take()
    if part == "(":
        found = _sum(tokens)
        if tokens.take() != ")":
            raise ValueError("unclosed bracket")
        return found
    if part in ("", *"+-*/)"):
        raise ValueError("missing number")
    scale = _SCALE.get(part[-1])
    return float(part[:-1]) * scale if scale else float(part)
