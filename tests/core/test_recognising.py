"""Files of every kind, by their content alone: a name never decides what bytes say."""

import io
import json

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from noontide.core.cells import as_csv, as_xlsx
from noontide.core.design import Design
from noontide.core.electrical.parts_table import write_parts
from noontide.core.plan.exports import FORMATS, export
from noontide.core.recognising import recognise_file
from noontide.core.weather import as_text
from noontide.parts import built_in_parts
from tests.conftest import SOUTH_ROOF

PARTS = built_in_parts()
HOUSE = Design.read(SOUTH_ROOF | {"scene": {"buildings": {"b": {"length": 10, "width": 8, "eave": 4, "gable": {"pitch": 30}}}}})


def of_json(document) -> bytes:
    return json.dumps(document).encode()


def layer(kind: str, coordinates) -> bytes:
    return of_json({"type": "FeatureCollection", "features": [{"type": "Feature", "geometry": {"type": kind, "coordinates": coordinates}, "properties": {}}]})  # fmt: skip


@pytest.mark.parametrize("kind", ["modules", "inverters", "optimisers", "batteries", "cables"])
def test_a_list_of_parts_is_one_of_its_kind(kind):
    some = list(getattr(PARTS, kind).values())
    text = write_parts(some, kind)
    for content in (text.encode(), text.replace(",", ";").encode(), of_json([part.model_dump(mode="json", exclude_unset=True) for part in some])):  # fmt: skip
        found = recognise_file(content)
        assert (found.kind, found.parts) == ("parts", kind)


@pytest.mark.parametrize("kind", sorted(set(FORMATS) - {"svg", "pdf", "csv"}))
def test_what_we_write_of_a_scene_is_a_scene(kind):
    assert recognise_file(export(HOUSE, PARTS, kind)).kind == "scene"


@pytest.mark.parametrize("kind", ["epw", "csv", "covjson"])
def test_a_weather_year_of_any_format_is_weather(hill_weather, kind):
    assert recognise_file(as_text(hill_weather, kind).encode()).kind == "weather"


HEIGHTS = np.random.default_rng(1).random((60, 3)) * [10, 10, 4]
FILES = [
    (of_json(SOUTH_ROOF), "scheme"),
    (layer("Point", [11.3, 43.6]), "region"),
    (layer("Polygon", [[[11.3, 43.6], [11.4, 43.6], [11.4, 43.7], [11.3, 43.6]]]), "scene"),
    (of_json({"type": "CityJSON", "version": "2.0", "CityObjects": {}, "vertices": []}), "scene"),
    (b"\n".join(b" ".join(b"%.2f" % v for v in row) for row in HEIGHTS), "scene"),
    (b"v 0 0 0\nv 1 0 0\nv 1 1 0\nf 1 2 3\n", "scene"),
    (b"ncols 3\nnrows 2\nxllcorner 0\nyllcorner 0\ncellsize 1\n1 2 3\n4 5 6\n", "scene"),
    (b"azimuth;elevation\n" + b"\n".join(b"%d;%d" % (a, a % 20) for a in range(0, 360, 10)), "horizon"),
    (b"\x89PNG\r\n\x1a\n....", "picture"),
    (b"%PDF-1.7 ...", "unknown"),
    (b"MZ\x90\x00", "unknown"),
    (b"   \n", "unknown"),
    (as_csv([["time", "ghi", "temperature"], *([f"2023-01-01 {h:02}:00", h, 5.5] for h in range(24))]).encode(), "weather"),
    (as_xlsx([["time", "ghi", "temperature"], ["2023-01-01 00:00", 0, 5.5]], "Year"), "weather"),
    (as_xlsx([["maker", "name", "power", "voc", "isc", "vmp", "imp"], ["A", "B", 430, 38, 14, 32, 13]], "List"), "parts"),
]  # fmt: skip


@pytest.mark.parametrize(("content", "kind"), FILES, ids=[f"{n} {kind}" for n, (_, kind) in enumerate(FILES)])
def test_a_file_is_what_its_content_says(content, kind):
    for name in ("", "weather.csv", "roof.json", "x.dat"):
        assert recognise_file(content, name).kind == kind
    assert recognise_file(content).words.startswith("This is ")


@given(st.binary(max_size=400) | st.text(max_size=300).map(str.encode))
def test_no_bytes_make_it_fail(content):
    assert recognise_file(content).words


def test_a_damaged_workbook_is_left_to_the_reader_that_has_words_for_it():
    whole = as_xlsx([["a"], [1]], "Sheet")
    assert recognise_file(whole[: len(whole) // 2]).kind == "weather"
    assert io.BytesIO(whole).read(2) == b"PK"


@pytest.mark.parametrize(
    ("content", "words"),
    [
        (b'{"format": "noontide-demand/1"}', "goes to the Demand bench"),
        (b'{"format": "noontide-tariff/1"}', "goes to the Money bench"),
    ],
)
def test_documents_of_demand_and_money_go_to_their_benches(content, words):
    assert words in recognise_file(content).words
