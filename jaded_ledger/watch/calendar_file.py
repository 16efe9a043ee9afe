"""What is due as an iCalendar file (RFC 5545): an event of a whole day each, which a calendar program takes for the same one next time."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from datetime import datetime, timedelta

from django.utils.crypto import salted_hmac
from icalendar import Calendar, Event

from jaded_ledger.plugins.entries import Due

REFRESH = timedelta(hours=4)


def _uid(due: Due, host: str) -> str:
    """Return what tells an event from all others (RFC 5545, 3.8.4.7). It is keyed, so that nobody can test a guess against it."""
    text = f"{due.on.isoformat()} {due.parcel_id} {due.kind} {due.what}"
    return f"{salted_hmac('jaded_ledger.watch.calendar_file', text, algorithm='sha256').hexdigest()[:32]}@{host}"


def calendar_file(entries: Iterable[Due], name: str, at: datetime, host: str, address_of: Callable[[int], str]) -> bytes:
    """Return the file; ``at`` is when it was made, ``address_of`` the address of a parcel's page."""
    calendar = Calendar()
    calendar.add("PRODID", "-//Jaded Ledger//Days ahead//EN")
    calendar.add("VERSION", "2.0")
    calendar.add("METHOD", "PUBLISH")
    # The name and how often to read it again: RFC 7986, 5.1 and 5.7.
    calendar.add("NAME", name)
    calendar.add("REFRESH-INTERVAL", REFRESH, {"VALUE": "DURATION"})
    for due in entries:
        event = Event()
        event.add("UID", _uid(due, host))
        event.add("DTSTAMP", at)
        event.add("DTSTART", due.on)
        event.add("DTEND", due.on + timedelta(days=1))
        event.add("SUMMARY", " ".join(due.what.split()))
        event.add("TRANSP", "TRANSPARENT")
        if due.parcel_id is not None:
            event.add("URL", address_of(due.parcel_id))
        calendar.add_component(event)
    return bytes(calendar.to_ical())
