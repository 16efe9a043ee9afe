"""What is proposed for what a search asks: of a saved one the answers it was kept with, of a starter a share of the values there are."""

from __future__ import annotations

from decimal import Decimal

from django.db.models import Aggregate

from jaded_ledger.core.criteria.asking import answer_text, questions
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.proposals import Share, limit_text
from jaded_ledger.find.answer import Answer
from jaded_ledger.find.figures import known_of
from jaded_ledger.searches.origins import search_of_origin, starter_of_origin
from jaded_ledger.searches.services import current_version, page_of

Places = dict[tuple[int, int], str]


class _Quantile(Aggregate):
    function = "PERCENTILE_DISC"
    template = "%(function)s(%(quantile)s) WITHIN GROUP (ORDER BY %(expressions)s)"


def _limit(answer: Answer, trait: str, share: Share) -> str:
    """Return the limit that takes in a share of the values over what the other lines leave; blank where none is known."""
    known = known_of(answer.matches, CATALOGUE[trait])
    found = known.aggregate(limit=_Quantile("of", quantile=share.quantile))["limit"]
    return "" if found is None else limit_text(Decimal(found), share)


def proposed(answer: Answer) -> Places:
    """Return what is proposed, by line and member. Raises CriteriaError."""
    asked = list(questions(answer.asked.search))
    if saved := search_of_origin(answer.asked.origin, answer.scope):
        kept = {(one.line, one.member): one for one in questions(page_of(current_version(saved), answer.scope).search)}
        # The lines may be others by now: an answer is proposed to the same question in the same place.
        pairs = [(one, kept.get((one.line, one.member))) for one in asked]
        return {
            (one.line, one.member): answer_text(before) for one, before in pairs if before and before.criterion.trait == one.criterion.trait
        }
    if starter := starter_of_origin(answer.asked.origin):
        waiting = list(questions(starter.search))
        by_trait = {one.criterion.trait: proposal for one, proposal in zip(waiting, starter.proposals, strict=True)}
        return {
            (one.line, one.member): proposal if isinstance(proposal, str) else _limit(answer, one.criterion.trait, proposal)
            for one in asked
            if one.waits and (proposal := by_trait.get(one.criterion.trait)) is not None
        }
    return {}
