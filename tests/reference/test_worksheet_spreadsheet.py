"""A worksheet's spreadsheet, computed by LibreOffice: every formula gives the figure that the page shows."""

from __future__ import annotations

import subprocess
import tempfile
from pathlib import Path
from typing import Any

from openpyxl import load_workbook

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.deals.inputs import Exit
from jaded_ledger.core.deals.worksheet import worksheet_from_json
from jaded_ledger.records.models import Parcel, ParcelFacts
from jaded_ledger.worksheets.computed import Computed, computed
from jaded_ledger.worksheets.spreadsheet import Book
from tests.support.demo import DemoTestCase
from tests.support.tiers import thorough

EVERY_EXIT = [str(one) for one in Exit]


@thorough
class ComputedElsewhere(DemoTestCase):
    """LibreOffice, which opens the file as anybody would, and writes what its formulas come to."""

    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        cls.scope = Scope(cls.scope.team, cls.user, cls.scope.today)

    def parcel(self, number: str) -> Parcel:
        return Parcel.objects.select_related("county").get(number=number)

    def books(self) -> list[tuple[str, Computed]]:
        house, land = (
            self.parcel("100-071-05"),
            ParcelFacts.objects.filter(raw_land=True, frontage__isnull=False).order_by("pk").first().parcel,
        )
        units = [
            {"name": "=1+1", "rent": 700, "market": 800, "leaves": 2, "subsidy": 820, "standard": 900, "value": 90_000},
            {"name": "upper", "rent": 0, "market": 750, "subsidy": 760},
        ]
        said: dict[str, tuple[Parcel, dict[str, Any]]] = {
            "as recorded": (house, {"exits": EVERY_EXIT}),
            "by items, at market": (house, {
                "exits": EVERY_EXIT, "units": units, "rents": "market", "repairs-by": "items",
                "repairs": [{"what": "Kitchen", "amount": 12_000, "bids": [{"by": "A", "amount": 9_000}], "taken": 1}],
                "systems": [{"kind": "roof", "is-replaced": True}],
                "inputs": {"mortgage.interest-only": 3, "mortgage-second.share": 10, "seller.share": 5, "hold.years": 30},
            }),
            "odd": (house, {
                "exits": EVERY_EXIT, "units": units, "rents": "subsidy",
                "inputs": {"mortgage.rate": 0, "bridge.share": 0, "rental.vacancy": 100, "refinance.years": 0, "hold.years": 1, "arv": 0,
                           "selling-costs": 100, "price": 0},
            }),
            "unknown": (land, {"exits": EVERY_EXIT}),
        }  # fmt: skip
        return [(name, computed(worksheet_from_json(content), parcel, self.scope)) for name, (parcel, content) in said.items()]

    def test_every_formula_gives_the_figure_of_the_page(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            written = {}
            for place, (name, found) in enumerate(self.books()):
                book = Book(found, name)
                (Path(folder) / f"{place}.xlsx").write_bytes(book.write())
                written[name] = (place, found, book.addresses)
            files = [str(Path(folder) / f"{place}.xlsx") for place, _, _ in written.values()]
            subprocess.run(
                ["/usr/bin/soffice", f"-env:UserInstallation=file://{folder}/office", "--headless", "--convert-to",
                 "xlsx:Calc MS Excel 2007 XML", "--outdir", f"{folder}/out", *files],
                check=True, capture_output=True, timeout=180,
            )  # fmt: skip
            for name, (place, found, addresses) in written.items():
                with self.subTest(name):
                    self._compare(load_workbook(Path(folder) / "out" / f"{place}.xlsx", data_only=True), found, addresses)

    def _compare(self, book: Any, found: Computed, addresses: dict[str, str]) -> None:
        cells = {cell.key: cell for cell in found.figures.sheet.cells.values()}
        told = 0
        for key, address in addresses.items():
            page, _, at = address.replace("'", "").partition("!")
            value = book[page][at].value
            figure = found.figures.number(cells[key]) if key in cells else self._of_seller(found, key)
            if figure is None:
                self.assertIn(value, ("not known", "not defined"), key)
                continue
            self.assertIsInstance(value, int | float, (key, value))
            self.assertAlmostEqual(value, figure, delta=1e-6 * max(1.0, abs(figure)), msg=key)
            told += 1
        self.assertGreater(told, 60)

    def _of_seller(self, found: Computed, key: str) -> float | None:
        parts = [part for line in found.seller.lines for part in (line.cell, *line.parts) if not isinstance(part, str)]
        return found.seller.values.number(next(part for part in parts if part.key == key))
