"""What every request goes through before its page: nothing that no page can take, and neither a statement nor a request without an end."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator
from contextlib import suppress
from typing import Any, TypeVar
from urllib.parse import unquote, urlsplit

from django.conf import settings
from django.db import DatabaseError, OperationalError, connection
from django.http import HttpRequest, HttpResponse
from django.http.response import HttpResponseBase
from django.shortcuts import render
from psycopg.errors import QueryCanceled

_Respond = Callable[[HttpRequest], HttpResponseBase]
_View = TypeVar("_View", bound=Callable[..., HttpResponseBase])
_NUL = "\x00"


def only_reads(view: _View) -> _View:
    """Mark a view that changes nothing, though it is posted to: what it is asked may be too long for an address."""
    view.only_reads = True  # type: ignore[attr-defined]
    return view


def _say(request: HttpRequest, status: int, title: str, text: str) -> HttpResponse:
    """Answer with a page, or where a part of one was asked for with the text alone."""
    if request.headers.get("HX-Request"):
        return HttpResponse(text, status=status, content_type="text/plain; charset=utf-8")
    return render(request, "said.html", {"title": title, "text": text}, status=status)


class ForgetUnreadableAddress:
    """Goes on without the address of the page that htmx sends along where no address can be read of it, as of ``http://[``.

    Whoever reads it later, here or in a library, finds either an address or nothing.
    """

    def __init__(self, get_response: _Respond) -> None:
        self._get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponseBase:
        for name in ("HTTP_HX_CURRENT_URL", "HTTP_HX_CURRENT_URL_URI_AUTOENCODED"):
            try:
                urlsplit(unquote(request.META.get(name, ""))).port  # noqa: B018 - a port that is none raises as well
            except ValueError:
                del request.META[name]
        return self._get_response(request)


class RefuseNul:
    """Answer 400 to a request with a NUL character in it: PostgreSQL keeps none in its texts, so no page can take it."""

    def __init__(self, get_response: _Respond) -> None:
        self._get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponseBase:
        return self._get_response(request)

    def process_view(self, request: HttpRequest, view: object, args: object, kwargs: object) -> HttpResponse | None:
        """Look at the address and at everything that was sent, once the body may be read."""
        if not any(_NUL in text for text in self._texts(request)):
            return None
        text = (
            "Something that was sent holds a NUL character, which no text can hold; it often comes with what is copied out of a "
            "damaged file. Take it out and send it again. Nothing was changed."
        )
        return _say(request, 400, "That can’t be read", text)

    def _texts(self, request: HttpRequest) -> Iterator[str]:
        yield request.path
        for sent in (request.GET, request.POST):
            for name, values in sent.lists():
                yield name
                yield from values
        for name, files in request.FILES.lists():
            yield name
            yield from (file.name or "" for file in files)


class RequestTooLongError(OperationalError):
    """A request has had its time, and begins no further statement."""


class LimitTime:
    """End a page's statement that takes too long, and a request whose many statements do, and say what to narrow.

    The worker and commands have no such limits. They hold until the view has answered; a file that is then streamed goes on as long
    as it takes.
    """

    def __init__(self, get_response: _Respond) -> None:
        self._get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponseBase:
        def begin_no_more(execute: Callable[..., Any], sql: Any, *further: Any) -> Any:
            # What was done within a savepoint is still to be undone.
            if time.monotonic() > getattr(request, "ends", float("inf")) and not str(sql).startswith(("ROLLBACK", "RELEASE")):
                raise RequestTooLongError
            return execute(sql, *further)

        try:
            with connection.execute_wrapper(begin_no_more):
                return self._get_response(request)
        finally:
            if hasattr(request, "ends"):
                # A connection that broke has no limit any more.
                with suppress(DatabaseError):
                    self._set(0)

    def process_view(self, request: Any, view: object, args: object, kwargs: object) -> None:
        reads = request.method in ("GET", "HEAD") or getattr(view, "only_reads", False)
        request.time_for = "read" if reads else "act"
        request.ends = time.monotonic() + settings.REQUEST_SECONDS[request.time_for]
        self._set(settings.STATEMENT_SECONDS[request.time_for])

    def process_exception(self, request: Any, exception: Exception) -> HttpResponse | None:
        if isinstance(exception, RequestTooLongError):
            seconds = settings.REQUEST_SECONDS[request.time_for]
        elif isinstance(exception, OperationalError) and isinstance(exception.__cause__, QueryCanceled):
            seconds = settings.STATEMENT_SECONDS[request.time_for]
        else:
            return None
        if request.time_for == "read":
            advice = (
                "Choose fewer counties, turn off lines that look for phrases or parts of names (they take longest), or add a line "
                "that leaves fewer parcels; then try again."
            )
        else:
            advice = "Do it for fewer rows at once; then try again."
        text = f"This took longer than {seconds:g} seconds and was stopped; nothing was changed. {advice}"
        return _say(request, 503, "That takes too long", text)

    def _set(self, seconds: float) -> None:
        with connection.cursor() as cursor:
            cursor.execute("SELECT set_config('statement_timeout', %s, false)", [str(round(seconds * 1000))])
