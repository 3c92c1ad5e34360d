"""A simulated meter: a year of a made-up dairy every quarter of an hour, as the meter's own file has it."""

import datetime
from zoneinfo import ZoneInfo

import numpy as np

SEED = 20250101


def dairy_file(time_zone: str = "Europe/Rome", year: int = 2025) -> bytes:
    """A table of energies on the local clock with its daylight saving time: milking morning and evening, cheese on weekdays, a cold store."""
    zone = ZoneInfo(time_zone)
    start, end = (datetime.datetime(y, 1, 1, tzinfo=zone).astimezone(datetime.UTC) for y in (year, year + 1))
    count = round((end - start).total_seconds() / 900)
    clock = [(start + datetime.timedelta(minutes=15 * k)).astimezone(zone) for k in range(count)]
    hour = np.array([c.hour + c.minute / 60 for c in clock])
    weekday = np.array([c.weekday() for c in clock])
    day = np.array([c.timetuple().tm_yday for c in clock])
    rng = np.random.default_rng(SEED)
    summer = 0.5 - 0.5 * np.cos(2 * np.pi * (day - 15) / 365)  # 0 in January, 1 in July
    power = 4.2 + 3.4 * summer + 1.1 * np.sin(np.pi * np.clip((hour - 6) / 14, 0, 1)) * summer  # cold store
    power += 14.5 * _bump(hour, 5.0, 7.5) + 13.0 * _bump(hour, 16.5, 19.0)  # vacuum pumps
    power += 6.3 * _bump(hour, 5.5, 9.5) + 6.0 * _bump(hour, 17.0, 21.0)  # milk tank
    power += 9.0 * _bump(hour, 7.5, 8.75)  # washing
    power += (weekday < 5) * 12.5 * _bump(hour, 8.5, 12.75)  # cheese kettles
    # Compressors switch on and off; some mornings everything starts at once.
    power *= 1 + 0.10 * rng.standard_normal(count)
    late = rng.random(count // 96 + 2)[np.arange(count) // 96] > 0.965
    power += 9.0 * late * _bump(hour, 6.0, 6.5)
    lines = ["Dairy meter 4-17;;", "Start;Energy (kWh);Status"]
    lines += [
        f"{c:%d.%m.%Y %H:%M};{max(p, 0.4) / 4:.3f};ok".replace(".", ",").replace(f"{c:%d,%m,%Y}", f"{c:%d.%m.%Y}")
        for c, p in zip(clock, power, strict=True)
    ]
    return "\r\n".join(lines).encode()


def _bump(hour: np.ndarray, first: float, last: float) -> np.ndarray:
    """One between two hours, with edges of a quarter of an hour."""
    return np.clip((hour - first) * 4 + 1, 0, 1) * np.clip((last - hour) * 4, 0, 1)
