"""Template components."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from datetime import date
from decimal import Decimal
from functools import lru_cache
from typing import Any

from django import template
from django.contrib.staticfiles import finders
from django.urls import reverse
from django.utils.html import format_html_join
from django.utils.safestring import SafeString, mark_safe

from jaded_ledger.core.criteria.display import UNKNOWN, age_text, day_text, money_text
from jaded_ledger.plugins import hooks, in_order
from jaded_ledger.plugins.entries import InnerPlace, NavigationPlace
from jaded_ledger.web.keys import KEYS, ON_A_LINE, pressed
from jaded_ledger.web.sentences import ended

register = template.Library()


@lru_cache(maxsize=100)
def _drawn(name: str) -> str:
    """Return what is within an icon's picture."""
    path = finders.find(f"vendor/icons/{name}.svg")
    if not path:
        raise template.TemplateSyntaxError(f"there is no icon {name} under vendor/icons")
    with open(path, encoding="utf-8") as handle:
        return handle.read().split(">", 1)[1].rpartition("</svg>")[0].strip()


@register.simple_tag
@lru_cache(maxsize=100)
def icon(name: str) -> SafeString:
    """Draw one of the vendored icons; it stands beside its word, so readers aloud pass over it."""
    return mark_safe(f'<svg class="icon" viewBox="0 0 16 16" aria-hidden="true">{_drawn(name)}</svg>')


@register.simple_tag
def icons_once(*names: str) -> SafeString:
    """Hold the drawings of icons that a page has many times over, for ``icon_again``."""
    held = "".join(f'<symbol id="icon-{name}" viewBox="0 0 16 16">{_drawn(name)}</symbol>' for name in names)
    return mark_safe(f'<svg hidden aria-hidden="true">{held}</svg>')


@register.simple_tag
@lru_cache(maxsize=100)
def icon_again(name: str) -> SafeString:
    """Draw an icon that the page holds already (``icons_once``): of what is sent with every edit, drawings were a fifth."""
    return mark_safe(f'<svg class="icon" viewBox="0 0 16 16" aria-hidden="true"><use href="#icon-{name}"/></svg>')


@register.simple_tag
def navigation_places() -> list[NavigationPlace]:
    """Return the places of the navigation, in order."""
    return in_order(hooks.navigation())


@register.simple_tag
def inner_places(within: str) -> list[InnerPlace]:
    """Return the pages within a place of the navigation."""
    return [one for one in in_order(hooks.inner_places()) if one.within == within]


@lru_cache(maxsize=1)
def _pages() -> dict[str, str]:
    return {word: url_name for given in hooks.pages() for word, url_name in given.items()}


@lru_cache(maxsize=500)
def _around_number(word: str, *args: Any) -> tuple[str, str]:
    """Return what stands before and after the number in a page's address: a table links to hundreds, and looking each up is slow."""
    before, _, after = reverse(_pages()[word], args=(0, *args)).partition("/0")
    return f"{before}/", after


@register.simple_tag
def page_url(word: str, *args: Any) -> str:
    """Return the address of a page of another app by its word, as in ``{% page_url "property" row.parcel_id %}``."""
    if not args:
        return reverse(_pages()[word])
    number, *more = args
    before, after = _around_number(word, *more)
    return f"{before}{number}{after}"


@register.simple_tag
def explained_figure(parcel_id: int, trait: str) -> str:
    """Return the address that tells how a parcel's figure came about."""
    return page_url("explained figure", parcel_id, trait)


def _key_lines(meanings: Mapping[str, str], keys: str) -> SafeString:
    return format_html_join(
        "\n",
        "<dt>{}</dt><dd>{}</dd>",
        ((format_html_join(" ", "<kbd>{}</kbd>", ((one,) for one in pressed(key))), meanings[key]) for key in keys.split("|")),
    )


@register.simple_tag
def keys_here(keys: str) -> SafeString:
    """List what a page's keys do, for its help: ``{% keys_here "o|b|." %}``."""
    return _key_lines(KEYS, keys)


@register.simple_tag
def keys_on_a_line() -> SafeString:
    """List what keys do on a line of a search."""
    return _key_lines(ON_A_LINE, "|".join(ON_A_LINE))


@register.filter
def sentence(text: object) -> str:
    """End a text as a sentence, unless it ends as one."""
    return ended(text)


@register.filter
def day(value: date | None) -> str:
    """Show a date as 24 Nov 2026."""
    return day_text(value) if value else "·"


@register.filter
def age(value: date | None, today: date) -> str:
    """Show how long ago a date is, as 5 y 2 m; nothing for none."""
    return age_text(value, today) if value else ""


@register.filter
def dollars(value: Decimal | None) -> str:
    """Show an amount as $1,284,500, with cents where there are any; nothing where there is none."""
    return "" if value is None else money_text(value)


@register.filter
def whole(value: Decimal | None) -> str:
    """Show an amount as a column has it, 1,284,500 without a sign of currency; nothing where there is none."""
    return "" if value is None else f"{round(value):,}".replace("-", "−")


@register.filter
def whole_or_dot(value: Decimal | None) -> str:
    """Show an amount as a column has it; the sign of the unknown where it is not known."""
    return UNKNOWN if value is None else whole(value)


@register.filter
def whole_dollars(value: Decimal | None) -> str:
    """Show an amount in whole dollars; the sign of the unknown where it is not known."""
    if value is None:
        return UNKNOWN
    return money_text(Decimal(round(value))).replace("$-", "−$")


@register.filter
def anchor(row: Any) -> str:
    """Return the name of a recorded row's place on its property's page."""
    return f"{type(row).__name__.casefold()}-{row.pk}"


@register.filter
def place_of_owner(at: str) -> str:
    """Say where an owner is recorded: a household's address, or that there is none."""
    if at.startswith("parcel "):
        return "no mailing address"
    street, place, unit = [*at.split("|"), "", ""][:3]
    return ", ".join(filter(None, (f"{street} {unit}".strip(), place)))


@register.filter
def heading(text: str) -> str:
    """Begin a label with a capital, as headings do, and leave the rest as it is."""
    return text[:1].upper() + text[1:]


@register.filter
def a_line_each(texts: Iterable[str]) -> str:
    """Return texts one a line, as a field of several lines has them."""
    return "\n".join(texts)


@register.filter
def get(table: Mapping[Any, Any], key: Any) -> Any:
    """Return what a table has under a key."""
    return table.get(key)


@register.filter
def first_line(text: str) -> str:
    """Return a text's first line, with a sign that there are more."""
    first, _, more = text.partition("\n")
    return f"{first} …" if more else first


@register.filter
def in_braces(text: str) -> str:
    """Return a letter's field as it is written in its text.

    >>> in_braces("years-owned")
    '{years-owned}'
    """
    return f"{{{text}}}"


@register.filter
def percent_of(share: float | None) -> str:
    """Show a share of one as a percentage.

    >>> percent_of(0.0155), percent_of(None)
    ('1.6 %', 'unknown')
    """
    return UNKNOWN if share is None else f"{100 * share:.1f} %"
