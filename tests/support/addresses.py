"""Every address of the application."""

from __future__ import annotations

import re

from django.urls import URLPattern, URLResolver, get_resolver


def patterns(within=None, prefix: str = "/") -> list[str]:
    """Return the pattern of every address of the application."""
    found = []
    for pattern in within if within is not None else get_resolver().url_patterns:
        path = f"{prefix}{pattern.pattern}"
        if isinstance(pattern, URLResolver):
            found += patterns(pattern.url_patterns, path)
        elif isinstance(pattern, URLPattern):
            found.append(path)
    return found


def addresses() -> list[str]:
    """Return every address of the application, with something in place of each parameter."""
    return [re.sub(r"<[^>]+>", "x", re.sub(r"<int:[^>]+>", "1", pattern)) for pattern in patterns()]
