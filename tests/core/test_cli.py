import io
import json
import subprocess
import sys
from dataclasses import replace

import numpy as np
import pandas as pd
import pytest

from noontide.cli import main
from noontide.core.design import Design
from noontide.core.simulation import simulate
from noontide.core.weather import as_text, read, write
from noontide.parts import built_in_parts


@pytest.fixture
def files(tmp_path, roof_document, hill_weather):
    scheme, weather = tmp_path / "roof.json", tmp_path / "hill.epw"
    scheme.write_text(json.dumps(roof_document))
    write(hill_weather, weather)
    return scheme, weather


def test_simulate_prints_the_same_numbers_as_python(files, capsys):
    scheme, weather = files
    assert main(["simulate", str(scheme), "--weather", str(weather), "--json"]) == 0
    printed = json.loads(capsys.readouterr().out)
    results = simulate(Design.read(json.loads(scheme.read_text())), read(weather), built_in_parts())
    assert printed["annual"]["energy"] == results.annual.energy
    assert printed["cascade"]["residual"] < 1e-9


@pytest.mark.parametrize("ending", ["csv", "parquet"])
def test_hourly_tables(files, tmp_path, ending, capsys):
    scheme, weather = files
    out = tmp_path / f"hours.{ending}"
    assert main(["simulate", str(scheme), "--weather", str(weather), "--hourly", str(out)]) == 0
    table = pd.read_csv(out) if ending == "csv" else pd.read_parquet(out)
    assert len(table) == 8760
    assert "Annual energy" in capsys.readouterr().out


def test_a_scheme_from_standard_input(files, monkeypatch, capsys):
    scheme, weather = files
    monkeypatch.setattr(sys, "stdin", io.StringIO(scheme.read_text()))
    assert main(["simulate", "-", "--weather", str(weather)]) == 0
    assert "closure error" in capsys.readouterr().out


@pytest.mark.parametrize(
    ("change", "said"),
    [
        (lambda d: d["surfaces"]["barn"].update(tilt=120), "/surfaces/barn/tilt"),
        (lambda d: d["subarrays"]["south"].update(module="none-such"), "no module 'none-such'"),
        (lambda d: d.pop("site"), "/site"),
    ],
)
def test_a_wrong_scheme_is_told_with_its_place(files, capsys, roof_document, change, said):
    scheme, weather = files
    change(roof_document)
    scheme.write_text(json.dumps(roof_document))
    try:
        code = main(["simulate", str(scheme), "--weather", str(weather)])
    except SystemExit as stopped:
        code = stopped.code
    assert code == 3
    assert said in capsys.readouterr().err


def test_a_broken_weather_file_is_told_with_its_line(files, capsys):
    _scheme, weather = files
    weather.write_text(weather.read_text().replace(",99.9,999,", ",99.9,", 1))
    lines = weather.read_text().splitlines()
    lines[99] = "2026,1,4"
    weather.write_text("\n".join(lines))
    with pytest.raises(SystemExit) as stopped:
        main(["weather", "show", str(weather)])
    assert stopped.value.code == 3
    assert "line 100" in capsys.readouterr().err


def test_convert_there_and_back(files, tmp_path, capsys):
    _, weather = files
    table, again = tmp_path / "hill.csv", tmp_path / "again.epw"
    assert main(["weather", "convert", str(weather), str(table)]) == 0
    assert main(["weather", "convert", str(table), str(again)]) == 0
    assert read(again).ghi.sum() == pytest.approx(read(weather).ghi.sum())
    assert main(["weather", "show", str(again)]) == 0
    assert "kWh/m² a year" in capsys.readouterr().out


def test_sun_takes_any_offset(capsys):
    assert main(["sun", "--lat", "43", "--lon", "11", "--at", "2026-06-21T14:00+02:00"]) == 0
    first = capsys.readouterr().out
    assert main(["sun", "--lat", "43", "--lon", "11", "--at", "2026-06-21T12:00"]) == 0
    assert capsys.readouterr().out == first


@pytest.mark.parametrize("arguments", [["simulate"], ["sun", "--lat", "x"], ["fly"], ["serve", "--port", "99999"]])
def test_a_wrong_call_ends_with_two(arguments, capsys):
    with pytest.raises(SystemExit) as stopped:
        main(arguments)
    assert stopped.value.code == 2
    assert "usage" in capsys.readouterr().err


def test_help_loads_no_computation():
    """Help must be instant: no array library may be imported for it."""
    code = "import sys; from noontide.cli import _parser; _parser().format_help(); assert not {'numpy', 'pandas', 'django'} & set(sys.modules)"
    subprocess.run([sys.executable, "-c", code], check=True)


TWELVE = "30,48,85,120,155,170,178,150,105,65,35,24"


@pytest.fixture
def odd_table(tmp_path, hill_weather):
    """A table whose temperature has a heading that says nothing."""
    w = hill_weather
    rows = (
        f"{s:%d.%m.%Y %H:%M};{g:.1f};{t:.1f}"
        for s, g, t in zip(w.calendar.local_starts.astype(object), w.ghi, w.temperature, strict=True)
    )
    path = tmp_path / "odd.csv"
    path.write_text("Lat;43.62\nLon;11.31\nUTC+1\nZeit;Global;B\n" + "\n".join(rows), encoding="utf-8")
    return path


def test_a_reading_is_written_changed_and_given_back(odd_table, tmp_path, capsys):
    with pytest.raises(SystemExit) as refused:
        main(["weather", "show", str(odd_table)])
    assert refused.value.code == 3
    assert "air temperature" in capsys.readouterr().err
    assert main(["weather", "read", str(odd_table), "--json"]) == 0
    reading = json.loads(capsys.readouterr().out)
    reading["columns"][2] |= {"role": "temperature", "unit": "°C"}
    kept = tmp_path / "reading.json"
    kept.write_text(json.dumps(reading), encoding="utf-8")
    assert main(["weather", "convert", str(odd_table), str(tmp_path / "out.epw"), "--reading", str(kept)]) == 0
    assert main(["weather", "check", str(tmp_path / "out.epw")]) == 0
    assert main(["weather", "compare", str(tmp_path / "out.epw"), str(tmp_path / "out.epw")]) == 0
    assert "+0.0%" in capsys.readouterr().out


def test_how_a_table_is_understood_is_said_with_reasons(odd_table, capsys):
    assert main(["weather", "read", str(odd_table)]) == 0
    out = capsys.readouterr().out
    assert "day first" in out
    assert "The heading names it" in out
    assert "not used" in out


def test_a_reading_that_is_none_is_told_with_its_place(odd_table, tmp_path, capsys):
    wrong = tmp_path / "wrong.json"
    wrong.write_text('{"utc_offset": 99}', encoding="utf-8")
    with pytest.raises(SystemExit) as refused:
        main(["weather", "show", str(odd_table), "--reading", str(wrong)])
    assert refused.value.code == 3
    assert "/utc_offset" in capsys.readouterr().err


def test_a_year_is_synthesised_and_a_typical_one_put_together(tmp_path, capsys):
    years = []
    for seed in range(3):
        out = tmp_path / f"{seed}.csv"
        command = ["weather", "synthesise", "--ghi", TWELVE, "--lat", "48", "--lon", "11", "--seed", str(seed), "--out", str(out)]
        assert main(command) == 0
        # Three numbers for three years: what is synthesised has a nominal one.
        text = out.read_text(encoding="utf-8").replace("2026-", f"{2017 + 2 * seed}-")
        out.write_text(text.replace("# kind: typical", "# kind: measured"), encoding="utf-8")
        years.append(str(out))
    assert main(["weather", "typical", *years, "--out", str(tmp_path / "typical.csv")]) == 0
    assert "Finkelstein" in capsys.readouterr().err
    for command, words in (
        (["weather", "synthesise", "--ghi", "1,2", "--lat", "48", "--lon", "11"], "Twelve"),
        (["weather", "synthesise", "--ghi", "a,b", "--lat", "48", "--lon", "11"], "twelve numbers"),
        (["weather", "typical", years[0], "--out", "-"], "at least 3"),
    ):
        with pytest.raises(SystemExit) as refused:
            main(command)
        assert refused.value.code == 3
        assert words in capsys.readouterr().err


def test_the_horizon_of_a_height_grid_comes_as_pairs_to_paste(tmp_path, capsys):
    heights = [["0"] * 21 for _ in range(21)]
    for row in heights:
        row[18] = "400"
    grid = tmp_path / "hills.asc"
    grid.write_text(
        "ncols 21\nnrows 21\nxllcorner 10\nyllcorner 45\ncellsize 0.005\n" + "\n".join(" ".join(row) for row in heights)
    )
    point = ["--lat", "45.0525", "--lon", "10.0525"]
    assert main(["horizon", "--grid", str(grid), *point, "--step", "90"]) == 0
    north, east, _, west = (float(line.split("\t")[1]) for line in capsys.readouterr().out.splitlines())
    assert east > 5 > 1 > north == west == 0
    with pytest.raises(SystemExit) as refused:
        main(["horizon", "--grid", str(grid), "--lat", "0", "--lon", "0"])
    assert refused.value.code == 3
    assert "no height" in capsys.readouterr().err


@pytest.fixture
def record_file(tmp_path, hill_weather):
    """Three years of one table, each a tenth brighter."""
    lines = ["# latitude 43.62", "# longitude 11.31", "# elevation 412", "time;GHI [W/m2];temperature [C]"]
    for i, year in enumerate((2021, 2022, 2023)):
        starts = np.datetime64(f"{year}-01-01T00:00") + np.arange(8760) * np.timedelta64(60, "m")
        rows = zip(starts.astype(str), hill_weather.ghi * (1 + 0.1 * i) * 0.8, hill_weather.temperature, strict=True)
        lines += [f"{start};{ghi:.2f};{temperature:.2f}" for start, ghi, temperature in rows]
    path = tmp_path / "record.csv"
    path.write_text("\n".join(lines))
    return path


def test_a_record_of_years_is_summed_up_and_a_design_is_run_over_it(tmp_path, record_file, roof_document, capsys):
    assert main(["weather", "years", str(record_file), "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    assert found["years"] == [2021, 2022, 2023]
    assert found["p90"] < found["p50"] == pytest.approx(found["annual_ghi"][1], rel=1e-3)
    assert main(["weather", "years", str(record_file)]) == 0
    assert "spread between years" in capsys.readouterr().out
    scheme = tmp_path / "roof.json"
    scheme.write_text(json.dumps(roof_document))
    assert main(["years", str(scheme), str(record_file), "--json"]) == 0
    printed = capsys.readouterr()
    assert "2 of 3 years" in printed.err
    runs = json.loads(printed.out)["years"]
    assert runs[0]["energy"] < runs[1]["energy"] < runs[2]["energy"]
    assert main(["years", str(scheme), str(record_file)]) == 0
    assert "P90" in capsys.readouterr().out


def test_a_year_is_adjusted_and_its_doubts_are_told(tmp_path, hill_weather, capsys):
    source, target = tmp_path / "year.csv", tmp_path / "out.csv"
    source.write_text(as_text(hill_weather, "csv"))
    months = ",".join(["2"] * 12)
    assert main(["weather", "adjust", str(source), str(target), "--elevation", "1412", "--warm", months]) == 0
    made = read(target)
    assert made.temperature.mean() == pytest.approx(hill_weather.temperature.mean() - 4.5, abs=0.01)
    with pytest.raises(SystemExit):
        main(["weather", "adjust", str(source), str(target), "--factors", "1,2"])
    assert "Twelve factors" in capsys.readouterr().err
    spoilt = tmp_path / "spoilt.csv"
    columns = hill_weather.ghi.copy()
    columns[12] = 1500
    spoilt.write_text(as_text(replace(hill_weather, ghi=columns), "csv"))
    assert main(["weather", "check", str(spoilt), "--json"]) == 1
    assert json.loads(capsys.readouterr().out)["doubts"][0]["rule"] == "physically-possible"
    assert main(["weather", "check", str(source)]) == 0
    assert "No questionable values." in capsys.readouterr().out


def test_arrange_lists_ways_or_says_why_not(capsys):
    asked = ["arrange", "--module", "veltrane-430", "--cold", "-10", "--hot", "70"]
    assert main([*asked, "--inverter", "hexley-20", "--number", "64", "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    assert [[16, 16], [16, 16]] in found["arrangements"] and found["fits"]
    assert main([*asked, "--inverter", "hexley-20", "--number", "3"]) == 1
    assert "What goes: 7, 8" in capsys.readouterr().out
    assert main([*asked, "--number", "64"]) == 0
    assert "DC/AC 1.15" in capsys.readouterr().out


def test_parts_go_out_and_come_back(tmp_path, capsys):
    table, sheet = tmp_path / "modules.csv", tmp_path / "parts.json"
    assert main(["parts", "export", "--kind", "modules", "--out", str(table)]) == 0
    assert main(["parts", "import", str(table), "--kind", "modules", "--out", str(sheet)]) == 0
    assert main(["parts", "check", str(sheet)]) == 0
    assert "0 findings" in capsys.readouterr().out
    broken = table.read_text().replace("36.4", "=36.4")
    table.write_text(broken)
    sheet.unlink()
    with pytest.raises(SystemExit) as ended:
        main(["parts", "import", str(table), "--kind", "modules", "--out", str(sheet)])
    assert ended.value.code == 3 and not sheet.exists()
    assert "row 2, voc: The cell holds a formula" in capsys.readouterr().err
    assert main(["parts", "import", str(table), "--kind", "modules", "--out", str(sheet), "--skip"]) == 0
    assert sheet.exists()
    assert main(["parts", "fit", "veltrane-430"]) == 0
    assert "series resistance" in capsys.readouterr().out


def test_circuits_are_listed_drawn_and_billed(files, tmp_path, capsys):
    scheme, weather = files
    wired = json.loads(scheme.read_text())
    wired["subarrays"]["south"]["cable"] = {"length": 30}
    scheme.write_text(json.dumps(wired))
    call = ["circuits", str(scheme), "--weather", str(weather)]
    diagram, bill = tmp_path / "line.svg", tmp_path / "bill.csv"
    assert main([*call, "--json", "--diagram", str(diagram), "--bill", str(bill)]) == 0
    printed = json.loads(capsys.readouterr().out)
    assert printed["cables"][0]["section"] == 4 and printed["protection"][0]["key"] == "string-fuse:main:1"
    assert "Hexley 20" in diagram.read_text() and "Veltrane,430" in bill.read_text()
    with pytest.raises(SystemExit):
        main([*call, "--bill", str(tmp_path / "bill.doc")])
    assert "must be .csv or .xlsx" in capsys.readouterr().err


@pytest.fixture
def house(tmp_path, roof_document):
    document = roof_document | {
        "scene": {
            "buildings": {"house": {"length": 12, "width": 8, "gable": {"pitch": 35}}},
            "chimneys": {"c": {"on": "house", "y": -2}},
        },
        "surfaces": {"barn": {"face": "house/roof-1", "layout": {"modules": {"m1": {"u": 1, "v": 1}, "m2": {"u": 7, "v": 1}}}}},
    }
    path = tmp_path / "house.json"
    path.write_text(json.dumps(document))
    return path


def test_a_scene_is_shown_exported_shaded_and_imported(house, files, tmp_path, capsys):
    assert main(["scene", "show", str(house), "--json"]) == 0
    shown = json.loads(capsys.readouterr().out)
    assert [f["tilt"] for f in shown if f["kind"] == "roof"] == [35.0, 35.0]
    for ending in ("svg", "pdf", "dxf", "glb", "geojson", "csv"):
        assert main(["scene", "export", str(house), str(tmp_path / f"plan.{ending}")]) == 0
    capsys.readouterr()
    assert main(["scene", "shade", str(house), "--weather", str(files[1]), "--modules"]) == 0
    lines = capsys.readouterr().out.splitlines()
    assert len(lines) == 3 and ",m1," in lines[1]
    out = tmp_path / "more.json"
    assert main(["scene", "import", str(house), str(tmp_path / "plan.geojson"), "--out", str(out)]) == 0
    assert len(json.loads(out.read_text())["scene"]["buildings"]) > 1


def test_a_scene_command_that_cannot_be_done_says_why(house, tmp_path):
    (tmp_path / "x.geojson").write_text("nothing")
    for command, words in (
        (["export", str(house), "plan.bmp"], "the ending must be"),
        (["import", str(house), str(tmp_path / "x.geojson")], "no JSON"),
    ):
        with pytest.raises(SystemExit) as stopped:
            main(["scene", *command])
        assert words in str(stopped.value) or stopped.value.code
