"""The pages of comps: the book of one property, what is decided on it, and one comp beside the subject."""

from __future__ import annotations

from dataclasses import replace
from typing import Any
from urllib.parse import urlencode

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse, QueryDict
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_POST

from jaded_ledger.accounts.roles import may
from jaded_ledger.accounts.scope import Scope, scope_of
from jaded_ledger.comps.acts import COMPS
from jaded_ledger.comps.asked import TABS, CompsRequest, lines_of, view_of
from jaded_ledger.comps.comps_map import map_of
from jaded_ledger.comps.comps_page import ordered, shown
from jaded_ledger.comps.decisions import REASONS, DecisionError, decide, following_grade, key_of, put_in, set_grade, take_back
from jaded_ledger.comps.kept import keep, kept_of
from jaded_ledger.comps.photographs import photographs_of
from jaded_ledger.comps.pools import delete_pool, pool_of, save_pool
from jaded_ledger.comps.section import most_similar_context
from jaded_ledger.comps.settings_by_hand import lines_of as lines_of_county
from jaded_ledger.comps.settings_by_hand import settings_of
from jaded_ledger.comps.trust_here import trust_here
from jaded_ledger.comps.trust_panel import panel_of
from jaded_ledger.comps.valuation import SETS, Valuation, effects_of, method_of, subject_of, value
from jaded_ledger.core.comps.lines import RULES, LineKind, PoolError, PoolLine, in_order, parse_line, parse_lines
from jaded_ledger.core.comps.terms import GRADES
from jaded_ledger.maps.areas import areas_of, free_name, keep_area, outline_of
from jaded_ledger.maps.messages import AreaError
from jaded_ledger.maps.outlines import polygons_of
from jaded_ledger.records.models import Parcel
from jaded_ledger.web.sentences import sentence_of

_BEFORE = (("address", "Comp", False), ("miles", "Miles", True), ("closed", "Closed", False))
_AFTER = (
    ("adjusted", "Adjustments", True), ("value", "Adjusted price", True),
    ("warnings", "Warning or reason", False),
)  # fmt: skip
_HEADINGS = (
    *_BEFORE, ("area", "Sq ft", True), ("beds", "Bd · ba", True), ("built", "Built", True), ("price", "Price", True),
    ("per", "$/sq ft", True), *_AFTER,
)  # fmt: skip
_HEADINGS_OF_LAND = (
    *_BEFORE, ("", "Acres", True), ("", "Frontage", True), ("", "Zoning", False), ("price", "Price", True), ("per", "$/acre", True),
    *_AFTER,
)  # fmt: skip
"""The columns of the table of comps: by what they are sorted, what they are called, and whether they hold figures."""


def _parcel(pk: int) -> Parcel:
    return get_object_or_404(Parcel.objects.select_related("county").filter(retired_on=None, facts__isnull=False), pk=pk)


_AREAS = (LineKind.INSIDE, LineKind.OUTSIDE)
_ROUND = {"area": 50, "lot": 500, "frontage": 5}
"""To what a proposed limit is rounded, in the units of its line."""


def _own_limits(found: Valuation) -> list[str]:
    """Return limits about the subject's own figures: under its size, around its price."""
    subject, lines = found.subject, []
    for kind, by in _ROUND.items():
        own = subject.house.value(RULES[LineKind(kind)].trait)
        if own == own and own > by:
            lines += [f"{kind}: under {by * round(own * 1.1 / by):.0f}", f"{kind}: over {by * round(own * 0.9 / by):.0f}"]
    if subject.house.knows("year_built"):
        lines.append(f"built: before {subject.house.value('year_built') + 10:.0f}")
    price = subject.asking or (found.range and found.range.value)
    if price:
        lines.append(f"price: {5_000 * round(price * 0.9 / 5_000):.0f} to {5_000 * round(price * 1.1 / 5_000):.0f}")
    return lines


def _proposed_lines(found: Valuation, scope: Scope) -> list[tuple[str, int | None]]:
    """Return lines that could be added, each with how many comps it would leave: kinds that do not stand, limits, the team's areas."""
    kinds = {line.kind for line in found.lines}
    lines = [PoolLine(kind, rule.usual) for kind, rule in RULES.items() if kind not in (*kinds, *_AREAS, LineKind.PRICE)]
    lines += map(parse_line, _own_limits(found))
    effects: list[tuple[str, int | None]] = list(zip(map(str, lines), effects_of(found, scope, lines), strict=True))
    names = list(areas_of(scope.team).values_list("name", flat=True)[:50])
    return [*effects, *((str(PoolLine(kind, name=name)), None) for kind in reversed(_AREAS) for name in names)]


@require_GET
def proposed_lines(request: HttpRequest, pk: int) -> HttpResponse:
    """Lines that could be added to a pool, asked for when the box is entered."""
    scope = scope_of(request)
    asked, _ = _asked(request.GET)
    try:
        found = value(_parcel(pk), scope, asked.lines, asked.of_set, with_offers=False)
    except PoolError as error:
        raise Http404(str(error)) from error
    left = found.pool.balance[-1].left if found.pool.balance else found.pool.start
    return render(request, "comps/_proposed_lines.html", {"proposed": _proposed_lines(found, scope), "of": left})


def page_context(parcel: Parcel, asked: CompsRequest, scope: Scope, error: str = "") -> dict[str, Any]:
    """Return what a page of comps is rendered with. Raises PoolError where its lines can't be asked."""
    found = value(parcel, scope, asked.lines, asked.of_set)
    about, saved = shown(found), pool_of(scope, parcel)
    is_saved = saved is not None and saved == found.lines
    usual = lines_of_county(settings_of(scope.team, parcel.county), is_land=found.subject.is_land)
    return {
        **book_context(about, asked),
        "fields": list(asked.fields()), "error": error, "may_change": may(scope, COMPS), "here": asked.address(parcel.pk),
        "kept_count": kept_of(scope).filter(parcel=parcel).count(),
        "lines_now": about["lines_text"], "is_saved": is_saved,
        "is_not_saved": not is_saved and asked.lines not in (None, usual), "is_chosen": is_saved or asked.lines is not None,
        "reasons": REASONS, "grades": GRADES.items(),
        "drawing": map_of(about, scope, found.lines), "county_id": parcel.county_id,
        "query": urlencode([(name, text) for name, text in asked.fields() if name in ("lines", "set")]) + "&",
        "query_of_lines": urlencode([(name, text) for name, text in asked.fields() if name == "lines"]) + "&",
    }  # fmt: skip


def book_context(about: dict[str, Any], asked: CompsRequest) -> dict[str, Any]:
    """Return what the book of comps is rendered with, of today or of a day on which it was kept."""
    return {
        "place": "deals", "about": about, "subject": about["subject"], "comps": ordered(about["comps"], asked.sort), "asked": asked,
        "tabs": [(key, label, len(about["offers"][key]) if key in about["offers"] else len(about["comps"])) for key, label in TABS.items()],
        "offers": about["offers"].get(asked.tab, []), "sets": SETS.items(),
        "headings": _HEADINGS_OF_LAND if about["subject"]["is_land"] else _HEADINGS,
    }  # fmt: skip


def _answer(request: HttpRequest, parcel: Parcel, asked: CompsRequest, scope: Scope, error: str = "") -> HttpResponse:
    """Return the page, or for htmx its book, with the address that it can be opened by again."""
    try:
        context = page_context(parcel, asked, scope, error)
    except PoolError as wrong:
        error = error or sentence_of(wrong)
        asked = replace(asked, lines=None)
        context = page_context(parcel, asked, scope, error)
    if request.htmx:  # type: ignore[attr-defined]
        answer = render(request, "comps/_book.html", context)
        is_another = request.method == "GET" or request.POST.get("do") == "lines"
        answer["HX-Push-Url" if is_another else "HX-Replace-Url"] = asked.address(parcel.pk)
        return answer
    return render(request, "comps/comps.html", context, status=400 if error else 200)


def _asked(query: QueryDict) -> tuple[CompsRequest, str]:
    """Return what is asked, and what is wrong with it: then the lines stand as they stood before."""
    view = view_of(query)
    try:
        return replace(view, lines=lines_of(query)), ""
    except PoolError as error:
        try:
            before = parse_lines(str(query["lines"])) if "edit" in query and "lines" in query else None
        except PoolError:
            before = None
        return replace(view, lines=before), sentence_of(error)


@require_GET
def comps(request: HttpRequest, pk: int) -> HttpResponse:
    """What a property is worth by its comps."""
    scope = scope_of(request)
    asked, error = _asked(request.GET)
    return _answer(request, _parcel(pk), asked, scope, error)


@require_POST
def act(request: HttpRequest, pk: int) -> HttpResponse:
    """Decide on a comp, grade a condition, or keep the comps as they stand."""
    scope = scope_of(request)
    parcel = _parcel(pk)
    asked, error = _asked(request.POST)
    what, _, of = request.POST.get("do", "").partition(":")
    try:
        match what:
            case "out":
                decide(scope, parcel, key_of(of), is_in=False, reason=request.POST.get("reason", ""))
            case "back":
                take_back(scope, parcel, key_of(of))
            case "put-in":
                put_in(scope, parcel, request.POST.get("number", ""))
            case "grade":
                key = key_of(of)
                set_grade(scope, *key, following_grade(request.POST.get("grade_now", "")))
            case "grade-subject":
                set_grade(scope, parcel.pk, None, request.POST.get("grade", ""))
            case "lines":
                if asked.lines is not None and not error:
                    save_pool(scope, parcel, asked.lines)
            case "usual-lines":
                delete_pool(scope, parcel)
                asked = replace(asked, lines=None)
            case "keep":
                kept = keep(scope, value(parcel, scope, asked.lines, asked.of_set))
                return _turn(request, reverse("comps:kept", args=[kept.pk]))
            case "draw":
                asked = _with_area(request.POST, asked, parcel, scope)
                save_pool(scope, parcel, asked.lines or ())
            case _:
                raise Http404("there is no such thing to do")
    except (DecisionError, PoolError, AreaError) as wrong:
        error = sentence_of(wrong)
    if not request.htmx and not error:  # type: ignore[attr-defined]
        return redirect(asked.address(pk))
    return _answer(request, parcel, asked, scope, error)


def _turn(request: HttpRequest, address: str) -> HttpResponse:
    messages.success(request, "Kept as it stands.")
    if request.htmx:  # type: ignore[attr-defined]
        answer = HttpResponse(status=204)
        answer["HX-Redirect"] = address
        return answer
    return redirect(address)


def _with_area(query: QueryDict, asked: CompsRequest, parcel: Parcel, scope: Scope) -> CompsRequest:
    """Keep an outline that was drawn, and return what is asked with the line that leaves it out or stays within it."""
    outline = outline_of(polygons_of(query.get("geometry", "")))
    name = query.get("name", "").strip() or free_name(scope.team, f"Comps of {parcel.number}")
    area = keep_area(scope, name, outline)
    before = asked.lines if asked.lines is not None else value(parcel, scope).lines
    kind = LineKind.INSIDE if query.get("as") == "inside" else LineKind.OUTSIDE
    return replace(asked, lines=in_order((*before, PoolLine(kind, name=area.name))))


@require_GET
def likest(request: HttpRequest, pk: int) -> HttpResponse:
    """Show the most similar comps on a property's own page."""
    scope = scope_of(request)
    return render(request, "comps/_likest.html", most_similar_context(_parcel(pk), scope))


@require_GET
def trust(request: HttpRequest, pk: int) -> HttpResponse:
    """How far the range can be trusted: it takes longer than the page, and follows it."""
    scope = scope_of(request)
    subject = subject_of(_parcel(pk), scope, scope.today)
    asked, _ = _asked(request.GET)
    method = method_of(subject, scope, asked.lines)
    return render(request, "comps/_trust.html", {"trust": panel_of(trust_here(subject, scope, method.lines))})


@require_GET
def comp(request: HttpRequest, pk: int, key: str) -> HttpResponse:
    """One comp beside the subject: photographs, remarks, and its price on its way to the subject, step by step."""
    scope = scope_of(request)
    parcel = _parcel(pk)
    asked, _ = _asked(request.GET)
    try:
        parcel_id, sold_on = key_of(key)
        about = shown(value(parcel, scope, asked.lines, asked.of_set))
    except (DecisionError, PoolError) as error:
        raise Http404(str(error)) from error
    found = next((one for one in about["comps"] if one["key"] == key), None)
    if found is None:
        raise Http404("that comp is not in the pool")
    sides = [
        ("The property", about["subject"], *photographs_of(parcel.pk, None)),
        ("The comp", found, *photographs_of(parcel_id, sold_on)),
    ]
    context = {"place": "deals", "subject": about["subject"], "comp": found, "sides": sides, "parcel": parcel, "back": asked.address(pk)}
    return render(request, "comps/_comp.html" if request.htmx else "comps/comp.html", context)  # type: ignore[attr-defined]
