"""The three temperature models tell of one and the same mounting."""

import numpy as np
import pytest

from noontide.core.electrical.temperature import HEAT_LOSS, KING, NOCT_RISE, faiman, king, noct_model
from tests.conftest import simulated_weather

PLACES = {"temperate": (51.3, -2.4, 60), "mediterranean": (43.62, 11.31, 412), "desert": (24.0, 30.0, 200)}
WIND_AT_ARRAY = 0.7


@pytest.mark.parametrize("mounting", sorted(HEAT_LOSS))
@pytest.mark.parametrize("place", sorted(PLACES))
def test_models_agree_within_three_kelvin_over_a_year_of_light(mounting, place):
    weather = simulated_weather(*PLACES[place], 1)
    light, air, wind = weather.ghi, weather.temperature, weather.wind  # King's wind is that at 10 m.
    means = [
        np.average(celsius, weights=light)
        for celsius in (
            faiman(light, air, WIND_AT_ARRAY * wind, *HEAT_LOSS[mounting]),
            noct_model(light, air, 45.0 + NOCT_RISE[mounting], 0.2),
            king(light, air, wind, *KING[mounting]),
        )
    ]
    assert max(means) - min(means) < 3.0, [round(m, 1) for m in means]


@pytest.mark.parametrize("model", ["faiman", "noct", "king"])
def test_the_closer_the_mounting_the_warmer_the_cells(model):
    at = {
        "faiman": lambda m: faiman(800.0, 20.0, 2.0, *HEAT_LOSS[m]),
        "noct": lambda m: noct_model(800.0, 20.0, 45.0 + NOCT_RISE[m], 0.2),
        "king": lambda m: king(800.0, 20.0, 2.0, *KING[m]),
    }[model]
    celsius = [float(at(m)) for m in ("open rack", "roof, ventilated", "roof, flush", "integrated")]
    assert celsius == sorted(celsius)
    assert celsius[-1] - celsius[0] > 8
