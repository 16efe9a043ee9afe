"""What a team keeps of parcels itself: its lists, tags and stages of work. Of every parcel it is known whether it has one."""

from __future__ import annotations

from functools import partial

from jaded_ledger.core.criteria.traits import Kind, Section, Trait

_of_team = partial(Trait, section=Section.LISTS, source="your team", of_team=True)

TRAITS = (
    _of_team("on-list", "on list", kind=Kind.SET, meaning="which of your team's lists it is on", synonyms=("list", "lists", "stacked")),
    _of_team("fresh-on-list", "on list, not stale", kind=Kind.SET,
             meaning="on which of your team's lists it is without having passed to somebody else since"),
    _of_team("lists-held", "lists held", kind=Kind.NUMBER, meaning="on how many lists it is", unit="lists",
             synonyms=("number of lists", "stack depth")),
    _of_team("reasons-held", "reason lists held", kind=Kind.NUMBER, meaning="on how many lists of reasons it is", unit="lists"),
    _of_team("campaigns-held", "campaign lists held", kind=Kind.NUMBER, meaning="on how many lists of campaigns it is", unit="lists"),
    _of_team("working-sets-held", "working sets held", kind=Kind.NUMBER, meaning="on how many working sets it is", unit="lists"),
    _of_team("list-added", "added to a list", kind=Kind.DATE, meaning="when it was last added to a list", event="on_any_list",
             synonyms=("date added", "listed by us")),
    _of_team("stale-on-list", "stale on a list", kind=Kind.FLAG,
             meaning="whether it has passed to somebody else since it was added to one of its lists", synonyms=("sold since",)),
    _of_team("urgency", "urgency", kind=Kind.NUMBER, synonyms=("score", "priority"),
             meaning="0 to 100: what its open signs of distress and your lists of reasons add up to, fading with time",
             source="all records that tell of distress, your team's lists and weights",
             rule="what the newest open sign of each kind and every list of a reason are worth, halving with time; no more than 100"),
    _of_team("tag", "tag", kind=Kind.SET, meaning="the words that your team put on it", synonyms=("tags", "label")),
    _of_team("tagged", "tagged on", kind=Kind.DATE, meaning="when it was last tagged", event="has_tag"),
    _of_team("stage", "stage", kind=Kind.SET, meaning="how far your team's work on it has come", synonyms=("pipeline", "status of work")),
    _of_team("stage-since", "stage since", kind=Kind.DATE, meaning="since when it is at its stage", event="has_stage"),
)  # fmt: skip
