"""Prices by hour as people paste them: with headings, dates, decimal commas, by month or by year."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from noontide.core.calendar import Calendar
from noontide.core.money import Tariff, bill
from noontide.core.money.price_table import read_price_table

PRICES = st.decimals(min_value="-9", max_value="99", places=4)
DAY = [round(0.1 + hour / 1000, 3) for hour in range(24)]


@given(st.lists(PRICES, min_size=24, max_size=24), st.sampled_from("\t;"), st.booleans(), st.booleans(), st.booleans())
def test_a_day_is_read_in_every_dress(prices, delimiter, decimal_comma, with_hour, headed):
    cells = [str(price).replace(".", ",") if decimal_comma else str(price) for price in prices]
    rows = [f"{hour}{delimiter}{cell}" if with_hour else cell for hour, cell in enumerate(cells)]
    head = [f"Hour{delimiter}Price" if with_hour else "Price"] if headed else []
    assert read_price_table("\r\n".join(head + rows) + "\n\n") == tuple(float(price) for price in prices)


@pytest.mark.parametrize("first", [0, 1])
def test_a_comma_after_counted_hours_divides_cells_and_else_is_decimal(first):
    assert read_price_table("\n".join(f"{hour + first},{hour + 20}" for hour in range(24))) == tuple(range(20, 44))
    assert read_price_table("\n".join(f"0,{hour + 20}" for hour in range(24))) == pytest.approx(
        [(h + 20) / 100 for h in range(24)]
    )


@pytest.mark.parametrize("headed", [False, True])
@pytest.mark.parametrize("named", [False, True])
def test_months_stand_in_rows_or_in_columns(headed, named):
    table = np.round(np.random.default_rng(3).uniform(0, 1, (12, 24)), 4)

    def text(values):
        rows = ["\t".join(([f"row {n}"] if named else []) + [str(v) for v in row]) for n, row in enumerate(values)]
        counted = [str(n) for n in range(1, values.shape[1] + 1)]
        return "\n".join((["\t".join(([""] if named else []) + counted)] if headed else []) + rows)

    assert read_price_table(text(table)) == tuple(table.ravel())
    assert read_price_table(text(table.T)) == tuple(table.ravel())


def test_a_year_by_hour_or_by_day():
    year = np.round(np.random.default_rng(4).uniform(-50, 300, 8760), 2)
    stamps = np.arange("2023-01-01T00", "2024-01-01T00", dtype="datetime64[h]")
    by_hour = "Start,Price\n" + "\n".join(f"{stamp},{price}" for stamp, price in zip(stamps, year, strict=True))
    by_day = "\n".join(";".join(map(str, day)) for day in year.reshape(365, 24))
    assert read_price_table(by_hour) == tuple(year) == read_price_table(by_day)
    assert read_price_table(by_hour, "MWh") == pytest.approx(year / 1000)


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "no price"),
        ("Price\n", "no price"),
        ("\n".join(["0.1"] * 23), "There are 23 prices"),
        ("\n".join(["0.1"] * 12 + ["n/a"] + ["0.1"] * 11), "Row 13: 'n/a' is no price"),
        ("Price\n" + "\n".join(["0.1;"] * 24), "Row 2: the price is missing"),
        ("\n".join(["0.1"] * 23 + ["nan"]), "'nan' is no price"),
        ("\n".join(["0.1"] * 23 + ["1e999"]), "'1e999' is no price"),
    ],
)
def test_what_is_no_table_of_prices_is_refused_with_its_row(text, words):
    with pytest.raises(ValueError, match=words):
        read_price_table(text)


@pytest.mark.parametrize(("of", "on"), [(2023, 2024), (2024, 2023), (2023, 2023), (2024, 2024)])
@pytest.mark.parametrize("step", [60, 15])
def test_a_year_of_prices_stays_on_its_dates_in_a_calendar_of_the_other_length(of, on, step):
    """The price of each hour tells its month and day; energy of one day must cost that day's price, whatever the years' lengths."""
    stamps = np.arange(f"{of}-01-01T00", f"{of + 1}-01-01T00", dtype="datetime64[h]")
    months = stamps.astype("datetime64[M]").astype(int) % 12 + 1
    days = (stamps.astype("datetime64[D]") - stamps.astype("datetime64[M]")).astype(int) + 1
    tariff = Tariff.model_validate({"energy": {"table": list(months + days / 100)}})
    calendar = Calendar(year=on, step=step)
    for month, day in ((1, 1), (2, 28), (3, 1), (7, 14), (12, 31)):
        taken = np.where(calendar.local_starts.astype("datetime64[D]") == np.datetime64(f"{on}-{month:02d}-{day:02d}"), 1.0, 0.0)
        total = bill(tariff, taken, np.zeros(calendar.intervals), calendar).total
        assert total == pytest.approx(taken.sum() * (month + day / 100), abs=0.005)
