"""How the facts of a weather year come about: equation, inputs, the months."""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from noontide.core.calendar import MONTHS
from noontide.core.sun import extraterrestrial_normal, interval_sun
from noontide.core.weather.statistics import summarise
from noontide.core.weather.year import Weather
from noontide.core.working import Input, Working

Floats = NDArray[np.float64]
NAMES = {"ghi": "Global horizontal (GHI)", "dni": "Direct normal (DNI)", "dhi": "Diffuse horizontal (DHI)"}
DERIVED = {
    "ghi": "derived: DNI cos(zenith) + DHI",
    "dni": "derived, see the import notes",
    "dhi": "derived, see the import notes",
    "wind": "missing in the file: 2 m/s",
}
SUMS = "IEC 61724-1:2021, irradiation as the integral of irradiance over the period"


def weather_working(weather: Weather, key: str) -> Working:
    """The working of a fact of the year.

    Parameters
    ----------
    key : str
        One of `FACTS`.

    Raises
    ------
    KeyError
        If there is no such fact.
    """
    return FACTS[key](weather)


def _irradiation(key: str) -> Callable[[Weather], Working]:
    def make(weather: Weather) -> Working:
        c = weather.calendar
        values: Floats = getattr(weather, key)
        monthly = c.monthly_sums(values) * c.hours_per_interval / 1000
        return Working(
            key,
            f"{NAMES[key]} a year",
            float(monthly.sum()),
            "kWh/m²",
            r"H = \sum_i G_i\,\Delta t",
            (
                Input("G_i", f"{key.upper()} of each interval, highest", float(values.max()), "W/m²", _origin(weather, key)),
                Input(r"\Delta t", "length of an interval", c.step, "min", "the file's step"),
                Input("n", "intervals", c.intervals, "", "the file's calendar"),
            ),
            SUMS,
            _months(monthly, "kWh/m²"),
        )

    return make


def _clearness(weather: Weather) -> Working:
    c, place = weather.calendar, weather.place
    sun = interval_sun(c, place.latitude, place.longitude, place.elevation)
    above = np.zeros(c.intervals)
    above[sun.interval_index] = extraterrestrial_normal(sun.distance) * sun.cos_zenith * sun.lit_fraction
    outside, ground = (c.monthly_sums(values) * c.hours_per_interval / 1000 for values in (above, weather.ghi))
    monthly = np.divide(ground, outside, out=np.full(12, np.nan), where=outside > 0)
    return Working(
        "clearness",
        "Clearness of the year",
        float(ground.sum() / outside.sum()),
        "",
        r"K_t = \frac{\sum G}{\sum G_0 \cos z}",
        (
            Input(r"\sum G", "irradiation on the horizontal", float(ground.sum()), "kWh/m²", _origin(weather, "ghi")),
            Input(r"\sum G_0 \cos z", "the same above the air", float(outside.sum()), "kWh/m²", "sun of each interval, 1361.1 W/m² at 1 au"),
        ),
        "Liu and Jordan (1960), Solar Energy 4, 1-19",
        tuple(step for step in _months(monthly, "") if np.isfinite(float(step.value))),
        note="Months without sun have none.",
    )  # fmt: skip


def _peak_sun_hours(weather: Weather) -> Working:
    c = weather.calendar
    daily = weather.ghi.reshape(c.days, -1).sum(axis=1) * c.hours_per_interval / 1000
    month = c.months.reshape(c.days, -1)[:, 0]
    monthly = np.array([daily[month == m].mean() for m in range(12)])
    worst = int(monthly.argmin())
    return Working(
        "peak_sun_hours",
        "Peak-sun hours a day, mean of the year",
        float(daily.mean()),
        "h",
        r"t_p = \frac{1}{n}\sum_{d=1}^{n} \frac{H_d}{1\,\mathrm{kW/m^2}}",
        (
            Input("H_d", "irradiation of a day on the horizontal, highest", float(daily.max()), "kWh/m²", _origin(weather, "ghi")),
            Input("n", "days", c.days, "", "the file's calendar"),
            Input("t_p", f"in the darkest month, {MONTHS[worst]}", float(monthly[worst]), "h", "mean of the month's days"),
        ),
        "Hours at 1 kW/m² that would give the same irradiation",
        _months(monthly, "h"),
    )  # fmt: skip


def _temperature(weather: Weather) -> Working:
    s = summarise(weather)
    values = weather.temperature
    low, high = np.quantile(values, [0.02, 0.98])
    return Working(
        "temperature",
        "Mean air temperature",
        s.mean_temperature,
        "°C",
        r"\bar T = \frac{1}{n}\sum_i T_i",
        (
            Input(r"T_{\min}", "lowest interval", s.lowest_temperature, "°C", _when(weather, int(values.argmin()))),
            Input(r"T_{\max}", "highest interval", s.highest_temperature, "°C", _when(weather, int(values.argmax()))),
            Input("T_{2}", "below which 2 % of the intervals lie", float(low), "°C", "quantile of all intervals"),
            Input("T_{98}", "above which 2 % of the intervals lie", float(high), "°C", "quantile of all intervals"),
        ),
        "Arithmetic mean of all intervals",
        _months(np.array(s.monthly_temperature), "°C"),
        note="A record of many years is a safer source of the extremes than one year.",
    )


def _wind(weather: Weather) -> Working:
    c, values = weather.calendar, weather.wind
    monthly = c.monthly_sums(values) / c.monthly_sums(np.ones(c.intervals))
    return Working(
        "wind",
        "Mean wind at 10 m",
        float(values.mean()),
        "m/s",
        r"\bar v = \frac{1}{n}\sum_i v_i",
        (
            Input("v_i", "highest interval", float(values.max()), "m/s", _origin(weather, "wind")),
            Input("n", "intervals", c.intervals, "", "the file's calendar"),
        ),
        "Arithmetic mean of all intervals",
        _months(monthly, "m/s"),
    )


def _months(values: Floats, unit: str) -> tuple[Input, ...]:
    return tuple(
        Input("", month, float(value), unit, "the month's intervals") for month, value in zip(MONTHS, values, strict=True)
    )


def _origin(weather: Weather, key: str) -> str:
    return f"the file: {weather.title}" if key in weather.given else DERIVED[key]


def _when(weather: Weather, interval: int) -> str:
    moment = weather.calendar.local_starts[interval].item()
    return f"{moment.day} {MONTHS[moment.month - 1]}, {moment:%H:%M}"


FACTS: dict[str, Callable[[Weather], Working]] = {
    **{key: _irradiation(key) for key in NAMES},
    "clearness": _clearness,
    "peak_sun_hours": _peak_sun_hours,
    "temperature": _temperature,
    "wind": _wind,
}
