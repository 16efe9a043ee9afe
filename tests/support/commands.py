"""Commands, run for what they write."""

from __future__ import annotations

import io

from django.core.management import call_command


def run(*words: str, **options) -> str:
    out = io.StringIO()
    call_command(*words, stdout=out, **options)
    return out.getvalue()
