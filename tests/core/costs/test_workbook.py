"""The workbook: its formulas, counted as a spreadsheet counts them, come to the figures of the design."""

import io
import re

import openpyxl
import pytest

from noontide.core.cells import Formula, Table, as_workbook, column_name
from noontide.core.costs.bill import bill_of
from noontide.core.costs.economics import cash_year_by_year
from noontide.core.costs.workbook import bill_as_xlsx, money_workbook
from noontide.core.design import Design
from noontide.core.simulation import simulate
from noontide.tariffs import built_in_tariffs

REF = re.compile(r"\$?([A-Z]+)\$?(\d+)(?::\$?([A-Z]+)\$?(\d+))?")


class Counted:
    """Just so much of a spreadsheet as a workbook of ours uses: products, quotients, powers, SUM, ROUND and IRR."""

    def __init__(self, sheet):
        self.sheet = sheet

    def value(self, place: str) -> float:
        cell = self.sheet[place].value
        return self.formula(cell[1:]) if isinstance(cell, str) and cell.startswith("=") else cell

    def formula(self, text: str) -> float:
        def replaced(found: re.Match) -> str:
            if found[3] is None:
                return f"v('{found[1]}{found[2]}')"
            cells = [cell.coordinate for row in self.sheet[found[0].replace("$", "")] for cell in row]
            return "[" + ", ".join(f"v('{place}')" for place in cells) + "]"

        names = {
            "v": self.value,
            "SUM": lambda some: sum(x for x in some if isinstance(x, int | float)),
            "ROUND": round,
            "IRR": self.irr,
        }
        return eval(REF.sub(replaced, text).replace("^", "**"), {"__builtins__": {}}, names)

    @staticmethod
    def irr(flows: list[float], guess: float) -> float:
        rate = guess
        for _ in range(50):
            value = sum(f / (1 + rate) ** t for t, f in enumerate(flows))
            slope = sum(-t * f / (1 + rate) ** (t + 1) for t, f in enumerate(flows))
            rate -= value / slope
        return rate


@pytest.fixture(scope="module")
def counted(hill_weather, parts):
    from tests.conftest import SOUTH_ROOF

    money = {
        "currency": "EUR", "years": 20, "interest": 3.5, "tariff": next(iter(built_in_tariffs().values())).model_dump(mode="json", exclude_unset=True),
        "costs": {"work": {"name": "=HYPERLINK(1)", "amount": 310, "per": "kW"}, "scaffold": {"name": "Scaffold", "amount": 900, "per": "plant"}},
        "contingency": 5, "purchase_tax": 20,
    }  # fmt: skip
    demand = {"sources": {"house": {"name": "House", "per_area": {"area": 180}}}}
    design = Design.read(SOUTH_ROOF | {"money": money, "demand": demand})
    return simulate(design, hill_weather, parts)


def test_every_formula_comes_to_the_value_that_stands_beside_it(counted):
    content = money_workbook(counted)
    live = openpyxl.load_workbook(io.BytesIO(content))
    kept = openpyxl.load_workbook(io.BytesIO(content), data_only=True)
    formulas = 0
    for sheet in live.worksheets:
        for row in sheet.iter_rows():
            for cell in row:
                if isinstance(cell.value, str) and cell.value.startswith("="):
                    assert cell.data_type == "f"
                    found = Counted(sheet).value(cell.coordinate)
                    assert found == pytest.approx(kept[sheet.title][cell.coordinate].value, rel=1e-9, abs=1e-6), (
                        sheet.title,
                        cell.coordinate,
                    )
                    formulas += 1
    assert formulas > 100
    assert live.sheetnames == ["Purchase", "Bill of materials", "Months", "Demand", "Bill before", "Bill after", "Cash"]


def test_its_ends_are_the_figures_of_the_design(counted):
    book = openpyxl.load_workbook(io.BytesIO(money_workbook(counted)), data_only=True)
    cash = cash_year_by_year(counted)
    ends = {row[0].value: row[1].value for row in book["Cash"].iter_rows()}
    assert ends["Net present value"] == pytest.approx(cash.net_present_value, rel=1e-12)
    assert ends["Rate of return [%]"] == pytest.approx(100 * cash.rate_of_return, rel=1e-12)
    assert book["Purchase"].cell(book["Purchase"].max_row, 5).value == pytest.approx(cash.purchase.estimated)
    assert book["Bill after"].cell(book["Bill after"].max_row, 6).value == pytest.approx(counted.after.bill.total)
    bill = bill_of(counted, counted.library)
    alone = openpyxl.load_workbook(io.BytesIO(bill_as_xlsx(bill)), data_only=True).worksheets[0]
    assert alone.cell(alone.max_row, 9).value == pytest.approx(bill.price)
    assert money_workbook(counted) == money_workbook(counted), "the same design makes the same bytes"


def test_text_is_never_a_formula(counted):
    book = openpyxl.load_workbook(io.BytesIO(money_workbook(counted)))
    names = [row[0] for row in book["Purchase"].iter_rows() if "HYPERLINK" in str(row[0].value)]
    assert names and all(cell.data_type == "s" and cell.value.startswith("'=") for cell in names)
    odd = as_workbook(
        [Table("a/b:c", [["=1+1", "https://noontide.example", float("nan"), Formula("=1+1", 2.0)]]), Table("a b c", [["x"]])]
    )
    sheet = openpyxl.load_workbook(io.BytesIO(odd)).worksheets[0]
    assert [cell.data_type for cell in sheet[1]] == ["s", "s", "n", "f"] and sheet["B1"].hyperlink is None


@pytest.mark.parametrize(("number", "name"), [(0, "A"), (25, "Z"), (26, "AA"), (51, "AZ"), (52, "BA"), (701, "ZZ"), (702, "AAA")])
def test_columns_are_named_as_spreadsheets_do(number, name):
    assert column_name(number) == name
