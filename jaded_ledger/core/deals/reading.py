"""Figures as text, and the arithmetic of a figure as a reader would write it down."""

from __future__ import annotations

from jaded_ledger.core.deals.expressions import FUNCTIONS, Binary, Call, Cell, Expression, FigureUnit, Number, Values, unknown_inputs
from jaded_ledger.core.deals.inputs import INPUTS
from jaded_ledger.core.deals.worksheet import Period

NOT_KNOWN, NOT_DEFINED = "not known", "not defined"
_NAMED = 3
_SIGNS = {"+": "+", "-": "−", "*": "×", "/": "÷"}


def figure_text(value: float | None, unit: FigureUnit) -> str:
    """Return a figure as it is shown: $28,330, 7.4 %, 1.27, 7 months; what is not known is a middle dot."""
    if value is None:
        return "·"
    match unit:
        case FigureUnit.MONEY | FigureUnit.MONEY_A_YEAR:
            return f"${value:,.0f}".replace("$-", "−$").replace("−$0", "$0")
        case FigureUnit.PERCENT:
            return f"{value:.1f} %".replace("-", "−")
        case FigureUnit.RATIO:
            return f"{value:,.2f}".replace("-", "−")
        case FigureUnit.YEAR:
            return f"{value:.0f}"
        case FigureUnit.MONTHS | FigureUnit.YEARS:
            many = f"{value:,.1f}".removesuffix(".0")
            return f"{many} {str(unit).removesuffix('s') if many == '1' else unit}"
        case FigureUnit.FEET | FigureUnit.SQUARE_FEET:
            return f"{value:,.0f} {'ft' if unit is FigureUnit.FEET else 'sq ft'}"
        case FigureUnit.COUNT:
            return f"{value:,.0f}"


def wanted_text(value: float | None, unit: FigureUnit) -> str:
    """Return what is wanted as it would be said: 8 %, $30,000, 1.25."""
    return exact_text(value, unit) if unit in (FigureUnit.PERCENT, FigureUnit.MONEY, FigureUnit.MONEY_A_YEAR) else figure_text(value, unit)


def typed_text(value: float | None, unit: FigureUnit) -> str:
    """Return an input as it stands in its field."""
    if value is None:
        return ""
    if unit is FigureUnit.YEAR:
        return f"{value:.0f}"
    return f"{value:,.2f}".rstrip("0").rstrip(".")


def exact_text(value: float | None, unit: FigureUnit) -> str:
    """Return a figure as arithmetic needs it: money to the cent where it has cents, percentages to the hundredth."""
    if value is None:
        return NOT_KNOWN
    if unit in (FigureUnit.MONEY, FigureUnit.MONEY_A_YEAR):
        return f"${value:,.2f}".removesuffix(".00").replace("$-", "−$")
    if unit is FigureUnit.PERCENT:
        return f"{value:,.2f}".rstrip("0").rstrip(".").replace("-", "−") + " %"
    return figure_text(value, unit)


def by_period(value: float | None, unit: FigureUnit, by: Period) -> float | None:
    """Return a figure by the month or by the year: money of a year in parts, all else as it is."""
    return value / by.parts if value is not None and unit is FigureUnit.MONEY_A_YEAR else value


def label_by(cell: Cell, by: Period) -> str:
    """Return what a figure is called by the month or by the year."""
    return cell.label.replace("a year", f"a {by}") if cell.unit is FigureUnit.MONEY_A_YEAR else cell.label


def interest_only_words(parts: tuple[str | Cell, ...], values: Values) -> str:
    """Return how long the loan that a line tells of pays interest only: ", interest only for 2 years"; blank where it does not."""
    loan = next((part.key.removesuffix(".rate") for part in parts if isinstance(part, Cell) and part.key.endswith(".rate")), None)
    if loan is None or f"{loan}.interest-only" not in INPUTS:
        return ""
    free, years = (values.number(INPUTS[f"{loan}.{name}"].cell) for name in ("interest-only", "years"))
    if not free or years is None:
        return ""
    return ", interest only" if free >= years else f", interest only for {figure_text(free, FigureUnit.YEARS)}"


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
    return f"{NOT_DEFINED}: {first.label} = {reading_of(first, values)}{_without_base(first, values)}"


def _without_base(cell: Cell, values: Values) -> str:
    """Return, of a share, that what it is a share of is not above 0; blank for all else."""
    match cell.expression:
        case Call(name="percent", terms=(_, base)) if (number := values.number(base)) is not None and number <= 0:
            return f"; {base.label if isinstance(base, Cell) else 'what it is a share of'} is not above 0"
    return ""


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
