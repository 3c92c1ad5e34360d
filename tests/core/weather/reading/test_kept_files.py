"""Awkward files that are kept in tests/data/weather, each read step by step: all hold the same year, written in six ways."""

import lzma
from pathlib import Path

import numpy as np
import pytest

from noontide.core.weather import parse, reading_of
from noontide.core.weather.reading.preamble import preamble_of

FOLDER = Path(__file__).parents[3] / "data" / "weather"
SUM, MEAN_TEMPERATURE, HIGHEST_HOUR = 1480.2, 10.55, 12  # kWh/m2, °C, of the clock UTC+1


def opened(name: str):
    content = lzma.decompress((FOLDER / f"{name}.xz").read_bytes())
    return content, reading_of(content, Path(name).stem)


# Name, intervals, offset, stamps, and a part of the reading that is hard: column roles in order, daylight saving, typical, elevation.
FILES = [
    ("hohenweiler.txt", 8760, 1, "end", ["date", "hour", "ghi", "dhi", "temperature", "wind"], "", False),
    ("mast-7.tsv", 8760, 0, "middle", ["stamp", "dni", "ghi", "temperature"], "", False),
    ("ranch-log.csv", 8760, 1, "start", ["date", "clock", "ghi", "temperature", "wind"], "", False),
    ("swapped.csv", 8760, 1, "start", ["stamp", "dni", "ghi", "dhi", "temperature"], "", False),
    ("typical-hill-farm.csv", 8760, 1, "start", ["year", "month", "day", "hour", "ghi", "temperature"], "", True),
    ("nordkai.txt", 35040, 1, "start", ["stamp", "ghi", "temperature"], "Europe/Rome", False),
]


def test_every_kept_file_is_tried():
    assert {path.name.removesuffix(".xz") for path in FOLDER.glob("*.xz")} == {name for name, *_ in FILES}


@pytest.mark.parametrize(
    ("name", "intervals", "offset", "stamps", "roles", "summer", "typical"), FILES, ids=[f[0] for f in FILES]
)
def test_a_kept_file_is_read_step_by_step(name, intervals, offset, stamps, roles, summer, typical):
    content, reading = opened(name)
    assert [c.role for c in reading.columns if c.role] == roles
    assert (reading.utc_offset, reading.stamps, reading.daylight_saving, reading.is_typical) == (offset, stamps, summer, typical)
    assert reading.proposed_shift is None
    weather = parse(content, name, reading)
    assert (weather.calendar.intervals, weather.calendar.utc_offset) == (intervals, offset)
    place = weather.place
    assert (place.latitude, place.longitude, place.elevation) == pytest.approx((43.62, 11.31, 412), abs=0.1)
    assert weather.ghi.sum() * weather.calendar.hours_per_interval / 1000 == pytest.approx(SUM, rel=1e-3)
    by_hour = weather.ghi.reshape(weather.calendar.days, 24, -1).mean(axis=(0, 2))
    assert by_hour.argmax() == HIGHEST_HOUR - 1 + offset
    # Nights are left out of one file: their temperature is not known, and lies between those of the days.
    assert weather.temperature.mean() == pytest.approx(MEAN_TEMPERATURE, abs=2 if name == "mast-7.tsv" else 0.02)


def test_missing_codes_are_filled_and_marked():
    content, reading = opened("mast-7.tsv")
    assert reading.missing == [-999]
    weather = parse(content, "mast", reading)
    assert np.count_nonzero(weather.flags) >= 3
    assert weather.ghi.min() == 0


@pytest.mark.parametrize(
    ("line", "latitude", "longitude", "elevation"),
    [
        ("place: harbour mast 43.62 N 11.31 E 412 m", 43.62, 11.31, 412),
        ("Mast at 43°37'12\"N, 11°18'36\"W", 43.62, -11.31, None),
        ("43,62° S / 170,5° O, 6 m", -43.62, 170.5, 6),
        ('"Lat","43.62","Lon","11.31","Elev (ft)","1352"', 43.62, 11.31, 412.1),
        ("elevation 1352 ft; latitude 43.62; longitude 11.31", 43.62, 11.31, 412.1),
        ("wind from 12 N 3 times", None, None, None),
    ],
)
def test_places_in_a_preamble(line, latitude, longitude, elevation):
    found = preamble_of([(1, line)])
    for value, wanted in ((found.latitude, latitude), (found.longitude, longitude), (found.elevation, elevation)):
        assert (value and value[0]) == (pytest.approx(wanted, abs=0.1) if wanted is not None else None)
