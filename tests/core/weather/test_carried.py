"""What a year carries goes into every format and comes back; and coverages of other servers are read."""

import contextlib
import json
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.testing import assert_array_equal

from noontide.core.weather import Step, WeatherFileError, parse, read, typical_year, write
from noontide.core.weather.coverage_json import table_of_coverage, write_coverage
from noontide.core.weather.files import as_bytes, format_of
from noontide.core.weather.year import FILLED, SUSPECT, source_years
from tests.conftest import simulated_weather
from tests.core.weather.test_many_years import record


@pytest.fixture(scope="module")
def year():
    plain = simulated_weather(43.62, 11.31, 412, 1)
    flags = np.zeros(8760, dtype=np.uint8)
    flags[100:140], flags[5000] = FILLED, SUSPECT
    return replace(
        plain, flags=flags, notes=("One note, with a comma.", "Another | note"), steps=(Step("read", "Read from a mast."),)
    )


@pytest.fixture(scope="module")
def typical():
    """Summers are those of the second year, winters of the third."""
    years = record([1.0, 1.0, 1.0])
    bright = [(0.7, 1.3), (1.0, 1.6), (1.4, 1.0)]
    return typical_year(
        [
            replace(y, ghi=y.ghi * np.where((y.calendar.months > 3) & (y.calendar.months < 9), *factors))
            for y, factors in zip(years, bright, strict=True)
        ]
    )


@pytest.mark.parametrize("ending", ["csv", "covjson", "parquet"])
def test_our_formats_give_back_the_year_its_notes_marks_and_steps(year, typical, tmp_path, ending):
    for kept in (year, typical):
        path = tmp_path / f"year.{ending}"
        write(kept, path)
        back = read(path)
        assert back.digest == kept.digest
        assert_array_equal(back.flags, kept.flags)
        assert back.steps[: len(kept.steps)] == kept.steps
        assert (back.title, back.source, back.is_typical, back.given) == (kept.title, kept.source, kept.is_typical, kept.given)
        if ending != "csv":
            assert back.notes == kept.notes
        assert source_years(back) == source_years(kept)


def test_epw_keeps_the_years_of_typical_months(typical, tmp_path):
    path = tmp_path / "typical.epw"
    write(typical, path)
    back = read(path)
    assert source_years(back) == source_years(typical)
    assert len(set(source_years(typical))) > 1
    assert back.is_typical
    assert source_years(read_again(back, tmp_path)) == source_years(typical)


def read_again(weather, folder):
    write(weather, folder / "again.epw")
    return read(folder / "again.epw")


@pytest.mark.parametrize(
    ("spoil", "said"),
    [
        (lambda d: d["ranges"].pop("wind"), "values of wind were expected"),
        (lambda d: d["ranges"]["ghi"]["values"].pop(), "8,760 values of ghi"),
        (lambda d: d["ranges"]["ghi"]["values"].__setitem__(7, 9e9), "0 to 1800"),
        (lambda d: d["ranges"]["ghi"]["values"].__setitem__(7, None), "was expected"),
        (lambda d: d["ranges"]["ghi"]["values"].__setitem__(7, "warm"), "cannot be read"),
        (lambda d: d["noontide:year"].update(step=7), "step must be one of"),
        (lambda d: d["noontide:year"].update(latitude=500), "noontide:year/latitude"),
        (lambda d: d["noontide:year"].update(flags=[[8750, 40, 1]]), "given columns or flags"),
        (lambda d: d.pop("ranges"), "cannot be read"),
    ],
)
def test_a_broken_coverage_of_ours_is_refused_with_the_place(year, spoil, said):
    data = json.loads(write_coverage(year))
    spoil(data)
    with pytest.raises(WeatherFileError, match=said):
        parse(json.dumps(data).encode(), "broken")


def test_a_broken_parquet_is_refused(year):
    content = as_bytes(year, "parquet")
    assert format_of(content) == "parquet"
    for spoilt in (content[:2000], content[:-200], b"PAR1" + b"\0" * 50 + b"PAR1"):
        with pytest.raises(WeatherFileError):
            parse(spoilt, "broken.parquet")


# Shapes in which other servers answer, all of the same values.

TIMES = [f"2026-01-01T{hour:02d}:00:00Z" for hour in range(24)]
VALUES = [float(hour * 10) for hour in range(24)]
PARAMETER = {
    "type": "Parameter",
    "observedProperty": {"label": {"en": "Global horizontal irradiance"}},
    "unit": {"symbol": "W/m2"},
}


def coverage(axes, names, shape, values, **more):
    ndarray = {"type": "NdArray", "dataType": "float", "axisNames": names, "shape": shape, "values": values}
    domain = {"type": "Domain", "domainType": "Grid", "axes": axes | {"t": {"values": TIMES}}}
    return {"type": "Coverage", "domain": domain, "parameters": {"ssrd": PARAMETER}, "ranges": {"ssrd": ndarray}} | more


def grid(order):
    """Three by two points, the value of the hour plus a thousand for each point."""
    cube = np.array(VALUES)[:, None, None] + 1000 * (np.arange(2)[None, :, None] * 3 + np.arange(3)[None, None, :])
    cube = cube.transpose([("t", "y", "x").index(name) for name in order])
    axes = {"x": {"start": 10.0, "stop": 12.0, "num": 3}, "y": {"values": [44.0, 43.0]}}
    return coverage(axes, list(order), list(cube.shape), cube.ravel().tolist())


@pytest.mark.parametrize("order", [("t", "y", "x"), ("x", "y", "t"), ("y", "t", "x")])
def test_a_grid_gives_the_nearest_point_whatever_the_order_of_its_axes(order):
    found = table_of_coverage(grid(order), near=(43.1, 11.9))
    assert (found.latitude, found.longitude, found.points) == (43.0, 12.0, 6)
    assert found.frame["Global horizontal irradiance [W/m2]"].tolist() == [v + 5000 for v in VALUES]


def point(x, y, name="ssrd", values=VALUES):
    one = coverage({"x": {"values": [x]}, "y": {"values": [y]}, "z": {"values": [400]}}, ["t"], [24], values)
    return one | {"ranges": {name: one["ranges"]["ssrd"]}, "parameters": {name: PARAMETER}}


def test_a_collection_of_points_and_one_of_parameters():
    points = {"type": "CoverageCollection", "coverages": [point(10, 50), point(11.2, 43.6, values=[v + 1 for v in VALUES])]}
    found = table_of_coverage(points, near=(43.62, 11.31))
    assert (found.latitude, found.longitude, found.elevation) == (43.6, 11.2, 400)
    assert found.frame.iloc[3, 1] == 31
    parts = {
        "type": "CoverageCollection",
        "domainType": "PointSeries",
        "parameters": {
            "t2m": PARAMETER | {"observedProperty": {"label": {"en": "Air temperature"}}, "unit": {"symbol": {"value": "K"}}}
        },
        "coverages": [point(11, 43), {k: v for k, v in point(11, 43, "t2m").items() if k != "parameters"}],
    }
    assert list(table_of_coverage(parts).frame.columns) == ["time", "Global horizontal irradiance [W/m2]", "Air temperature [K]"]


def test_several_points_in_one_series_missing_values_and_ranges_by_reference():
    axes = {"composite": {"dataType": "tuple", "coordinates": ["x", "y", "z"], "values": [[9, 50, 10], [11, 43, 300]]}}
    values = [None if i == 5 else float(i) for i in range(48)]
    found = table_of_coverage(coverage(axes, ["composite", "t"], [2, 24], values), near=(43, 11))
    assert (found.latitude, found.elevation) == (43, 300)
    assert found.frame.iloc[:, 1].tolist() == [float(i) for i in range(24, 48)]
    assert np.isnan(table_of_coverage(coverage(axes, ["composite", "t"], [2, 24], values), near=(50, 9)).frame.iloc[5, 1])
    by_reference = point(11, 43)
    kept = by_reference["ranges"]["ssrd"]
    by_reference["ranges"] = {"ssrd": "https://example.org/ranges/1"}
    with pytest.raises(WeatherFileError, match="by reference"):
        table_of_coverage(by_reference)
    asked = []
    assert table_of_coverage(by_reference, fetch=lambda address: asked.append(address) or kept).frame.iloc[4, 1] == 40
    assert asked == ["https://example.org/ranges/1"]


@pytest.mark.parametrize(
    ("spoil", "said"),
    [
        (lambda c: c["domain"]["axes"].pop("t"), "no time axis"),
        (lambda c: c["ranges"]["ssrd"].update(shape=[25]), "24 values on axes of"),
        (lambda c: c["ranges"]["ssrd"].update(type="TiledNdArray"), "tiles"),
        (lambda c: c["ranges"]["ssrd"].update(axisNames=["x"], shape=[24]), "values on axes"),
        (lambda c: c["ranges"].clear(), "no range of numbers"),
        (lambda c: c["domain"]["axes"].update(x={"start": 0, "stop": 1, "num": 10**12}), "points"),
        (lambda c: c.pop("domain"), "cannot be read"),
        (lambda c: c["ranges"]["ssrd"].update(values=["a"] * 24), "cannot be read"),
    ],
)
def test_a_coverage_without_a_series_is_refused_in_words(spoil, said):
    broken = point(11, 43)
    spoil(broken)
    with pytest.raises(WeatherFileError, match=said):
        table_of_coverage(broken)


json_values = st.recursive(
    st.none() | st.booleans() | st.integers(-5, 5) | st.text(max_size=5),
    lambda inner: (
        st.lists(inner, max_size=3)
        | st.dictionaries(st.sampled_from(["t", "x", "axes", "values", "ranges", "domain"]), inner, max_size=3)
    ),
    max_leaves=12,
)


@settings(max_examples=150, deadline=None)
@given(json_values, json_values)
def test_any_json_that_calls_itself_a_coverage_is_read_or_refused(domain, ranges):
    with contextlib.suppress(WeatherFileError):
        table_of_coverage({"type": "Coverage", "domain": domain, "ranges": ranges})


def test_a_whole_year_as_a_service_writes_it_is_read_like_any_table(year):
    data = json.loads(write_coverage(year))
    del data["noontide:year"]
    for name in ("dni", "dhi", "wind", "pressure"):
        del data["ranges"][name]
    back = parse(json.dumps(data).encode(), "service")
    assert back.place.latitude == pytest.approx(43.62)
    assert back.ghi.sum() == pytest.approx(year.ghi.sum(), rel=2e-3)
    assert back.calendar.utc_offset == 0  # the service's own clock
    assert np.corrcoef(np.roll(back.ghi, 1), year.ghi)[0, 1] > 0.999
