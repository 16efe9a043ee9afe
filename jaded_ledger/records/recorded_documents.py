"""Recorded documents about parcels as the core takes them: deeds, loans and what was recorded on them later, liens."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Sequence
from decimal import Decimal
from typing import Any

from django.db.models import Count, F, OuterRef, QuerySet, Subquery

from jaded_ledger.core.distress.signals import Lien
from jaded_ledger.core.finance.debts import Loan, LoanEvent
from jaded_ledger.core.ownership.parties import UNNAMED, Party, are_kin
from jaded_ledger.core.several_parcels import ALONE, Covered, covered_by
from jaded_ledger.core.title.sales import DeedType, Transfer
from jaded_ledger.records import models
from jaded_ledger.records.bulk import among, among_ids, grouped
from jaded_ledger.records.models import RollEntry

Ids = Sequence[int]


def _party(name: str | None, kind: str | None, surnames: Iterable[str] | None) -> Party:
    return Party(name, kind or "", tuple(surnames or ())) if name else UNNAMED


def _covered(through: type[models.TransferParcel | models.LoanParcel], ids: Ids) -> dict[tuple[int, int], Covered]:
    """Return some parcels' parts of the documents that cover several, by parcel and document."""
    document = next(one.attname for one in through._meta.concrete_fields if one.name not in ("id", "parcel"))
    rows: QuerySet[Any] = through._default_manager.all()
    mine = rows.filter(parcel_id__in=among_ids(ids)).values(document)
    several = rows.filter(**{f"{document}__in": mine}).values(document).annotate(parcels=Count("id")).filter(parcels__gt=1)
    on_roll = RollEntry.objects.filter(parcel=OuterRef("parcel"), superseded_at=None).annotate(
        assessed=F("land_value") + F("improvement_value")
    )
    found: dict[int, dict[str, tuple[int, Decimal | None]]] = defaultdict(dict)
    covering = rows.filter(**{f"{document}__in": several.values(document)})
    for key, parcel, number, assessed in covering.values_list(
        document, "parcel_id", "parcel__number", Subquery(on_roll.values("assessed")[:1])
    ):
        found[key][number] = (parcel, assessed)
    return {
        (parcels[number][0], key): covered
        for key, parcels in found.items()
        for number, covered in covered_by({number: assessed for number, (_, assessed) in parcels.items()}).items()
    }


def doubt_of(said: Sequence[str] | None) -> str:
    """Return in words what was wrong with a value that was left unknown; blank where nothing was."""
    return f"“{said[0]}” {said[1]}" if said else ""


def transfers_of(ids: Ids) -> dict[int, list[Transfer]]:
    """Return the transfers of parcels, by parcel."""
    rows = models.TransferParcel.objects.filter(parcel_id__in=among_ids(ids), transfer__superseded_at=None)
    names = (
        "sold_on", "deed", "price", "recorded_on", "seller_financed", "doubts", "id", "grantor__mailing_name", "grantor__kind",
        "grantor__surnames",
        "grantee__mailing_name", "grantee__kind", "grantee__surnames",
    )  # fmt: skip
    covered = _covered(models.TransferParcel, ids)
    found: dict[int, list[Transfer]] = defaultdict(list)
    for parcel, sold_on, deed, price, recorded_on, recites_contract, doubts, key, *parties in rows.values_list(
        "parcel_id", *(f"transfer__{name}" for name in names)
    ):
        grantor, grantee = _party(*parties[:3]), _party(*parties[3:])
        found[parcel].append(
            Transfer(
                sold_on, DeedType(deed), price, are_kin(grantor, grantee), recorded_on, grantor, grantee, covered.get((parcel, key), ALONE),
                recites_contract, date_doubt=doubt_of(doubts.get("sold_on")), key=key,
            )
        )  # fmt: skip
    return found


def loans_of(ids: Ids) -> dict[int, list[Loan]]:
    """Return the loans of parcels, by parcel."""
    rows = models.LoanParcel.objects.filter(parcel_id__in=among_ids(ids), loan__superseded_at=None)
    names = (
        "recorded_on", "dated_on", "kind", "amount", "rate", "term_months", "matures_on", "document_number", "lender__text", "lender_id",
        "id", "borrower__mailing_name", "borrower__kind", "borrower__surnames", "lender__mailing_name", "lender__kind", "lender__surnames",
    )  # fmt: skip
    covered = _covered(models.LoanParcel, ids)
    found: dict[int, list[Loan]] = defaultdict(list)
    for parcel, recorded_on, dated_on, kind, amount, rate, months, matures_on, number, lender, lender_id, key, *parties in rows.values_list(
        "parcel_id", *(f"loan__{name}" for name in names)
    ):
        found[parcel].append(
            Loan(
                recorded_on, dated_on, kind, amount, rate and rate / 100, months, matures_on, number, lender or "", lender_id,
                _party(*parties[:3]), _party(*parties[3:]), covered.get((parcel, key), ALONE), key,
            )
        )  # fmt: skip
    return found


def loan_events_of(county: int, numbers: Iterable[str]) -> dict[str, list[LoanEvent]]:
    """Return what was recorded on loans later, by the loan's number."""
    rows = models.LoanEvent.objects.filter(county=county, superseded_at=None, loan_number__in=among(numbers))
    return grouped(rows.values_list("loan_number", "recorded_on", "kind", "loan_number", "amount", "id"), LoanEvent)


def liens_of(ids: Ids) -> dict[int, list[Lien]]:
    """Return the involuntary liens on parcels, by parcel, with the day of their release."""
    released = models.LienRelease.objects.filter(
        county=OuterRef("lien__county"), lien_number=OuterRef("lien__document_number"), superseded_at=None
    ).exclude(lien_number="")
    rows = models.LienParcel.objects.filter(parcel_id__in=among_ids(ids), lien__superseded_at=None).annotate(
        released_on=Subquery(released.order_by("recorded_on").values("recorded_on")[:1])
    )
    names = ("lien__recorded_on", "lien__kind", "lien__amount", "lien__document_number", "released_on", "lien__id")
    return grouped(rows.values_list("parcel_id", *names), Lien)
