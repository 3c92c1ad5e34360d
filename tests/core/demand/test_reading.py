"""Files of meters in the ways that they come: each gives the same year of use, or is refused with its place."""

import datetime as dt
import io
import json
from zoneinfo import ZoneInfo

import numpy as np
import pandas as pd
import pytest

from noontide.core.demand import reading
from noontide.core.demand.reading import read, read_use
from noontide.core.weather import WeatherFileError

ROME = ZoneInfo("Europe/Rome")


def rows(step=15, year=2025, zone=ROME):
    """UTC and civil times of a year."""
    start, end = (dt.datetime(y, 1, 1, tzinfo=zone).astimezone(dt.UTC) for y in (year, year + 1))
    moments = [start + dt.timedelta(minutes=step * k) for k in range(round((end - start).total_seconds() / 60 / step))]
    return [(moment, moment.astimezone(zone)) for moment in moments]


def kilowatts(civil) -> float:
    """A use that tells hours, weekdays and days apart."""
    return 1 + 3 * (7 <= civil.hour < 9) + 0.5 * (civil.weekday() < 5) + 0.001 * civil.timetuple().tm_yday


ROWS = rows()
HOURS = rows(60)
YEAR = sum(kilowatts(c) for _, c in ROWS) / 4


def table(heading, line, some=ROWS, end="\n"):
    return (heading + end + end.join(line(u, c) for u, c in some)).encode()


def same_year(content, zone="Europe/Rome", step=15, days=365):
    found = read_use(content, "Meter", None, zone)
    one = found.series
    assert one.step == step
    assert one.power.shape[0] >= days - 1
    day = int((np.datetime64("2025-05-06") - one.dates[0]).astype(int))
    if step <= 60:
        assert one.power[day, 8 * 60 // step] == pytest.approx(4.626, abs=1e-3)  # a Tuesday at 8, in summer time
        assert one.power[day - 100, 8 * 60 // step] == pytest.approx(kilowatts(dt.datetime(2025, 1, 26, 8)), abs=1e-3)
    whole = one.energy * 365 / one.power.shape[0]
    assert whole == pytest.approx(YEAR, rel=2e-3)
    return found


def comma(value, digits=4):
    return f"{value:.{digits}f}".replace(".", ",")


AWKWARD = {
    "power with decimal commas on the civil clock": lambda: table("Time;Power (kW)", lambda u, c: f"{c:%d.%m.%Y %H:%M};{comma(kilowatts(c))}"),
    "energy in UTC": lambda: table("timestamp,energy kWh", lambda u, c: f"{u:%Y-%m-%dT%H:%M:%SZ},{kilowatts(c) / 4:.6f}"),
    "watt-hours with the offset of each row, beside exports": lambda: table("t,import Wh,export Wh", lambda u, c: f"{c.isoformat()},{kilowatts(c) * 250:.3f},{c.hour}"),
    "standard time all year": lambda: table("Start,kWh", lambda u, c: f"{u + dt.timedelta(hours=1):%Y-%m-%d %H:%M},{kilowatts(c) / 4:.6f}"),
    "the end of each interval": lambda: table("Zeit;Verbrauch kWh", lambda u, c: f"{c.replace(tzinfo=None) + dt.timedelta(minutes=15):%d.%m.%Y %H:%M};{comma(kilowatts(c) / 4, 6)}"),
    "the newest first": lambda: table("Start,kWh", lambda u, c: f"{u:%Y-%m-%dT%H:%MZ},{kilowatts(c) / 4:.6f}", ROWS[::-1]),
    "three phases and their sum": lambda: table("t,L1 W,L2 W,L3 W,total W", lambda u, c: f"{c:%Y-%m-%d %H:%M},{kilowatts(c) * 500:.2f},{kilowatts(c) * 300:.2f},{kilowatts(c) * 200:.2f},{kilowatts(c) * 1000:.2f}"),
    "three phases without a sum": lambda: table("t,L1 W,L2 W,L3 W", lambda u, c: f"{c:%Y-%m-%d %H:%M},{kilowatts(c) * 500:.2f},{kilowatts(c) * 300:.2f},{kilowatts(c) * 200:.2f}"),
    "lines above and a sum below": lambda: table("Customer: X\nMeter 12\n\nStart,kWh", lambda u, c: f"{c:%Y-%m-%d %H:%M},{kilowatts(c) / 4:.6f}") + b"\nTotal,15685\n",
    "date and clock apart, with costs and half days": lambda: table("Date,Start Time,End Time,Usage (kWh),Cost", lambda u, c: f"{c:%m/%d/%Y},{c:%I:%M %p},{c + dt.timedelta(minutes=14):%I:%M %p},{kilowatts(c) / 4:.6f},0.10"),
    "megajoules": lambda: table("Start,Energy MJ", lambda u, c: f"{c:%Y-%m-%d %H:%M},{kilowatts(c) / 4 * 3.6:.6f}"),
    "values marked as missing": lambda: table("Start,kWh", lambda u, c: f"{c:%Y-%m-%d %H:%M},{-9999 if (c.minute, c.hour, c.day) == (15, 3, 9) else round(kilowatts(c) / 4, 6)}"),
    "no heading": lambda: "\n".join(f"{c:%Y-%m-%d %H:%M},{kilowatts(c) / 4:.6f}" for _, c in ROWS).encode(),
}  # fmt: skip


@pytest.mark.parametrize("content", [pytest.param(content, id=name) for name, content in AWKWARD.items()])
def test_a_table_of_quarter_hours_gives_the_same_year(content):
    same_year(content())


def counter_lines(digits=5, start=99_000.0, some=ROWS):
    total, lines = start, []
    for moment, civil in some:
        lines.append(f"{moment:%Y-%m-%dT%H:%MZ},{total % 10**digits:.4f}")
        total += kilowatts(civil) / 4
    return lines


def test_readings_of_a_meter_roll_over_either_way_round():
    lines = counter_lines()
    for some in (lines, lines[::-1]):
        found = same_year(("time,meter reading kWh\n" + "\n".join(some)).encode())
        assert any("rolls over" in note for note in found.notes)


def test_a_meter_that_was_changed_loses_that_interval_alone():
    lines = counter_lines(7, 5000.0)
    changed = [*lines[:5000], *(f"{line.split(',')[0]},{float(line.split(',')[1]) - 5000:.4f}" for line in lines[5000:])]
    found = same_year(("time,meter reading kWh\n" + "\n".join(changed)).encode())
    assert any("was changed" in note for note in found.notes)


def test_readings_at_uneven_times_are_shared_among_hours():
    rng = np.random.default_rng(3)
    kept = sorted({0, *rng.choice(len(ROWS), 9000, replace=False).tolist(), len(ROWS) - 1})
    lines = counter_lines(8, 100.0)
    found = read_use(("time,reading kWh\n" + "\n".join(lines[k] for k in kept)).encode(), "M", None, "Europe/Rome")
    assert found.series.energy * 365 / found.series.power.shape[0] == pytest.approx(YEAR, rel=0.01)


def test_days_hours_and_minutes():
    daily: dict = {}
    for _, civil in HOURS:
        daily[civil.date()] = daily.get(civil.date(), 0) + kilowatts(civil)
    same_year(("date,kWh\n" + "\n".join(f"{day},{value:.4f}" for day, value in daily.items())).encode(), step=1440)
    same_year(table("Start,kW", lambda u, c: f"{c:%Y-%m-%d %H:%M},{kilowatts(c):.5f}", HOURS), step=60)
    few = rows(1)[: 20 * 1440]
    found = read_use(
        table("Start,W", lambda u, c: f"{c:%Y-%m-%d %H:%M},{1000 * kilowatts(c):.1f}", few), "M", None, "Europe/Rome"
    )
    assert (found.series.step, found.series.power.shape) == (1, (20, 1440))


def test_workbooks_parquet_and_json_are_read_alike():
    frame = pd.DataFrame({"Start": [c.replace(tzinfo=None) for _, c in HOURS], "kWh": [kilowatts(c) for _, c in HOURS]})
    book, parquet = io.BytesIO(), io.BytesIO()
    frame.to_excel(book, index=False)
    frame.to_parquet(parquet)
    records = json.dumps([{"start": str(s), "kWh": v} for s, v in zip(frame["Start"], frame["kWh"], strict=True)]).encode()
    for content in (book.getvalue(), parquet.getvalue(), records):
        same_year(content, step=60)


def test_short_gaps_lie_between_their_neighbours_and_long_ones_stay():
    some = [row for k, row in enumerate(ROWS) if not (2000 <= k < 2004 or 9000 <= k < 9100)]
    found = read_use(
        table("Start,kWh", lambda u, c: f"{c:%Y-%m-%d %H:%M},{kilowatts(c) / 4:.6f}", some), "M", None, "Europe/Rome"
    )
    gaps = np.flatnonzero(~found.series.is_whole)
    assert 1 <= gaps.size <= 2
    assert any("between their neighbours" in note for note in found.notes)


def test_negative_values_are_no_use_and_are_told():
    content = table("Start,net kWh", lambda u, c: f"{c:%Y-%m-%d %H:%M},{-1 if c.hour == 12 else 0.5:.3f}")
    found = read_use(content, "M", None, "Europe/Rome")
    assert found.series.power.min() == 0
    assert any("negative" in note for note in found.notes)


@pytest.mark.parametrize(
    ("content", "words"),
    [
        (table("Start,kWh", lambda u, c: f"{c:%Y-%m-%d %H:%M},{'oops' if (c.month, c.day, c.hour) == (1, 8, 7) else 1}"), "line 702, column kWh"),
        (table("Start,kWh", lambda u, c: f"{c:%d.%m. %H:%M},{1}"), "no year"),
        (table("Start,Temperature °C", lambda u, c: f"{c:%Y-%m-%d %H:%M},{20 + c.hour}"), "no column was recognised"),
        (b"Start,kWh\n2025-01-01 00:00,1\n2025-01-01 01:00,2\n2025-01-01 02:00,2\n2025-01-01 03:00,2\n", "rows"),
        (b"kWh\n" + b"\n".join(b"%d" % (k % 7) for k in range(400)), "no table was found|dates or times"),
        (b"", "empty"),
        (b"\x00\x01\x02" * 300, "not a text file"),
    ],
    ids=["a word among numbers", "dates without a year", "weather", "four rows", "no times", "nothing", "bytes"],
)  # fmt: skip
def test_what_cannot_be_read_is_refused_with_its_place(content, words):
    with pytest.raises(WeatherFileError, match=words):
        read_use(content, "M", None, "Europe/Rome")


def test_a_reading_can_be_changed_and_gives_what_it_says(tmp_path):
    path = tmp_path / "meter.csv"
    path.write_bytes(table("Start,A kWh,B kWh", lambda u, c: f"{c:%Y-%m-%d %H:%M},{kilowatts(c) / 4:.6f},1"))
    found = read_use(path.read_bytes(), "meter", None, "Europe/Rome").reading
    assert read(path, found).energy == pytest.approx(YEAR + 35040, rel=1e-3)
    found.values = [c.model_copy(update={"role": "" if c.heading == "B kWh" else c.role}) for c in found.values]
    assert read(path, found).energy == pytest.approx(YEAR, rel=1e-3)
    again = reading.UseReading.model_validate_json(found.model_dump_json())
    assert read(path, again).digest == read(path, found).digest


def espi(values, start, step, kind="", multiplier=0):
    readings = "".join(
        f"<IntervalReading><timePeriod><duration>{step * 60}</duration><start>{start + k * step * 60}</start></timePeriod><value>{v}</value></IntervalReading>"
        for k, v in enumerate(values)
    )
    return f"""<?xml version="1.0"?><feed xmlns="http://www.w3.org/2005/Atom"><entry><link rel="self" href="a/ReadingType/1"/><content>
<ReadingType xmlns="http://naesb.org/espi"><powerOfTenMultiplier>{multiplier}</powerOfTenMultiplier><uom>72</uom>{kind}</ReadingType></content></entry>
<entry><content><IntervalBlock xmlns="http://naesb.org/espi">{readings}</IntervalBlock></content></entry></feed>""".encode()


def test_espi_is_read_in_its_units_on_the_clock_of_the_meter():
    start = int(ROWS[0][0].timestamp())
    content = espi([round(kilowatts(c) * 250_000) for _, c in ROWS], start, 15, multiplier=-3)
    found = same_year(content)
    assert found.reading.format == "espi"


@pytest.mark.parametrize(
    ("content", "words"),
    [
        (b'<feed xmlns="x"><IntervalReading>', "XML cannot be read"),
        (b'<!DOCTYPE a [<!ENTITY x "y">]><feed>&x;<IntervalReading/></feed>', "XML cannot be read"),
        (espi([1], 0, 15, "<flowDirection>19</flowDirection>"), "no interval readings"),
        (espi(["many"], 0, 15), "a number was expected"),
        (espi([1e300], 0, 15), "out of range"),
        (espi([1], 0, 7), "divides a day"),
    ],
    ids=["cut off", "entities", "from the customer", "a word", "absurd", "seven minutes"],
)
def test_damaged_espi_is_refused_in_words(content, words):
    with pytest.raises(WeatherFileError, match=words):
        read_use(content, "M")
