import numpy as np
import pytest
from numpy.testing import assert_allclose

from noontide.core.design import Design, merge_patch
from noontide.core.figures.months import table_of_months
from noontide.core.simulation import simulate
from noontide.parts import built_in_parts

PARTS = built_in_parts()


def test_the_table_of_months_sums_to_the_year_and_to_the_headline(roof, hill_weather):
    results = simulate(roof, hill_weather, PARTS)
    table = table_of_months(results)
    assert [row.days for row in table.months] == [31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31]
    assert table.year.days == 365
    for field, whole in (("horizontal", results.annual.horizontal_irradiation), ("plane", results.annual.plane_irradiation)):
        assert sum(getattr(row, field) * row.days for row in table.months) == pytest.approx(whole, rel=1e-9)
        assert getattr(table.year, field) * 365 == pytest.approx(whole, rel=1e-9)
    assert table.year.energy == pytest.approx(results.annual.energy, rel=1e-12)
    assert table.year.specific_yield * 365 == pytest.approx(results.annual.specific_yield, rel=1e-12)
    assert_allclose(table.year.temperature, hill_weather.temperature.mean())


def test_the_worst_month_is_that_of_the_plane_not_of_the_horizontal(roof_document, hill_weather):
    """On a wall to the south, the summer's sun is high and the least light may fall in another month than December."""
    table = table_of_months(
        simulate(Design.read(merge_patch(roof_document, {"surfaces": {"barn": {"tilt": 90, "azimuth": 0}}})), hill_weather, PARTS)
    )
    by_day = [row.plane for row in table.months]
    assert (table.worst, table.best) == (int(np.argmin(by_day)), int(np.argmax(by_day)))
    assert table.months[table.worst].plane < table.months[table.best].plane
