"""A table is understood beside its lines, changed, taken into the library, and its reading offered for the next of its make."""

import json

import numpy as np
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from noontide.core.weather.year import flags_of, runs_of
from noontide.server.weather_library.models import WeatherYear
from noontide.server.weather_library.storing import load, opened

HEAD = "Station: harbour mast\nLat;43,62\nLon;11,31\nHeight;412 m\nUTC+1\nTag;Zeit;Global;Was auch immer;Luft\n"


@pytest.fixture
def table(hill_weather):
    """A table with a column that its heading does not name."""
    w = hill_weather
    rows = (
        f"{s:%d.%m.%Y;%H:%M};{g:.1f};{d:.1f};{t:.2f}".replace(".", ",").replace(",", ".", 2)
        for s, g, d, t in zip(w.calendar.local_starts.astype(object), w.ghi, w.dhi, w.temperature, strict=True)
    )
    return (HEAD + "\n".join(rows) + "\n\nLegende: Global in W je m2\n").encode()


def ask(api, path, content, **fields):
    return api.post(path, {"file": SimpleUploadedFile("harbour-mast.csv", content), **fields})


def test_the_lines_and_what_they_are_understood_as_stand_side_by_side_and_nothing_is_kept(api, table, hill_weather):
    answer = ask(api, "/api/weather/reading", table).json()
    reading = answer["reading"]
    assert {c["role"]: c["unit"] for c in reading["columns"] if c["unit"]} == {"ghi": "W/m²", "temperature": "°C"}
    assert (reading["latitude"], reading["longitude"], reading["utc_offset"], reading["decimal"]) == (43.62, 11.31, 1, ",")
    kinds = [line["kind"] for line in answer["lines"]]
    assert kinds[:6] == ["preamble"] * 5 + ["header"]
    assert kinds.count("gap") == 2
    assert kinds[-1] == "legend"
    assert next(line for line in answer["lines"] if line["kind"] == "row")["number"] == 7
    assert answer["year"]["annual_ghi"] == pytest.approx(hill_weather.ghi.sum() / 1000, rel=1e-4)
    assert (answer["problem"], answer["intervals"], answer["is_remembered"]) == ("", 8760, False)
    assert answer["fit"]["best"] == pytest.approx(0, abs=20)
    assert len(answer["fit"]["shifts"]) == len(answer["fit"]["misfit"])
    assert WeatherYear.objects.count() == 0


def test_a_column_is_named_by_hand_kept_with_the_year_and_remembered_for_files_of_the_same_make(api, table, hill_weather):
    reading = ask(api, "/api/weather/reading", table).json()["reading"]
    reading["columns"][3] |= {"role": "dhi", "unit": "W/m²"}
    year = ask(api, "/api/weather", table, reading=json.dumps(reading))
    assert year.status_code == 201, year.content
    digest = year.json()["digest"]
    np.testing.assert_allclose(load(digest).dhi, hill_weather.dhi, atol=0.06)
    assert [step["kind"] for step in year.json()["steps"]] == ["read"]
    # The next of the same make: the same headings, other values.
    next_one = table.replace(b"harbour mast", b"harbour pier").replace(b";0,0;0,0;", b";0,0;0,1;")
    offered = ask(api, "/api/weather/reading", next_one).json()
    assert offered["is_remembered"]
    assert offered["reading"]["columns"][3]["role"] == "dhi"
    assert offered["reading"]["title"] == "harbour pier"


def test_marks_of_filled_values_outlive_a_restart(api, table):
    lines = table.decode().split("\n")
    del lines[3000:3003]
    digest = ask(api, "/api/weather", "\n".join(lines).encode()).json()["digest"]
    opened.cache_clear()
    assert np.flatnonzero(load(digest).flags).tolist() == [2994, 2995, 2996]


def test_runs_of_marks_are_the_marks():
    flags = np.array([1, 1, 0, 4, 5, 5, 0, 0, 1], dtype=np.uint8)
    assert np.array_equal(flags_of(runs_of(flags), flags.size), flags)


def test_a_reading_under_which_no_year_comes_out_says_why_and_the_lines_still_show(api, table):
    reading = ask(api, "/api/weather/reading", table).json()["reading"]
    reading["columns"][4]["role"] = ""
    answer = ask(api, "/api/weather/reading", table, reading=json.dumps(reading)).json()
    assert "air temperature" in answer["problem"]
    assert answer["year"] is None
    assert answer["lines"]


@pytest.mark.parametrize(
    ("reading", "words"),
    [("{", "reading"), ('{"step": 7}', "step"), ('{"columns": [{"place": 0, "role": "ghi", "unit": "apples"}]}', "apples"), ('{"nonsense": 1}', "nonsense")],
)  # fmt: skip
def test_a_reading_that_is_none_is_refused(api, table, reading, words):
    answer = ask(api, "/api/weather/reading", table, reading=reading)
    assert answer.status_code == 422
    assert words.lower() in answer.content.decode().lower()


def test_the_site_is_taken_where_the_file_states_no_place(api, table):
    bare = b"\n".join(table.split(b"\n")[5:])
    answer = ask(api, "/api/weather/reading", bare, latitude="43.62", longitude="11.31", elevation="412").json()
    assert answer["reading"]["latitude"] == 43.62
    assert next(f for f in answer["reading"]["findings"] if f["subject"] == "latitude")["sureness"] == "guess"


def test_a_file_of_a_known_format_needs_no_reading(api, hill_year):
    content = api.get(f"/api/weather/{hill_year.digest}/file?kind=epw").content
    assert ask(api, "/api/weather/reading", content).status_code == 409


MONTHS = [30, 48, 85, 120, 155, 170, 178, 150, 105, 65, 35, 24]


def test_twelve_numbers_become_a_year_of_the_library(api):
    asked = {"latitude": 43.62, "longitude": 11.31, "elevation": 412, "name": "Aldermoor", "monthly_ghi": MONTHS}
    year = api.send("post", "/api/weather/synthesise", asked).json()
    np.testing.assert_allclose(year["summary"]["monthly_ghi"], MONTHS, rtol=1e-6)
    assert year["title"] == "Aldermoor, from monthly values"
    assert year["steps"][0]["kind"] == "synthesised"
    assert api.send("post", "/api/weather/synthesise", asked).json()["digest"] == year["digest"]
    for change, words in (({"monthly_ghi": [900] * 12}, "January"), ({"monthly_ghi": [1] * 11}, "12"), ({"seed": -1}, "seed")):
        refused = api.send("post", "/api/weather/synthesise", asked | change)
        assert refused.status_code == 422
        assert words in refused.content.decode()
