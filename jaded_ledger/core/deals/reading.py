"""Figures as text, and the arithmetic of a figure as a reader would write it down."""

from __future__ import annotations

from jaded_ledger.core.deals.expressions import FUNCTIONS, Binary, Call, Cell, Expression, Number, Unit, Values, unknown_inputs

NOT_KNOWN, NOT_DEFINED = "not known", "not defined"
_NAMED = 3
_SIGNS = {"+": "+", "-": "−", "*": "×", "/": "÷"}


def figure_text(value: float | None, unit: Unit) -> str:
    """Return a figure as it is shown: $28,330, 7.4 %, 1.27, 7 months; what is not known is a middle dot."""
    if value is None:
        return "·"
    match unit:
        case Unit.MONEY:
            return f"${value:,.0f}".replace("$-", "−$").replace("−$0", "$0")
        case Unit.PERCENT:
            return f"{value:.1f} %".replace("-", "−")
        case Unit.RATIO:
            return f"{value:,.2f}".replace("-", "−")
        case Unit.YEAR:
            return f"{value:.0f}"
        case Unit.MONTHS | Unit.YEARS:
            many = f"{value:,.1f}".removesuffix(".0")
            return f"{many} {str(unit).removesuffix('s') if many == '1' else unit}"
        case Unit.FEET | Unit.SQUARE_FEET:
            return f"{value:,.0f} {'ft' if unit is Unit.FEET else 'sq ft'}"
        case Unit.COUNT:
            return f"{value:,.0f}"


def wanted_text(value: float | None, unit: Unit) -> str:
    """Return what is wanted as it would be said: 8 %, $30,000, 1.25."""
    return exact_text(value, unit) if unit in (Unit.PERCENT, Unit.MONEY) else figure_text(value, unit)


def typed_text(value: float | None, unit: Unit) -> str:
    """Return an input as it stands in its field."""
    if value is None:
        return ""
    if unit is Unit.YEAR:
        return f"{value:.0f}"
    return f"{value:,.2f}".rstrip("0").rstrip(".")


def exact_text(value: float | None, unit: Unit) -> str:
    """Return a figure as arithmetic needs it: money to the cent where it has cents, percentages to the hundredth."""
    if value is None:
        return NOT_KNOWN
    if unit is Unit.MONEY:
        return f"${value:,.2f}".removesuffix(".00").replace("$-", "−$")
    if unit is Unit.PERCENT:
        return f"{value:,.2f}".rstrip("0").rstrip(".").replace("-", "−") + " %"
    return figure_text(value, unit)


def reading_of(cell: Cell, values: Values) -> str:
    """Return how a figure came about, in numbers: "$168,000 × 2.5 %"; blank for an input."""
    return "" if cell.expression is None else _read(_plain(cell.expression, values), values)


def _read(one: Expression, values: Values) -> str:
    match one:
        case Number(value=value):
            return f"{value:,.10g}"
        case Cell():
            return exact_text(values.number(one), one.unit)
        case Binary(sign=sign, left=left, right=right):
            before, after = _within(left, one.strength, values), _within(right, one.strength + (sign in "-/"), values)
            return f"{before} {_SIGNS[sign]} {after}"
        case Call(name=name, terms=terms):
            texts = [_within(term, 3, values) for term in terms]
            return FUNCTIONS[name].reading.format(*texts, all=", ".join(texts))
    raise TypeError(f"{one!r} can't be read")


def _plain(one: Expression, values: Values) -> Expression:
    """Return an expression without what needs no room: terms that add nothing, such as a second loan that is none, and untaken branches."""
    if isinstance(one, Call) and one.name == "where":
        test, then, otherwise = one.terms
        return _plain(then if (values.number(test) or 0) > 0 else otherwise, values)
    if isinstance(one, Call):
        return Call(one.name, tuple(_plain(term, values) for term in one.terms))
    if isinstance(one, Binary):
        left, right = _plain(one.left, values), _plain(one.right, values)
        if one.sign in "+-" and isinstance(right, Cell) and values.number(right) == 0:
            return left
        if one.sign == "+" and isinstance(left, Cell) and values.number(left) == 0:
            return right
        return Binary(one.sign, left, right)
    return one


def _within(one: Expression, strength: int, values: Values) -> str:
    text = _read(one, values)
    return f"({text})" if one.strength < strength else text


def why_none(cell: Cell, values: Values) -> str:
    """Return why a figure is none: for want of which inputs, or which figure is not defined; blank where there is one."""
    if values.number(cell) is not None:
        return ""
    if wanted := unknown_inputs(cell, values):
        return f"{NOT_KNOWN}: {_listed(list(dict.fromkeys(one.label for one in wanted)))}"
    first = _first_undefined(cell, values)
    return f"{NOT_DEFINED}: {first.label} = {reading_of(first, values)}"


def _listed(labels: list[str]) -> str:
    """Return names one after another; of many, the first few and how many others there are."""
    if len(labels) <= _NAMED + 1:
        return ", ".join(labels)
    return f"{', '.join(labels[:_NAMED])} and {len(labels) - _NAMED} others"


def _first_undefined(cell: Cell, values: Values) -> Cell:
    """Return the figure that a figure is not defined for: one whose own parts all are."""
    todo: list[Expression] = [cell.expression] if cell.expression else []
    while todo:
        one = todo.pop()
        if isinstance(one, Cell):
            if values.number(one) is None:
                return _first_undefined(one, values)
        else:
            todo.extend(one.parts())
    return cell


def words_of(parts: tuple[str | Cell, ...], values: Values) -> str:
    """Return the words of an account's line, with the inputs among them: "repairs 3,120 sq ft × $17"."""
    return " ".join(part if isinstance(part, str) else wanted_text(values.number(part), part.unit) for part in parts)
