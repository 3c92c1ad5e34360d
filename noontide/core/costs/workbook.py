"""The money of a scheme as a workbook whose sums are formulas, so that whoever lends on it can follow every figure."""

from itertools import pairwise
from math import isclose

import numpy as np

from noontide.core.behind_meter.demand_picture import DemandPicture, demand_picture
from noontide.core.calendar import MONTHS
from noontide.core.cells import Formula, SheetCell, Table, as_workbook, column_name
from noontide.core.costs.bill import HEADINGS, Bill, bill_of, bill_rows
from noontide.core.costs.economics import cash_year_by_year
from noontide.core.money.billing import Bill as EnergyBill
from noontide.core.money.cash import Cash, Purchase
from noontide.core.simulation.results import Results

TOLERANCE = 1e-9
COUNT, MASS, EACH, PRICE = (HEADINGS.index(heading) for heading in ("count", "mass [kg]", "price each", "price"))


def money_workbook(r: Results) -> bytes:
    """Purchase, materials, energy by month, bills before and after, and cash year by year; only what the design has.

    What is a product, a sum, a present value or a rate of return is a formula with its value beside it for readers that do not
    count; what the hours of the year gave is a number.
    """
    cash = cash_year_by_year(r)
    tables = [_purchase(cash.purchase, r.design.money.currency), materials_table(bill_of(r, r.library)), _months(r)]
    if (demand := demand_picture(r)) is not None:
        tables.append(_demand(demand))
    for title, bill in (("Bill before", r.after.bill_before), ("Bill after", r.after.bill)):
        if bill is not None:
            tables.append(_energy_bill(title, bill))
    return as_workbook([*tables, _cash(cash)])


def bill_as_xlsx(bill: Bill) -> bytes:
    """The bill of materials alone."""
    return as_workbook([materials_table(bill)])


def materials_table(bill: Bill) -> Table:
    """The bill of materials; its prices and their sum are formulas."""
    rows: list[list[SheetCell]] = [list(bill_rows(bill)[0])]
    for number, line in enumerate(bill.lines, start=2):
        price: SheetCell = line.price
        if line.price is not None and line.price_each is not None:
            price = product(line.price, (COUNT, line.count), (EACH, line.price_each), number)
        rows.append([line.kind, line.maker, line.name, line.use, line.count, line.unit, line.mass, line.price_each, price, line.warranty, line.note])  # fmt: skip
    last = len(rows)
    sums = {MASS: bill.mass, PRICE: bill.price}
    missing = f"{bill.without_price} without price" if bill.without_price else ""
    row: list[SheetCell] = ["sum", *([None] * (len(HEADINGS) - 2)), missing]
    for column, value in sums.items():
        row[column] = Formula(f"=SUM({column_name(column)}2:{column_name(column)}{max(last, 2)})", value)
    return Table("Bill of materials", [*rows, row], frozenset({0, last}), 2)


def product(amount: float, one: tuple[int, float], other: tuple[int, float], row: int, decimals: int | None = None) -> SheetCell:
    """The product of two cells of a row as a formula, rounded where amounts are; the amount itself where it is none."""
    (a, x), (b, y) = one, other
    text, found = f"{column_name(a)}{row}*{column_name(b)}{row}", x * y
    if decimals is not None:
        text, found = f"ROUND({text},{decimals})", round(found, decimals)
    return Formula(f"={text}", amount) if isclose(found, amount, rel_tol=TOLERANCE, abs_tol=TOLERANCE) else amount


def _purchase(purchase: Purchase, currency: str) -> Table:
    rows: list[list[SheetCell]] = [["item", "quantity", "unit", f"price [{currency}]", f"amount [{currency}]"]]
    net = 0.0
    for number, line in enumerate(purchase.lines, start=2):
        # Contingency and tax are shares of all that stands above them.
        is_share = line.quantity == net and number > 2 and not line.unit and not line.key
        quantity: SheetCell = Formula(f"=SUM(E2:E{number - 1})", net) if is_share else line.quantity
        rows.append(
            [line.title, quantity, line.unit, line.price, Formula(f"=B{number}*D{number}", line.amount)]
            if isclose(line.quantity * line.price, line.amount, rel_tol=TOLERANCE, abs_tol=TOLERANCE)
            else [line.title, quantity, line.unit, line.price, line.amount]
        )
        net += line.amount
    rows.append(["Estimated", None, "", None, Formula(f"=SUM(E2:E{len(rows)})", purchase.estimated)])
    bold = {0, len(rows) - 1}
    if purchase.own is not None:
        rows.append(["Your own figure, which counts", None, "", None, purchase.own])
        bold.add(len(rows) - 1)
    return Table("Purchase", rows, frozenset(bold), 2)


def _months(r: Results) -> Table:
    """Energy by month at the meter."""
    calendar, metered = r.calendar, r.after.metered
    columns = [
        (title, calendar.monthly_sums(np.broadcast_to(values, calendar.intervals)))
        for title, values in (
            ("used [kWh]", metered.demand),
            ("imported [kWh]", metered.imported),
            ("exported [kWh]", metered.exported),
        )
    ]
    columns = [("delivered by the inverters [kWh]", np.array(r.annual.monthly_energy)), *columns]
    rows: list[list[SheetCell]] = [["month", *(title for title, _ in columns)]]
    rows += [[name, *(float(values[i]) for _, values in columns)] for i, name in enumerate(MONTHS)]
    sums = [Formula(f"=SUM({column_name(j)}2:{column_name(j)}13)", float(v.sum())) for j, (_, v) in enumerate(columns, start=1)]
    return Table("Months", [*rows, ["Year", *sums]], frozenset({0, 13}), 0)


def _demand(picture: DemandPicture) -> Table:
    """Energy of every source by month; the sums both ways are formulas."""
    last = column_name(12)
    rows: list[list[SheetCell]] = [["source [kWh]", *MONTHS, "Year"]]
    for number, source in enumerate(picture.sources, start=2):
        total = Formula(f"=SUM(B{number}:{last}{number})", float(source.monthly.sum()))
        rows.append([source.title, *map(float, source.monthly), total])
    end = len(rows)
    sums = [source.monthly for source in picture.sources]
    by_month = np.sum(sums, axis=0) if sums else np.zeros(12)
    names = [column_name(j) for j in range(1, 14)]
    values = [*by_month, by_month.sum()]
    rows.append(["All", *(Formula(f"=SUM({c}2:{c}{max(end, 2)})", float(v)) for c, v in zip(names, values, strict=True))])
    return Table("Demand", rows, frozenset({0, end}), 0)


def _energy_bill(title: str, bill: EnergyBill) -> Table:
    rows: list[list[SheetCell]] = [["month", "line", "quantity", "unit", "price", f"amount [{bill.currency}]"]]
    for number, line in enumerate(bill.lines, start=2):
        amount = product(line.amount, (2, line.quantity), (4, line.price), number, 2)
        rows.append([MONTHS[line.month], line.title or line.kind, line.quantity, line.unit, line.price, amount])
    rows.append(["Year", "", None, "", None, Formula(f"=SUM(F2:F{len(rows)})", bill.total) if bill.lines else 0.0])
    return Table(title, rows, frozenset({0, len(rows) - 1}), 4)


def _cash(cash: Cash) -> Table:
    """Years across: flows, their sum, the running sum and the present value; under them what comes of it."""
    years = cash.total.size
    last = column_name(years)
    rows: list[list[SheetCell]] = [
        [f"[{cash.money.currency}]", *(f"year {year}" if year else "at once" for year in range(years))]
    ]
    rows += [[title, *map(float, flow)] for title, flow in cash.flows.items()]
    flows_end = len(rows)
    names = [column_name(j) for j in range(1, years + 1)]
    rows.append(["Total", *(Formula(f"=SUM({c}2:{c}{flows_end})", float(v)) for c, v in zip(names, cash.total, strict=True))])
    at = len(rows)
    running = [f"={names[0]}{at}", *(f"={before}{at + 1}+{c}{at}" for before, c in pairwise(names))]
    rows.append(["Running", *map(Formula, running, map(float, cash.running))])
    rate_row = at + 4
    discounts = (1 + cash.rate) ** -np.arange(years)
    present = [
        Formula(f"={c}{at}/(1+$B${rate_row}/100)^{t}", float(v))
        for t, (c, v) in enumerate(zip(names, cash.total * discounts, strict=True))
    ]
    rows += [["Present value", *present], []]
    rows.append(["Interest [%]", 100 * cash.rate])
    rows.append(["Net present value", Formula(f"=SUM(B{at + 2}:{last}{at + 2})", cash.net_present_value)])
    if cash.rate_of_return is not None and len(cash.rates_of_return) == 1:
        # A spreadsheet finds one root from a guess; where there are several it may find another.
        rate = 100 * cash.rate_of_return
        rows.append(["Rate of return [%]", Formula(f"=100*IRR(B{at}:{last}{at},{cash.rate_of_return:.4f})", rate)])
    cost = cash.levelised_cost
    rows.append(["Payback [years]", "never" if cash.payback is None else cash.payback])
    rows.append(["Levelised cost a MWh", "no energy" if cost is None else 1000 * cost])
    return Table("Cash", rows, frozenset({0, at - 1}), 2)
