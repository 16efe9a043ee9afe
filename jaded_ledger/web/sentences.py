"""Texts shown as sentences of their own."""

from __future__ import annotations


def ended(text: object) -> str:
    """End a text as a sentence, unless it ends as one."""
    shown = str(text)
    return shown if shown.endswith((".", "?", "!")) else f"{shown}."


def sentence_of(text: object) -> str:
    """Return a text, or what an error says, as a sentence: with a capital and a full stop."""
    shown = str(text)
    return ended(f"{shown[:1].upper()}{shown[1:]}")
