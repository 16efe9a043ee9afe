"""A worksheet as a spreadsheet whose formulas live: change an input there, and all else follows as it does on the page."""

from __future__ import annotations

from collections.abc import Iterator
from io import BytesIO
from typing import Any

from openpyxl import Workbook
from openpyxl.cell.cell import ILLEGAL_CHARACTERS_RE
from openpyxl.cell.cell import Cell as SheetCell
from openpyxl.styles import Alignment, Font
from openpyxl.utils import get_column_letter
from openpyxl.worksheet.worksheet import Worksheet as Page

from jaded_ledger.core.deals.expressions import Cell, FigureUnit
from jaded_ledger.core.deals.formulas import formula_of
from jaded_ledger.core.deals.inputs import INPUTS
from jaded_ledger.core.deals.known import Origin
from jaded_ledger.core.deals.reading import NOT_KNOWN
from jaded_ledger.worksheets.computed import Computed

INPUT_PAGE, FIGURE_PAGE, SELLER_PAGE = "Inputs", "Figures", "Seller"
_FORMATS = {
    FigureUnit.MONEY: '$#,##0;[Red]-$#,##0', FigureUnit.MONEY_A_YEAR: '$#,##0;[Red]-$#,##0',
    FigureUnit.PERCENT: '0.00" %"', FigureUnit.RATIO: "0.00", FigureUnit.COUNT: "0", FigureUnit.MONTHS: '0.0" months"',
    FigureUnit.YEARS: '0.##" years"', FigureUnit.YEAR: "0", FigureUnit.FEET: '#,##0.#" ft"', FigureUnit.SQUARE_FEET: '#,##0" sq ft"',
}  # fmt: skip
_BOLD = Font(bold=True)


def _write(page: Page, row: int, column: int, value: Any, unit: FigureUnit | None = None, *, bold: bool = False) -> SheetCell:
    """Write a value; a text stays a text, also where it begins as a formula would."""
    cell: SheetCell = page.cell(row, column)
    cell.value = ILLEGAL_CHARACTERS_RE.sub("", value) if isinstance(value, str) else value
    if isinstance(value, str):
        cell.data_type = "s"
    if unit is not None:
        cell.number_format = _FORMATS[unit]
    if bold:
        cell.font = _BOLD
    return cell


def _formula(page: Page, row: int, column: int, formula: str, unit: FigureUnit, *, bold: bool = False) -> None:
    cell = page.cell(row, column)
    cell.value, cell.number_format = formula, _FORMATS[unit]
    cell.alignment = Alignment(horizontal="right")
    if bold:
        cell.font = _BOLD


class Book:
    """The workbook as it is written: where each figure stands, by its key."""

    def __init__(self, found: Computed, title: str) -> None:
        self.found, self.title = found, title
        self.book = Workbook()
        self.addresses: dict[str, str] = {}
        self.pages = {INPUT_PAGE: self.book.active, FIGURE_PAGE: self.book.create_sheet(FIGURE_PAGE)}
        self.pages[INPUT_PAGE].title = INPUT_PAGE

    def address(self, cell: Cell) -> str:
        return self.addresses[cell.key]

    def page(self, name: str) -> Page:
        self.pages[name] = self.book.create_sheet(name)
        return self.pages[name]

    def _place(self, cell: Cell, page: str, row: int, column: int = 2) -> None:
        self.addresses[cell.key] = (
            f"'{page}'!{get_column_letter(column)}{row}" if " " in page else f"{page}!{get_column_letter(column)}{row}"
        )

    def _of_years(self) -> dict[str, list[tuple[int, int, Cell]]]:
        """Return, by the page of each projection, its cells with their rows and columns."""
        pages = {}
        for exit_, projection in self.found.figures.projections.items():
            cells = [
                (row, column, cell)
                for row, (_, every) in enumerate(projection.rows, 4)
                for column, cell in enumerate(every, 2)
                if cell is not None
            ]
            pages[f"Years {exit_.label}"[:31]] = cells
        return pages

    def write(self) -> bytes:
        every = {cell.key: cell for cell in (*self.found.figures.sheet.cells.values(), *self._of_seller())}
        years = self._of_years()
        in_years = {cell.key for cells in years.values() for _, _, cell in cells}
        inputs = [cell for cell in every.values() if cell.is_input]
        figures = [cell for cell in every.values() if not cell.is_input and cell.key not in in_years]
        for row, cell in enumerate(inputs, 4):
            self._place(cell, INPUT_PAGE, row)
        for row, cell in enumerate(figures, 4):
            self._place(cell, FIGURE_PAGE, row)
        for name, cells in years.items():
            for row, column, cell in cells:
                self._place(cell, name, row, column)
        self._write_inputs(inputs)
        self._write_figures(figures)
        self._write_exits()
        self._write_years(years)
        self._write_seller()
        out = BytesIO()
        self.book.save(out)
        return out.getvalue()

    def _of_seller(self) -> Iterator[Cell]:
        for line in self.found.seller.lines:
            yield line.cell
            yield from (part for part in line.parts if isinstance(part, Cell))

    def _head(self, page: Page, title: str, columns: tuple[str, ...], widths: tuple[int, ...]) -> None:
        _write(page, 1, 1, f"{self.title}: {title}", bold=True)
        for column, (text, width) in enumerate(zip(columns, widths, strict=True), 1):
            _write(page, 3, column, text, bold=True)
            page.column_dimensions[get_column_letter(column)].width = width
        page.freeze_panes = "A4"

    def _write_inputs(self, cells: list[Cell]) -> None:
        page = self.pages[INPUT_PAGE]
        self._head(page, "inputs", ("Input", "Value", "Whose word", "From", "Meaning"), (44, 16, 14, 44, 60))
        for row, cell in enumerate(cells, 4):
            given = self.found.figures.given.get(cell.key)
            value = self.found.seller.values.number(cell) if cell.key.startswith("payoff.") else self.found.figures.number(cell)
            _write(page, row, 1, cell.label)
            # An empty cell would count as 0.
            _write(page, row, 2, NOT_KNOWN if value is None else value, cell.unit)
            _write(page, row, 3, str(given.origin) if given else str(Origin.YOURS) if cell.key.startswith(("unit.", "repair.")) else "")
            doubts = self.found.doubts_about_value if cell.key == "arv" else ()
            _write(page, row, 4, ". ".join((given.said, *doubts)) if given else "")
            _write(page, row, 5, INPUTS[cell.key].meaning if cell.key in INPUTS else "")

    def _write_figures(self, cells: list[Cell]) -> None:
        page = self.pages[FIGURE_PAGE]
        self._head(page, "figures", ("Figure", "Value"), (60, 18))
        for row, cell in enumerate(cells, 4):
            assert cell.expression is not None
            _write(page, row, 1, cell.label)
            _formula(page, row, 2, formula_of(cell.expression, self.address), cell.unit)

    def _write_exits(self) -> None:
        for one in self.found.figures.exits:
            page = self.page(one.exit.label)
            self._head(page, one.exit.label, ("", "Out", "In"), (46, 16, 16))
            row = 4
            for line in one.lines:
                _write(page, row, 1, line.cell.label, bold=line.side == "sum")
                _formula(page, row, 2 if line.side == "out" else 3, f"={self.address(line.cell)}", line.cell.unit, bold=line.side == "sum")
                row += 1
            row += 1
            for cell in (one.main, *one.results):
                _write(page, row, 1, cell.label, bold=cell is one.main)
                _formula(page, row, 3, f"={self.address(cell)}", cell.unit, bold=cell is one.main)
                row += 1
            for goal in one.goals:
                price = self.found.figures.solved(goal.gap, "price")
                _write(page, row, 1, f"price for {goal.words} wanted, solved when this was written")
                _write(page, row, 3, "none" if price is None else price, FigureUnit.MONEY)
                row += 1

    def _write_years(self, years: dict[str, list[tuple[int, int, Cell]]]) -> None:
        for (name, cells), projection in zip(years.items(), self.found.figures.projections.values(), strict=True):
            page = self.page(name)
            self._head(page, f"{projection.exit.label}, year by year", ("Year",), (34,))
            for year in range(projection.years + 1):
                _write(page, 3, year + 2, year, FigureUnit.COUNT, bold=True)
                page.column_dimensions[get_column_letter(year + 2)].width = 13
            for row, (label, _) in enumerate(projection.rows, 4):
                _write(page, row, 1, label)
            for row, column, cell in cells:
                assert cell.expression is not None
                _formula(page, row, column, formula_of(cell.expression, self.address), cell.unit)
            last = 5 + len(projection.rows)
            for row, cell in enumerate((projection.rate, projection.worth), last):
                _write(page, row, 1, cell.label, bold=True)
                _formula(page, row, 2, f"={self.address(cell)}", cell.unit, bold=True)

    def _write_seller(self) -> None:
        page = self.page(SELLER_PAGE)
        self._head(page, "what the seller walks away with", ("", "Out", "In"), (60, 16, 16))
        for row, line in enumerate(self.found.seller.lines, 4):
            _write(page, row, 1, line.cell.label, bold=line.side == "sum")
            _formula(page, row, 2 if line.side == "out" else 3, f"={self.address(line.cell)}", line.cell.unit, bold=line.side == "sum")


def spreadsheet_of(found: Computed, title: str) -> bytes:
    """Return a worksheet as an Office Open XML workbook."""
    return Book(found, title).write()
