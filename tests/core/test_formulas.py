"""Figures as formulas of a spreadsheet. What they compute, LibreOffice is asked in ``tests/reference/test_worksheet_spreadsheet``."""

from __future__ import annotations

import unittest

from jaded_ledger.core.deals.expressions import (
    Binary,
    Cell,
    Expression,
    FigureUnit,
    Number,
    above,
    call,
    least,
    most,
    percent,
    share,
    where,
)
from jaded_ledger.core.deals.formulas import formula_of


def cell(key: str) -> Cell:
    return Cell(key, key, FigureUnit.MONEY)


A, B, C = cell("A1"), cell("B1"), cell("C1")


def written(expression: Expression) -> str:
    """Return a formula without what says that a figure is not defined; a cell's address is its key."""
    text = formula_of(expression, lambda one: one.key)
    assert text.startswith("=IFERROR(") and text.endswith(',"not defined")')
    return text.removeprefix("=IFERROR(").removesuffix(',"not defined")')


class Formulas(unittest.TestCase):
    def test_arithmetic_has_the_parentheses_that_it_needs_and_no_others(self) -> None:
        for expression, text in (
            (A + B * C, "A1+B1*C1"), ((A + B) * C, "(A1+B1)*C1"), (A - (B - C), "A1-(B1-C1)"), (A - B - C, "A1-B1-C1"),
            (A / (B / C), "A1/(B1/C1)"), (A / B / C, "A1/B1/C1"), (A * (B * C), "A1*B1*C1"), (A - (B + C), "A1-(B1+C1)"),
            (A + (B - C), "A1+B1-C1"), (Number(0.1) * A, "0.1*A1"), (Number(1e15) + A, "1e+15+A1"), (A, "A1"),
        ):  # fmt: skip
            with self.subTest(text):
                self.assertEqual(written(expression), text)

    def test_functions(self) -> None:
        for expression, text in (
            (share(A), "(A1/100)"), (share(A + B), "((A1+B1)/100)"), (percent(A, B), "(100*A1/IF(B1>0,B1,NA()))"),
            (least(A, B), "MIN(A1+0,B1+0)"), (most(A, Number(0)), "MAX(A1+0,0+0)"), (above(A, B), "IF(A1-B1>0,1,0)"),
            (where(above(A, B), A, B - C), "IF(IF(A1-B1>0,1,0)>0,A1,(B1-C1))"),
            (call("payment", A, B, C), "-PMT(B1/1200,C1,A1)"), (call("floor", A / B), "ROUNDDOWN((A1/B1)+0.000000001,0)"),
            (share(A) * B, "(A1/100)*B1"),
        ):  # fmt: skip
            with self.subTest(text):
                self.assertEqual(written(expression), text)

    def test_flows_stand_in_rows(self) -> None:
        flows = [Cell(f"Years!{column}2", "", FigureUnit.MONEY) for column in "BCD"]
        totals = [Cell(f"Years!{column}3", "", FigureUnit.MONEY) for column in "BCD"]
        self.assertEqual(
            written(call("npv", A, *flows)), "(Years!B2+IF(COUNT(Years!C2:D2)=2,NPV(A1/100,Years!C2:D2),NA()))"
        )  # fmt: skip
        changes = [
            f"SUMPRODUCT((Years!B{row}:C{row}<0)*(Years!C{row}:D{row}>=0)+(Years!B{row}:C{row}>=0)*(Years!C{row}:D{row}<0))"
            for row in (2, 3)
        ]
        self.assertEqual(
            written(call("irr", *flows, *totals)),
            f"(100*IF(AND(COUNT(Years!B2:D2)=3,OR({changes[0]}=1,{changes[1]}=1)),IRR(Years!B2:D2),NA()))",
        )

    def test_what_is_no_expression_is_not_written(self) -> None:
        class Other(Expression):
            pass

        with self.assertRaisesRegex(TypeError, "can't be written"):
            formula_of(Other(), lambda one: one.key)
        self.assertEqual(written(Binary("+", A, B)), "A1+B1")
