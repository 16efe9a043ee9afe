"""The demo's deals: three worksheets at different stages, and what is on the market screened."""

from __future__ import annotations

from datetime import date

from jaded_ledger.accounts.models import Team
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.deals.worksheet import worksheet_from_json
from jaded_ledger.find.parcel_lookup import NoSuchParcelError, parcel_named
from jaded_ledger.worksheets.computed import computed
from jaded_ledger.worksheets.models import Worksheet
from jaded_ledger.worksheets.models.worksheets import Stage
from jaded_ledger.worksheets.screened import screen_team
from jaded_ledger.worksheets.services import begin, keep_version

_DEALS = (
    ("pike-hollow/100-071-05", Stage.OFFERED, "as offered", {
        "exits": ["resale", "rental"], "rents": "today",
        "inputs": {"price": 121_500, "repair-rate": 9, "utilities": 2_400, "mortgage.years": 25},
        "systems": [{"kind": "roof", "year": 1998, "is-replaced": True, "cost": 9_500}, {"kind": "furnace", "year": 2014},
                    {"kind": "water-heater", "year": 2009}, {"kind": "electrical", "year": 1987}],
    }),
    ("pike-hollow/100-040-23", Stage.LOOKING, "", {"exits": ["rental", "refinance"], "inputs": {"rental.wanted-return": 10}}),
    ("tamarack/12-083-017", Stage.LOOKING, "", {"exits": ["titles", "rental"], "inputs": {"titles.cost-each": 9_000}}),
)  # fmt: skip
"""Parcel, stage, the note of a version that is kept, and the worksheet."""


def make_deals(team: Team, today: date) -> None:
    """Begin the demo's worksheets where the team has none, and screen what is on the market."""
    scope = Scope(team, team.users.order_by("pk").first(), today)
    if not Worksheet.objects.filter(team=team).exists():
        for number, stage, note, said in reversed(_DEALS):
            try:
                parcel = parcel_named(number)
            except NoSuchParcelError:
                # A smaller world has fewer parcels.
                continue
            worksheet = begin(scope, parcel, worksheet_from_json(said))
            Worksheet.objects.filter(pk=worksheet.pk).update(stage=stage)
            if note:
                keep_version(scope, worksheet, computed(worksheet_from_json(said), parcel, scope), note)
    screen_team(team.pk)
