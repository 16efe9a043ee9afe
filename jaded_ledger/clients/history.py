"""What a client was shown and said of it, property by property."""

from __future__ import annotations

from dataclasses import dataclass

from jaded_ledger.clients.cards import SEEN
from jaded_ledger.clients.models import Client, ClientAnswer, Showing
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.display import shown
from jaded_ledger.records.bulk import among_ids
from jaded_ledger.records.models import ParcelFacts


@dataclass(frozen=True)
class ShownProperty:
    """A property that a client was shown: how it was when it was shown last, how often, and all that was said of it."""

    showing: Showing
    times: int
    address: str
    then: str
    answers: tuple[ClientAnswer, ...]

    @property
    def answer(self) -> ClientAnswer | None:
        """What holds: the latest."""
        return self.answers[0] if self.answers else None


def shown_to(client: Client) -> list[ShownProperty]:
    """Return what a client was shown, what was shown last first."""
    by_parcel: dict[int, list[Showing]] = {}
    for showing in Showing.objects.filter(client=client).select_related("parcel"):
        by_parcel.setdefault(showing.parcel_id, []).append(showing)
    answers: dict[int, list[ClientAnswer]] = {}
    for answer in ClientAnswer.objects.filter(client=client).select_related("user"):
        answers.setdefault(answer.parcel_id, []).append(answer)
    facts = {one.pk: one for one in ParcelFacts.objects.filter(pk__in=among_ids(by_parcel)).select_related("address")}
    found = []
    for parcel, showings in by_parcel.items():
        latest = showings[0]
        address = (facts[parcel].street_line if parcel in facts else "") or latest.parcel.number
        then = ", ".join(shown(CATALOGUE[key], latest.watched[key]) for key in SEEN if key in latest.watched)
        found.append(ShownProperty(latest, len(showings), address, then, tuple(answers.get(parcel, ()))))
    return found


def history_of(client: Client) -> list[ShownProperty]:
    """Return a client's history by the numbers of the properties, the latest number first."""
    return sorted(shown_to(client), key=lambda one: -one.showing.number)
