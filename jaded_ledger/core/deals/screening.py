"""Thousands of properties by the arithmetic of one worksheet: arrays stand in the place of its numbers."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from jaded_ledger.core.deals.expressions import Numbers, Values
from jaded_ledger.core.deals.known import Defaults, Recorded, fill, first_known, rent_at_market, rent_today
from jaded_ledger.core.deals.rental import rental
from jaded_ledger.core.deals.resale import highest_offer, value_needed
from jaded_ledger.core.deals.roll import Building, RentedUnit
from jaded_ledger.core.deals.seller import net_to_seller
from jaded_ledger.core.deals.sheet import Sheet
from jaded_ledger.core.deals.worksheet import Rents, RepairsBy


def screen(record: Recorded, defaults: Defaults, owed: Sequence[Numbers]) -> Mapping[str, Numbers]:
    """Return what worksheets that nobody has touched would say, by trait: an array for each.

    At the asking price: ``cap_rate``, ``cash_on_cash``, ``discount_to_value`` (percent) and ``value_needed``; not a number where nothing is
    asked. ``highest_offer`` rests on the value after repair, as in worksheets. ``net_to_seller`` is told at what is asked, or else at the
    estimated value; ``owed`` are the loans, liens and taxes on record.
    """
    inputs = {key: given.value for key, given in fill(record, defaults, {}).items()}
    inputs["price"] = record.list_price
    inputs["unit.1.rent"], inputs["unit.1.market"] = rent_today(record).value, rent_at_market(record).value
    sheet = Sheet(Building(units=(RentedUnit(),)), Rents.TODAY, RepairsBy.RATE)
    let, values = rental(sheet), Values(inputs)
    cap, earned = (next(goal.result for goal in let.goals if goal.key == key) for key in ("rental.cap", "rental.return"))
    with np.errstate(all="ignore"):
        discount = 100 * (record.estimated_value - record.list_price) / record.estimated_value
    return {
        "cap_rate": values[cap], "cash_on_cash": values[earned], "highest_offer": values[highest_offer(sheet)],
        "value_needed": values[value_needed(sheet)], "discount_to_value": np.where(np.isfinite(discount), discount, np.nan)[()],
        "net_to_seller": net_to_seller(first_known(record.list_price, record.estimated_value), owed, inputs),
    }  # fmt: skip
