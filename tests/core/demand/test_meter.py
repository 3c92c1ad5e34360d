"""The account at the meter closes in every interval, whatever is made and used."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays

from noontide.core.calendar import Calendar
from noontide.core.demand.meter import at_the_meter

YEAR = Calendar(2026, 60)
day = arrays(float, 24, elements=st.floats(-5, 50))
use = arrays(float, 24, elements=st.floats(0, 50))


def test_a_day_by_hand():
    """8 kW at noon on 2 kW all day, 0.1 kW of the inverter at night."""
    plant = np.tile(np.where(np.arange(24) == 12, 8.0, -0.1), 365)
    found = at_the_meter(plant, np.full(8760, 2.0), YEAR)
    assert found.direct.sum() == pytest.approx(365 * 2) and found.exported.sum() == pytest.approx(365 * 6)
    assert found.imported.sum() == pytest.approx(365 * 23 * 2.1)
    assert found.self_consumption == pytest.approx(2 / 8)
    assert found.self_sufficiency == pytest.approx(2 / (48 + 2.3))
    assert found.hours_met == pytest.approx(1 / 24)


@given(day, use)
def test_the_account_closes(plant, demand):
    found = at_the_meter(np.tile(plant, 365), np.tile(demand, 365), YEAR)
    assert found.produced + found.imported == pytest.approx(found.demand + found.own_use + found.exported, abs=1e-9)
    assert ((found.imported == 0) | (found.exported == 0)).all(), "never both at once"
    for part in (found.direct, found.imported, found.exported):
        assert (part >= 0).all()
    assert 0 <= found.self_consumption <= 1 and 0 <= found.self_sufficiency <= 1


def test_without_sun_or_use_there_is_no_share():
    none = at_the_meter(np.zeros(8760), np.zeros(8760), YEAR)
    assert (none.self_consumption, none.self_sufficiency, none.hours_met) == (0, 0, 0)
    for wrong, words in ((np.zeros(5), "8,760 intervals"), (np.full(8760, -1.0), "interval 0 has -1")):
        with pytest.raises(ValueError, match=words):
            at_the_meter(np.zeros(8760), wrong, YEAR)
