"""Tables as loggers, utilities and spreadsheets write them: each one's truth is known, and none is read wrong without a doubt."""

from datetime import UTC, timedelta
from zoneinfo import ZoneInfo

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from noontide.core.checks import find_checks
from noontide.core.design.document import Design
from noontide.core.simulation import simulate
from noontide.core.sun import interval_sun
from noontide.core.weather import parse, reading_of
from noontide.core.weather.reading.columns import told_apart
from noontide.core.weather.reading.preamble import preamble_of
from noontide.parts import built_in_parts
from tests.conftest import simulated_weather
from tests.core.weather.reading.test_recognise import LONDON, MUNICH, Notation, starts_of

SYDNEY = simulated_weather(-33.87, 151.21, 30, 10)
SANTIAGO = simulated_weather(-33.45, -70.66, 520, -4)
QUARTERS = simulated_weather(48.14, 11.58, 520, 1, step=15)
PLACE = "Latitude: 51.52\nLongitude: -0.12\nElevation: 24 m\nUTC+0\n"


@pytest.mark.parametrize(
    ("line", "marks"),
    [
        ("Time stamps mark the start of the interval", "start"), ("Timestamp: beginning of the averaging period", "start"), ("interval beginning", "start"),
        ("Values are means over the following hour", "start"), ("Zeitstempel: Intervallanfang", "start"), ("left-labelled hourly means", "start"),
        ("Time refers to the begin of each hour", "start"), ("heure = debut de l'intervalle", "start"), ("start-of-interval stamps", "start"),
        ("hour ending", "end"), ("convention: period-ending", "end"), ("Values are averages of the preceding hour", "end"), ("Zeitangabe: Ende des Intervalls", "end"),
        ("fin de l'heure", "end"), ("right-labelled", "end"), ("middle of the interval", "middle"),
        ("Period start: 2019-01-01", None), ("End date: 2019-12-31", None), ("start of data: hour 0", None), ("interval start 10, interval end 20", None),
    ],
)  # fmt: skip
def test_what_a_preamble_says_of_its_stamps(line, marks):
    assert preamble_of([(1, line)]).stamps == (None if marks is None else (marks, 1))


@pytest.mark.parametrize(("said", "late"), [("interval beginning", 60), ("hour ending", 0)])
def test_stamps_that_are_stated_are_taken_even_where_the_first_row_looks_otherwise(said, late):
    """The light then lies an hour beside the sun, and that is told, not silently put right by another mark."""
    reading = reading_of(Notation(above=f"{PLACE}{said}\n", late=late).write(LONDON), "table")
    assert reading.stamps == ("start" if late else "end")
    assert reading.proposed_shift == pytest.approx(-60 if late else 60, abs=20)


@pytest.mark.parametrize(
    ("line", "place"),
    [
        ("# site: 52.47, 13.4, 48.0 m", (52.47, 13.4, 48.0)), ("Location 52.47 13.40 48", (52.47, 13.4, 48.0)), ("Standort: 52,47; 13,40; 48 m", (52.47, 13.4, 48.0)),
        ("lat/lon: -33.87, 151.21", (-33.87, 151.21, None)), ("lon/lat 151.21, -33.87", (-33.87, 151.21, None)), ("coordinates: 151.21 -33.87", (-33.87, 151.21, None)),
        ("GPS position 43.62, 11.31, 1352 ft", (43.62, 11.31, 412.1)), ("Station 12, 13", (None, None, None)), ("site visits: 3, 4, 5", (None, None, None)),
    ],
)  # fmt: skip
def test_numbers_after_a_word_for_a_place_are_a_place(line, place):
    found = preamble_of([(1, line)])
    for value, wanted in zip((found.latitude, found.longitude, found.elevation), place, strict=True):
        assert (value and value[0]) == (pytest.approx(wanted, abs=0.1) if wanted is not None else None)


def test_a_place_that_nobody_stated_stays_a_guess_in_the_year_and_in_a_design():
    weather = parse(Notation(above="UTC+0\n").write(LONDON), "table")
    assert weather.is_place_guessed and any("states none" in note for note in weather.notes)
    design = Design.read(
        {
            "site": {"latitude": 51.5, "longitude": 0.0}, "surfaces": {"s": {"tilt": 30}}, "inverters": {"i": {"model": "hexley-10"}},
            "subarrays": {"a": {"surface": "s", "module": "veltrane-430", "modules_per_string": 15, "inverter": "i"}},
        }
    )  # fmt: skip
    assert "weather-place-guessed" in {c.rule for c in find_checks(simulate(design, weather, built_in_parts()))}
    assert not parse(Notation().write(LONDON), "table").is_place_guessed


def rows_of(weather, zone, marks, once=False):
    """Rows on a local clock: stamps of the clock's own at the begin or the end of an interval, or its begin with an hour added."""
    found, seen = [], set()
    for i, start in enumerate(starts_of(weather)):
        at = (start - timedelta(hours=weather.calendar.utc_offset)).replace(tzinfo=UTC)
        step = timedelta(minutes=weather.calendar.step)
        local = (at + (step if marks == "end" else timedelta(0))).astimezone(ZoneInfo(zone)).replace(tzinfo=None)
        stamp = f"{local + (step if marks == 'begin plus length' else timedelta(0)):%d.%m.%Y %H:%M}"
        if not (once and stamp in seen):
            found.append(f"{stamp};{weather.ghi[i]:.1f};{weather.temperature[i]:.2f};{weather.wind[i]:.2f}")
        seen.add(stamp)
    return found


@pytest.mark.parametrize("marks", ["start", "end", "begin plus length"])
@pytest.mark.parametrize(
    ("weather", "zone"),
    [(MUNICH, "Europe/Berlin"), (LONDON, "Europe/London"), (SYDNEY, "Australia/Sydney"), (SANTIAGO, "America/Santiago"), (QUARTERS, "Europe/Berlin")],
    ids=["Munich", "London", "Sydney", "Santiago", "quarters of hours"],
)  # fmt: skip
def test_a_local_clock_that_says_nothing_of_itself_is_read_right(weather, zone, marks):
    place = weather.place
    text = f"Lat {place.latitude}, Lon {place.longitude}\nZeit;Global;Temp;Wind (m/s)\n" + "\n".join(
        rows_of(weather, zone, marks)
    )
    read = parse(text.encode(), "table")
    assert read.calendar.utc_offset == weather.calendar.utc_offset
    lit = weather.ghi > 1
    assert np.mean(np.abs(read.ghi[lit] - weather.ghi[lit]) < 0.2) > 0.999


@pytest.mark.parametrize(("weather", "zone"), [(MUNICH, "Europe/Berlin"), (SYDNEY, "Australia/Sydney")], ids=["Munich", "Sydney"])
def test_a_local_clock_whose_second_hour_of_autumn_is_dropped_is_known_by_the_sun(weather, zone):
    place = weather.place
    text = f"Lat {place.latitude}, Lon {place.longitude}\nZeit;Global;Temp;Wind\n" + "\n".join(
        rows_of(weather, zone, "start", True)
    )
    read = parse(text.encode(), "table")
    lit = weather.ghi > 1
    assert np.mean(np.abs(read.ghi[lit] - weather.ghi[lit]) < 0.2) > 0.999


def table_of(weather=LONDON, **notation):
    lines = Notation(above=PLACE, **notation).write(weather).decode().split("\n")
    return lines[:5], [line for line in lines[5:] if line]


def same_as(content, weather=LONDON):
    read = parse("\n".join(content).encode(), "table")
    np.testing.assert_allclose(read.ghi, weather.ghi, atol=0.2)
    np.testing.assert_allclose(read.temperature, weather.temperature, atol=0.01)
    return read


def test_tables_that_are_written_in_an_unusual_way():
    head, rows = table_of()
    same_as([*head, *rows[::-1]])  # the newest row first
    same_as([*head, *rows, "Sum,1100000,500000,90000,20000"])
    same_as([*head, *rows, "Mean,110.5,50.2,10.1,3.3", "Maximum,905,410,30.1,14.2", ",,,,"])
    same_as(["Export;;;;;;;;;;;", "by;us;and;others;;;;;;;;;;;;;;;;;;;;;;", *head, *rows])
    same_as(["a,b,c,d,e,f,g,h,i,j,k,l,m,n", *head, *rows])
    same_as([*head[:4], *rows])  # no headings
    for stamp, heading in (("%d.%m.%Y;%Hh", "Date;Hour"), ("%d.%m.%y;%H.%M", "Datum;Uhr"), ("%Y-%m-%d;%H Uhr", "Tag;Stunde")):
        head, rows = table_of(stamp=stamp, heading=heading, delimiter=";")
        same_as([*head, *rows])


def test_rows_of_three_hours_keep_their_means_and_follow_the_sun():
    head, _ = table_of()
    lines, starts = [], starts_of(LONDON)
    for k in range(0, 8760, 3):
        means = [getattr(LONDON, name)[k : k + 3].mean() for name in ("ghi", "dhi", "temperature", "wind")]
        lines.append(f"{starts[k]:%Y-%m-%d %H:%M}," + ",".join(f"{v:.3f}" for v in means))
    read = parse("\n".join([*head, *lines]).encode(), "table")
    blocks = [values.reshape(-1, 3).mean(axis=1) for values in (read.ghi, LONDON.ghi)]
    np.testing.assert_allclose(*blocks, atol=0.01)
    assert np.corrcoef(read.ghi, LONDON.ghi)[0, 1] > 0.97
    assert any("divided into hours" in note for note in read.notes)


def test_wind_that_was_measured_by_day_is_kept_where_the_nights_are_left_out():
    lines = [row for row, ghi in zip(rows_of(MUNICH, "Etc/GMT-1", "start"), MUNICH.ghi, strict=True) if ghi > 0]
    read = parse(("Lat 48.14, Lon 11.58, UTC+1\nZeit;Global;Temp;Wind (m/s)\n" + "\n".join(lines)).encode(), "table")
    lit = MUNICH.ghi > 0
    np.testing.assert_allclose(read.wind[lit], MUNICH.wind[lit], atol=0.01)


@settings(max_examples=8, deadline=None)
@given(st.sampled_from([-45.0, -20.0, 0.0, 12.0, 33.0, 47.0, 62.0]), st.booleans(), st.booleans(), st.integers(0, 10**6))
def test_beam_on_the_horizontal_and_diffuse_light_are_not_swapped_by_rounding(latitude, is_swapped, is_rounded, seed):
    """A DNI column that holds the beam on the horizontal closes either way: the headings hold unless the shape of the light says otherwise."""
    weather = simulated_weather(latitude, 10.0, 100, 1)
    sun = interval_sun(weather.calendar, weather.place.latitude, weather.place.longitude, 100)
    cosine = np.zeros(8760)
    cosine[sun.interval_index] = np.maximum(np.cos(np.radians(sun.zenith)), 0)
    beam = weather.ghi - weather.dhi
    noise = np.random.default_rng(seed).normal(0, 0.5, (3, 8760)) * (weather.ghi > 0)
    values = {"ghi": weather.ghi + noise[0], "dni": beam + noise[1], "dhi": weather.dhi + noise[2]}
    if is_rounded:
        values = {name: np.round(column) for name, column in values.items()}
    if is_swapped:
        values["dni"], values["dhi"] = values["dhi"], values["dni"]
    found = told_apart(values, cosine)
    if found is not None:
        roles = found[0]
        truth = {"dni": "dhi", "dhi": "beam_horizontal"} if is_swapped else {"dni": "beam_horizontal", "dhi": "dhi"}
        assert roles == {"ghi": "ghi", **truth}
    else:
        assert beam.sum() < 0.1 * weather.ghi.sum(), "only where there is hardly any beam may it go unseen"
