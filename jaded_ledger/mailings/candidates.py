"""Parcels as a mailing asks them: read in one statement, with what the team knows of each."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from datetime import timedelta
from types import MappingProxyType
from typing import Any

from django.db.models import Max, QuerySet

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.contacts.do_not_contact import refused_by
from jaded_ledger.core.mail.addresses import Address, AddressKind
from jaded_ledger.core.mail.letters import Recipient
from jaded_ledger.core.mail.pieces import Addressing, Candidate, Terms
from jaded_ledger.core.ownership.kinds import PEOPLE, OwnerKind
from jaded_ledger.mailings.letter_fields import CODE_OF, LetterContext, LetterField
from jaded_ledger.mailings.models import MailPiece
from jaded_ledger.records.models import ParcelFacts

_PUBLIC = {CODE_OF[OwnerKind.GOVERNMENT], CODE_OF[OwnerKind.LENDER]}
_RECIPIENTS = {
    **{CODE_OF[kind]: Recipient.PERSON for kind in PEOPLE},
    CODE_OF[OwnerKind.COMPANY]: Recipient.COMPANY,
    CODE_OF[OwnerKind.TRUST]: Recipient.TRUST,
    CODE_OF[OwnerKind.ESTATE]: Recipient.ESTATE,
}
_OWN = (
    "parcel_id", "parcel__number", "owner_id", "owner_name__mailing_name", "owner_name__handler", "owner_kind", "improvement_value",
    "do_not_contact", "owned_since",
)  # fmt: skip
_OF_ADDRESS = ("kind", "street", "unit", "city", "state", "zip5", "zip4", "attention")
_AT_ONCE = 5_000
_KINDS = {kind.value: kind for kind in AddressKind}


def _lately_mailed(terms: Terms, scope: Scope) -> tuple[dict[int | None, Any], dict[str, Any]]:
    """Return when each owner, and each household, was last mailed to, of those that were lately."""
    after = terms.today - timedelta(terms.mailed_within)
    sent = MailPiece.objects.filter(mailing__team=scope.team, mailing__made_on__gt=after, mailing__deleted_at=None).order_by()
    found = sent.values_list("owner", "place").annotate(on=Max("mailing__made_on"))
    owners: dict[int | None, Any] = {}
    places: dict[str, Any] = {}
    for owner, place, on in found.iterator():
        places[place] = max(on, places.get(place, on))
        if owner is not None:
            owners[owner] = max(on, owners.get(owner, on))
    return owners, places


def candidates(
    parcels: QuerySet[ParcelFacts],
    terms: Terms,
    scope: Scope,
    stale: Mapping[int, str] = MappingProxyType({}),
    report: Callable[[int], None] = lambda read: None,
    letter_fields: Sequence[LetterField] = (),
    context: LetterContext | None = None,
    stopped: Mapping[int, str] = MappingProxyType({}),
) -> Iterator[Candidate]:
    """Yield parcels with what decides about a piece.

    ``stale`` are those that went stale, with the list; ``report`` is told how many are read. ``letter_fields`` are those that the
    mailing's letters have, ``context`` what they say besides. ``stopped`` tells by parcel why it gets no more of the series.
    """
    which = "mailing_address" if terms.to is Addressing.OWNER_MAILING else "address"
    refused, (owners, places) = refused_by(scope), _lately_mailed(terms, scope)
    fields = [*_OWN, f"{which}_id", *(f"{which}__{part}" for part in _OF_ADDRESS)]
    further = [name for name in dict.fromkeys(name for field in letter_fields for name in field.columns) if name not in fields]
    read = len(fields)
    known: dict[int, Address] = {}
    keys: dict[int, str] = {}
    for number, row in enumerate(parcels.values_list(*fields, *further).iterator(chunk_size=_AT_ONCE)):
        if number % _AT_ONCE == 0:
            report(number)
        parcel, printed, owner, name, handler, kind, improvement, asked, since, address_id, *parts = row[:read]
        address, key = known.get(address_id), keys.get(address_id, "")
        if address is None and address_id is not None:
            address = known[address_id] = Address(_KINDS[parts[0]], *parts[1:])
            key = keys[address_id] = address.household_key
        situs, mailing = (None, address) if terms.to is Addressing.OWNER_MAILING else (address, None)
        values: dict[str, str | None] = {}
        if context:
            known_of = dict(zip((*fields, *further), row, strict=True))
            values = {field.key: field.words(known_of, context) for field in letter_fields}
        yield Candidate(
            parcel, printed, owner, name or "", handler or "", situs, mailing, improvement,
            bool(asked) or owner in refused.owners or key in refused.places, _RECIPIENTS.get(kind, Recipient.OTHER), kind in _PUBLIC, since,
            _latest(owners.get(owner), places.get(key)), refused.returned.get(key), stale.get(parcel, ""),
            stopped.get(parcel, ""), values,
        )  # fmt: skip


def _latest(one: Any, other: Any) -> Any:
    return max(one, other) if one and other else one or other
