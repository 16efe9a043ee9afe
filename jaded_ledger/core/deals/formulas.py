"""A figure's expression as the formula of a spreadsheet, in the words that OpenDocument and Office Open XML share."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from jaded_ledger.core.deals.expressions import FUNCTIONS, Binary, Call, Cell, Expression, Number

Address = Callable[[Cell], str]
"""Where a figure stands: Inputs!B4."""


def formula_of(expression: Expression, address: Address) -> str:
    """Return a formula, "=" before it, which tells that a figure is not defined in words."""
    return f'=IFERROR({_written(expression, address)},"not defined")'


def _written(one: Expression, address: Address) -> str:
    match one:
        case Number(value=value):
            return f"{value:.15g}"
        case Cell():
            return address(one)
        case Binary(sign=sign, left=left, right=right):
            before, after = _within(left, one.strength, address), _within(right, one.strength + (sign in "-/"), address)
            return f"{before}{sign}{after}"
        case Call(name=name, terms=terms):
            return _called(name, terms, address)
    raise TypeError(f"{one!r} can't be written")


def _within(one: Expression, strength: int, address: Address) -> str:
    text = _written(one, address)
    return f"({text})" if one.strength < strength else text


def _called(name: str, terms: Sequence[Expression], address: Address) -> str:
    texts = [f"({_written(term, address)})" if isinstance(term, Binary) else _written(term, address) for term in terms]
    form = FUNCTIONS[name].formula
    if name == "irr":
        flows, totals = texts[: len(texts) // 2], texts[len(texts) // 2 :]
        return form.format(flows=_range(flows), count=len(flows), changes=_changes(flows), changes_of_totals=_changes(totals))
    if name == "npv":
        return form.format(*texts, after=_range(texts[2:]), count=len(texts) - 2)
    return form.format(*texts, sums=",".join(f"{text}+0" for text in texts))


def _range(addresses: Sequence[str]) -> str:
    """Return a row of cells beside one another as a range."""
    return f"{addresses[0]}:{addresses[-1].rpartition('!')[2]}"


def _changes(addresses: Sequence[str]) -> str:
    """Return the formula that counts how often a row of cells turns from below 0 to 0 or more, or back."""
    before, after = _range(addresses[:-1]), _range(addresses[1:])
    return f"SUMPRODUCT(({before}<0)*({after}>=0)+({before}>=0)*({after}<0))"
