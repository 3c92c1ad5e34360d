"""Tables of weather in the notations that they come in: each one's reading is held to the year that it was written from."""

import io
import json
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo

import numpy as np
import pandas as pd
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from noontide.core.calendar import Calendar
from noontide.core.sun import interval_sun
from noontide.core.weather import WeatherFileError, parse, reading_of
from noontide.core.weather.year import FILLED
from tests.conftest import simulated_weather

LONDON = simulated_weather(51.52, -0.12, 24, 0)
MUNICH = simulated_weather(48.14, 11.58, 520, 1)


def starts_of(weather, year=2019):
    return [s.replace(year=year) for s in weather.calendar.local_starts.astype(object)]


@dataclass
class Notation:
    """How a generator writes a year."""

    stamp: str = "%Y-%m-%d %H:%M"
    delimiter: str = ","
    decimal: str = "."
    late: int = 0  # minutes from the start of the interval to its stamp
    columns: dict[str, tuple[str, float, float]] = field(  # heading, factor and shift of each
        default_factory=lambda: {"ghi": ("GHI [W/m2]", 1, 0), "dhi": ("DHI [W/m2]", 1, 0), "temperature": ("Temperature [°C]", 1, 0), "wind": ("Wind [m/s]", 1, 0)}
    )  # fmt: skip
    heading: str = "time"
    above: str = ""
    below: str = ""
    encoding: str = "utf-8"
    ends: str = "\n"

    def write(self, weather, year=2019) -> bytes:
        place = weather.place
        head = self.above or (
            f"Latitude: {place.latitude}\nLongitude: {place.longitude}\nElevation: {place.elevation} m\nUTC{weather.calendar.utc_offset:+g}\n"
        )
        lines = [*head.rstrip("\n").split("\n"), self.delimiter.join([self.heading, *(h for h, _, _ in self.columns.values())])]
        numbers = [getattr(weather, name) * factor + shift for name, (_, factor, shift) in self.columns.items()]
        for start, *values in zip(starts_of(weather, year), *numbers, strict=True):
            stamp = (start + timedelta(minutes=self.late)).strftime(self.stamp)
            lines.append(self.delimiter.join([stamp, *(f"{v:.4f}".replace(".", self.decimal) for v in values)]))
        return (self.ends.join(lines) + self.ends + self.below).encode(self.encoding)


def assert_same(content: bytes, weather, **expected):
    """The year that was written, hour by hour: number of steps, offset, sums, and the hour of the highest light."""
    read = parse(content, "table")
    assert read.calendar.intervals == weather.calendar.intervals
    assert read.calendar.utc_offset == weather.calendar.utc_offset
    np.testing.assert_allclose(read.ghi, weather.ghi, atol=0.2)
    np.testing.assert_allclose(read.temperature, weather.temperature, atol=0.01)
    for name, value in expected.items():
        assert getattr(reading_of(content, "table"), name) == value, name
    return read


NOTATIONS = {
    "decimal commas between semicolons, hours ending": (Notation("%d.%m.%Y;%H:%M", ";", ",", 60, heading="Tag;Zeit", below="\nLegende: Global in W je m2\n"), {"stamps": "end", "date_order": "dmy"}),
    "month first, twelve hours, miles and Fahrenheit": (Notation("%m/%d/%Y,%I:%M %p", columns={"ghi": ("Solar radiation (W/m^2)", 1, 0), "temperature": ("Dry bulb (F)", 1.8, 32), "wind": ("Wind speed (mph)", 2.236936, 0)}, heading="Date,Time"), {"date_order": "mdy"}),
    "tabs, ISO with Z": (Notation("%Y-%m-%dT%H:%M:%SZ", "\t"), {"stamps": "start"}),
    "named months": (Notation("%d-%b-%Y %H:%M"), {}),
    "compact, kilowatts, kelvin": (Notation("%Y%m%d%H%M", columns={"ghi": ("Global", 0.001, 0), "temperature": ("T", 1, 273.15)}), {}),
    "megajoules": (Notation(columns={"ghi": ("Rs (MJ/m2)", 0.0036, 0), "temperature": ("Tair (C)", 1, 0)}), {}),
    "joules on a square centimetre, not stated": (Notation(columns={"ghi": ("Globalstrahlung", 0.36, 0), "temperature": ("Lufttemperatur", 1, 0)}), {}),
    "UTF-16": (Notation("%d/%m/%Y %H:%M", "\t", encoding="utf-16"), {"encoding": "utf-16"}),
    "an old code page with CR LF": (Notation(delimiter=";", decimal=",", encoding="cp1252", ends="\r\n"), {"decimal": ","}),
    "carriage returns alone": (Notation(ends="\r"), {}),
    "a preamble of two hundred lines": (Notation(above="\n".join(f"Note {i}: nothing; of; use" for i in range(200)) + "\nlat = 51.52\nlon = -0.12\ntz = 0\n"), {}),
    "blanks": (Notation("%Y %m %d %H", " ", heading="YEAR MO DY HR", columns={"ghi": ("GLOBAL", 0.001, 0), "temperature": ("TEMP", 1, 0)}), {"delimiter": " "}),
    "middle of the hour": (Notation(late=30), {"stamps": "middle"}),
}  # fmt: skip


@pytest.mark.parametrize("name", NOTATIONS)
def test_a_year_is_read_back_from_every_notation(name):
    notation, expected = NOTATIONS[name]
    assert_same(notation.write(LONDON), LONDON, **expected)


@settings(max_examples=12, deadline=None)
@given(
    st.sampled_from(["%Y-%m-%d %H:%M", "%d.%m.%Y %H:%M", "%m/%d/%Y %H:%M", "%d/%m/%y %H:%M", "%Y%m%d:%H%M", "%d %B %Y %H:%M"]),
    st.sampled_from([(",", "."), (";", "."), (";", ","), ("\t", ","), ("|", ".")]),
    st.sampled_from([0, 60]),
    st.sampled_from([("GHI", 1.0), ("Global horizontal (kWh/m2)", 0.001), ("G(h)", 1.0), ("Rayonnement global [kJ/m²]", 3.6), ("Radiación global", 1.0)]),
    st.sampled_from([("T2m", 1.0, 0.0), ("Temp (K)", 1.0, 273.15), ("Lufttemperatur", 1.0, 0.0), ("air temperature [degF]", 1.8, 32.0)]),
    st.sampled_from([LONDON, MUNICH]),
)  # fmt: skip
def test_any_mixture_of_notations_gives_the_same_year(stamp, divided, late, light, air, weather):
    delimiter, decimal = divided
    notation = Notation(stamp, delimiter, decimal, late, {"ghi": (light[0], light[1], 0), "temperature": air})
    assert_same(notation.write(weather), weather, stamps="end" if late else "start")


def test_a_typical_year_of_months_from_several_years_with_hours_to_24():
    """As the TMY3 kind of table: a line of the station, quoted, then 01:00 to 24:00, with sources and uncertainties between."""
    lines = ['700001,"HARBOUR MAST",XX,0.0,51.520,-0.120,24', "Date (MM/DD/YYYY),Time (HH:MM),ETR (W/m^2),GHI (W/m^2),GHI source,GHI uncert (%),DNI (W/m^2),DHI (W/m^2),Dry-bulb (C),Dew-point (C),Pressure (mbar),Wspd (m/s),Wdir (degrees)"]  # fmt: skip
    for i, s in enumerate(starts_of(LONDON)):
        lines.append(
            f"{s.month:02d}/{s.day:02d}/{1985 + s.month * 5 % 12},{s.hour + 1:02d}:00,900,{LONDON.ghi[i]:.1f},1,13,{LONDON.dni[i]:.1f},{LONDON.dhi[i]:.1f},{LONDON.temperature[i]:.2f},1.0,{LONDON.pressure[i]:.1f},{LONDON.wind[i]:.2f},200"
        )
    read = assert_same("\n".join(lines).encode(), LONDON, stamps="end", is_typical=True, elevation=24, title="HARBOUR MAST")
    np.testing.assert_allclose(read.dni, LONDON.dni, atol=0.06)
    np.testing.assert_allclose(read.wind, LONDON.wind, atol=0.01)
    assert read.is_typical
    assert read.calendar.year == 2026


def local(weather, zone: str, lit_only=False):
    rows = []
    for i, s in enumerate(starts_of(weather)):
        at = (s - timedelta(hours=weather.calendar.utc_offset)).replace(tzinfo=UTC).astimezone(ZoneInfo(zone))
        if weather.ghi[i] > 0 or not lit_only:
            rows.append(f"{at:%d.%m.%Y %H:%M};{weather.ghi[i]:.1f};{weather.temperature[i]:.2f}")
    return rows


def test_a_clock_with_summer_time_is_known_by_the_hour_it_leaves_out_and_the_one_it_shows_twice():
    text = "Lat 48.14, Lon 11.58, UTC+1\nZeit;Global;Temp\n" + "\n".join(local(MUNICH, "Europe/Berlin"))
    assert_same(text.encode(), MUNICH, daylight_saving="Europe/Paris", utc_offset=1)


def test_a_clock_with_summer_time_is_known_by_the_sun_where_the_nights_are_left_out():
    text = "Lat 48.14, Lon 11.58\nZeit;Global;Temp\n" + "\n".join(local(MUNICH, "Europe/Berlin", lit_only=True))
    read = parse(text.encode(), "table")
    assert reading_of(text.encode(), "table").daylight_saving
    lit = MUNICH.ghi > 0
    assert np.mean(np.abs(read.ghi[lit] - MUNICH.ghi[lit]) < 0.2) > 0.99


@pytest.mark.parametrize("hours", [-3, -1, 2, 5])
def test_a_clock_that_is_off_is_found_by_the_sun_and_a_shift_proposed(hours):
    content = Notation(late=60 * hours, above="Lat: 51.52, lon: -0.12\nTimes are in UTC+0, start of the hour\n").write(LONDON)
    reading = reading_of(content, "table")
    told = -60 * hours if reading.stamps == "start" else -60 * hours + (60 if reading.stamps == "end" else 30)
    assert reading.proposed_shift == pytest.approx(told, abs=20) if abs(told) >= 30 else reading.proposed_shift is None
    # What is proposed is not done by itself; accepted, it puts the light where it belongs.
    accepted = reading.model_copy(update={"shift": reading.proposed_shift or 0.0})
    mended = parse(content, "table", accepted)
    inner = slice(240, -240)  # the ends of the year have come from the other end of it, or are filled
    assert np.mean(np.abs(mended.ghi[inner] - LONDON.ghi[inner]) < 0.2) > 0.98


@pytest.mark.parametrize("order", [("dhi", "ghi", "dni"), ("dni", "ghi", "dhi"), ("ghi", "dhi", "dni")])
def test_irradiances_are_told_apart_by_closure_where_their_headings_lie(order):
    """The columns called GHI, DNI and DHI hold something else."""
    columns = {name: (heading, 1, 0) for name, heading in zip(order, ("GHI", "DNI", "DHI"), strict=True)} | {
        "temperature": ("T", 1, 0)
    }
    content = Notation(columns=columns).write(LONDON)
    read = assert_same(content, LONDON)
    np.testing.assert_allclose(read.dni, LONDON.dni, atol=0.2)
    changed = [c for c in reading_of(content, "table").columns if "not what the heading says" in c.reason]
    assert len(changed) >= 2


def test_true_headings_stay_as_they_are():
    content = Notation(columns={n: (n.upper(), 1, 0) for n in ("ghi", "dni", "dhi")} | {"temperature": ("T", 1, 0)}).write(LONDON)
    assert not [c for c in reading_of(content, "table").columns if "not what the heading says" in c.reason]


def test_values_that_say_there_is_none_and_rows_left_out_are_filled_and_marked():
    lines = Notation().write(LONDON).decode().split("\n")
    head = 5
    for row in (4000, 4001, 5000):
        lines[head + row] = lines[head + row].split(",")[0] + ",-999,-999,-999,-999"
    del lines[head + 2000 : head + 2003]
    read = parse("\n".join(lines).encode(), "table")
    assert set(np.flatnonzero(read.flags & FILLED)) == {2000, 2001, 2002, 4000, 4001, 5000}
    assert abs(read.ghi.sum() / LONDON.ghi.sum() - 1) < 0.002
    assert any("interpolated" in note for note in read.notes)


def test_days_that_are_missing_are_filled_from_the_days_around_them():
    lines = Notation().write(LONDON).decode().split("\n")
    del lines[5 + 24 * 100 : 5 + 24 * 104]
    read = parse("\n".join(lines).encode(), "table")
    gap = slice(24 * 100, 24 * 104)
    assert np.all(read.flags[gap] & FILLED)
    before, after = LONDON.ghi[24 * 99 : 24 * 100], LONDON.ghi[24 * 104 : 24 * 105]
    np.testing.assert_allclose(read.ghi[gap].reshape(4, 24)[1], (before + after) / 2, atol=0.2)


def test_several_years_in_one_file_give_the_fullest_and_each_by_its_number():
    rows = [Notation().write(LONDON, year).decode().split("\n")[5:8765] for year in (2017, 2018, 2019)]
    head = Notation().write(LONDON).decode().split("\n")[:5]
    content = "\n".join([*head, *rows[0], *rows[1], *rows[2][:5000]]).encode()
    assert parse(content, "table").calendar.year == 2018
    reading = reading_of(content, "table")
    assert reading.years == [2017, 2018, 2019]
    assert parse(content, "table", reading.model_copy(update={"year": 2017})).calendar.year == 2017
    with pytest.raises(WeatherFileError, match="no rows of 1999"):
        parse(content, "table", reading.model_copy(update={"year": 1999}))


@pytest.mark.parametrize("step", [30, 15, 10, 5])
def test_finer_steps(step):
    calendar = Calendar(2023, step, 1.0)
    sun = interval_sun(calendar, 48.0, 11.0, 500)
    ghi = np.zeros(calendar.intervals)
    ghi[sun.interval_index] = np.round(800 * np.maximum(sun.cos_zenith, 0) ** 1.15 * sun.lit_fraction, 1)
    rows = (f"{str(t).replace('T', ' ')};{g:.1f};12.5" for t, g in zip(calendar.local_starts, ghi, strict=True))
    content = ("Latitude;48.0\nLongitude;11.0\nUTC+1\ntime;GHI;T\n" + "\n".join(rows)).encode()
    read = parse(content, "table")
    assert (read.calendar.step, read.calendar.intervals) == (step, calendar.intervals)
    np.testing.assert_allclose(read.ghi, ghi, atol=0.06)


def test_workbooks_parquet_and_json_records_are_read_like_text():
    frame = pd.DataFrame(
        {"time": pd.to_datetime([str(s) for s in starts_of(MUNICH)]), "ghi": MUNICH.ghi, "temp_air": MUNICH.temperature}
    )
    at = (48.14, 11.58, 520.0)
    contents = {}
    for name, write in (("xlsx", lambda b: frame.to_excel(b, index=False)), ("parquet", frame.to_parquet)):
        buffer = io.BytesIO()
        write(buffer)
        contents[name] = buffer.getvalue()
    records = [
        {"time": str(t), "ghi": g, "temp_air": c} for t, g, c in zip(frame.time, MUNICH.ghi, MUNICH.temperature, strict=True)
    ]
    contents["json"] = json.dumps({"latitude": at[0], "longitude": at[1], "data": records}).encode()
    for name, content in contents.items():
        reading = reading_of(content, "table", at)
        assert reading.source == name
        read = parse(content, "table", reading)
        np.testing.assert_allclose(read.ghi, MUNICH.ghi, atol=0.01, err_msg=name)


def test_an_empty_first_heading_does_not_move_the_others():
    """As a spreadsheet writes a column of dates without a name; a comment's sign before the headings is none of them."""
    for heading in ("", "# time"):
        assert_same(Notation(delimiter="\t", heading=heading).write(LONDON), LONDON)


def changed(row: int, values: str) -> bytes:
    """With other values behind the stamp of a line, or another line where they begin with a date."""
    lines = Notation().write(LONDON).decode().split("\n")
    lines[row] = values if values.startswith("20") else f"{lines[row].split(',')[0]},{values}"
    return "\n".join(lines).encode()


@pytest.mark.parametrize(
    ("content", "words"),
    [
        (b"", "empty"),
        (b"hello world\n" * 5000, "no table"),
        (bytes(range(256)) * 40, "not a text file"),
        (b"PK\x03\x04" + bytes(500), "damaged|archive"),
        (b"\x1f\x8b" + bytes(500), "gzip"),
        (b"PAR1" + bytes(500), "Parquet"),
        (changed(3000, "abc,1,1,1"), "line 3001, column GHI.*number was expected.*abc"),
        (changed(3000, "2019-13-44 20:00,1,1,1,1"), "line 3001, column time.*2019-13-44"),
        (changed(3000, "1,1,1,1,1,1,1"), "line 3001.*fields"),
        (changed(3000, "5000,1,1,1"), "line 3001, column GHI.*5,000"),
        (b"lat 50, lon 10\ntime,temp\n" + b"\n".join(f"{s:%Y-%m-%d %H:%M},5".encode() for s in starts_of(LONDON)), "GHI"),
        ("\n".join(Notation().write(LONDON).decode().split("\n")[:800]).encode(), "whole year"),
    ],
)
def test_what_is_no_year_is_refused_with_its_place(content, words):
    with pytest.raises(WeatherFileError, match=words):
        parse(content, "table")


def test_a_reading_is_changed_by_hand_and_kept_as_json():
    content = Notation(columns={"ghi": ("A", 1, 0), "temperature": ("B", 1, 0)}).write(LONDON)
    reading = reading_of(content, "table")
    # GHI is guessed by its look; a temperature has none.
    assert reading.column("ghi").sureness == "guess"
    with pytest.raises(WeatherFileError, match="air temperature"):
        parse(content, "table", reading)
    kept = json.loads(reading.model_dump_json())
    kept["columns"][2] |= {"role": "temperature", "unit": "°C"}
    read = parse(content, "table", type(reading).model_validate(kept))
    np.testing.assert_allclose(read.temperature, LONDON.temperature, atol=0.01)


def test_nothing_is_done_to_the_values_beyond_what_the_notes_say():
    read = parse(Notation().write(LONDON), "table")
    assert [step.kind for step in read.steps] == ["read"]
    assert any("start of an interval of 60 min, UTC+0" in note for note in read.notes)
    assert datetime(2019, 1, 1) == read.calendar.local_starts[0].astype(object)


PLACES = {
    "a dry plateau": (39.7, -105.0, 1600, -7),
    "half an hour beside": (28.6, 77.2, 216, 5.5),
    "a quarter beside": (27.7, 85.3, 1400, 5.75),
    "south": (-33.9, 151.2, 30, 10),
    "on the equator": (0.3, 32.6, 1190, 3),
    "west of its zone": (40.4, -3.7, 667, 1),
    "midnight sun": (71.0, 25.8, 10, 1),
    "across the date line": (21.3, -157.9, 10, -10),
}


@pytest.mark.parametrize("label", ["local, start", "local, end", "UTC"])
@pytest.mark.parametrize("name", PLACES)
def test_a_clock_that_the_file_does_not_state_is_found_by_the_sun(name, label):
    """The brightest hours of the year stand at their own moment in UTC, however the file was stamped."""
    latitude, longitude, elevation, offset = PLACES[name]
    # A table in UTC has its hours on UTC, also where the clocks stand on half an hour.
    own = round(offset) if label == "UTC" else offset
    weather = simulated_weather(latitude, longitude, elevation, own)
    late = {"local, start": 0, "local, end": 60, "UTC": -60 * own}[label]
    content = Notation(late=late, above=f"lat: {latitude}\nlon: {longitude}\n").write(weather)
    read = parse(content, "table")
    assert read.calendar.utc_offset == (0 if label == "UTC" else offset)

    def moments(year):
        brightest = np.argsort(year.ghi)[-200:]
        return {np.datetime64(f"2019{str(t)[4:]}") for t in year.calendar.utc_midpoints[brightest]}

    assert len(moments(read) & moments(weather)) > 195
