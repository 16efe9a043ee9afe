"""Error pages: 503 while the database is unavailable, 500 for a fault of our own."""

from __future__ import annotations

import sys

import psycopg
from django.db import InterfaceError, OperationalError
from django.http import HttpRequest, HttpResponse
from django.template.loader import render_to_string
from django.views.defaults import server_error
from psycopg.errors import AdminShutdown, CannotConnectNow, CrashShutdown, TooManyConnections

RETRY_AFTER = "3"
"""Seconds. PostgreSQL restarts within a few after a crash."""
_GONE = (AdminShutdown, CrashShutdown, CannotConnectNow, TooManyConnections)


def is_database_gone(error: BaseException | None) -> bool:
    """Return whether an error means that the database could not be reached, or the connection was lost during a statement."""
    if isinstance(error, InterfaceError):
        return True
    if not isinstance(error, OperationalError):
        return False
    # An error that PostgreSQL reports has a code. Without one the connection itself failed.
    cause = error.__cause__
    return isinstance(cause, _GONE) or (isinstance(cause, psycopg.Error) and cause.sqlstate is None)


def internal_error(request: HttpRequest) -> HttpResponse:
    """Return the page for an unhandled error. Django calls this while the exception is still being handled."""
    if not is_database_gone(sys.exc_info()[1]):
        return server_error(request)
    if request.headers.get("HX-Request"):
        text = "The database can’t be reached just now. Nothing was changed; try again in a moment."
        answer = HttpResponse(text, content_type="text/plain; charset=utf-8", status=503)
    else:
        # Without the request: the session that says who is signed in is in the database.
        answer = HttpResponse(render_to_string("503.html"), status=503)
    answer["Retry-After"] = RETRY_AFTER
    return answer
