"""Many designs at once, and Noontide from Python: what a program sees is what the chain gives."""

import csv
import json
import os
import subprocess
import sys

import pytest

import noontide
from noontide import batching
from noontide.cli import main
from noontide.core.design import Design
from noontide.core.simulation import simulate
from noontide.core.weather import as_text


@pytest.fixture
def folder(tmp_path, roof_document, hill_weather):
    (tmp_path / "weather.csv").write_text(as_text(hill_weather, "csv"), encoding="utf-8")
    (tmp_path / "roof.json").write_text(json.dumps(roof_document), encoding="utf-8")
    (tmp_path / "west").mkdir()
    west = roof_document | {"name": "=West", "losses": {"soiling": 9}}
    (tmp_path / "west" / "west.json").write_text(json.dumps(west), encoding="utf-8")
    (tmp_path / "west" / "west.csv").write_text(as_text(hill_weather, "csv"), encoding="utf-8")
    (tmp_path / "notes.json").write_text('{"a": 1}', encoding="utf-8")
    return tmp_path


def table_of(path) -> list[dict]:
    with path.open(encoding="utf-8", newline="") as file:
        return list(csv.DictReader(file))


def test_a_folder_becomes_a_table_that_is_taken_up_again(folder, capsys, roof_document, hill_weather, parts):
    (folder / "broken.json").write_text(
        '{"surfaces": {"s": {"tilt": 200}}, "site": {}, "format": "noontide-design/5"}', encoding="utf-8"
    )
    out = folder / "table.csv"
    assert main(["batch", str(folder), "--out", str(out), "--processes", "2"]) == 0
    rows = {row["file"]: row for row in table_of(out)}
    assert list(rows) == ["broken.json", "roof.json", "west/west.json"], "in order, and nothing that is no design"
    expected = simulate(Design.read(roof_document), hill_weather, parts).annual.energy
    # The file of weather holds rounded values of the year.
    assert float(rows["roof.json"]["energy"]) == pytest.approx(expected, rel=1e-3)
    assert rows["broken.json"]["state"] == "failed" and "/" in rows["broken.json"]["error"]
    assert rows["west/west.json"]["name"] == "'=West", "no text is a formula"
    assert float(rows["west/west.json"]["energy"]) < float(rows["roof.json"]["energy"])
    before = out.read_text(encoding="utf-8")
    capsys.readouterr()

    # Once more: only what failed and what has changed is run; the rows that still hold stay to the letter.
    changed = roof_document | {"losses": {"soiling": 5}}
    (folder / "west" / "west.json").write_text(json.dumps(changed), encoding="utf-8")
    main(["batch", str(folder), "--out", str(out), "--processes", "1"])
    said = capsys.readouterr().err
    assert "1 of 3 are there already" in said and "roof.json" not in said
    after = out.read_text(encoding="utf-8")
    assert after.splitlines()[2] == before.splitlines()[2] and after != before
    # What was interrupted: the rows so far are kept, whatever stands behind them.
    out.write_text("\n".join(before.splitlines()[:3]) + "\n", encoding="utf-8")
    main(["batch", str(folder), "--out", str(out)])
    assert [row["file"] for row in table_of(out)] == list(rows)


def test_another_table_is_not_written_over(folder, capsys):
    out = folder / "mine.csv"
    out.write_text("a,b\n1,2\n", encoding="utf-8")
    with pytest.raises(SystemExit):
        main(["batch", str(folder), "--out", str(out)])
    assert "another table" in capsys.readouterr().err and out.read_text() == "a,b\n1,2\n"


def test_a_design_that_ends_its_process_takes_no_other_with_it(folder, monkeypatch):
    items = [*batching.items_in(folder), batching.Item("/", "killer.json", weather="/")]
    monkeypatch.setattr(batching, "simulated", killing)
    rows = {row["file"]: row for row in batching.run_all(items, 2)}
    assert rows["killer.json"]["state"] == "failed" and "ended" in rows["killer.json"]["error"]
    assert {rows[item.label]["state"] for item in items[:-1]} == {"done"}


def killing(item):
    """As `simulated`, but for a design whose process is ended from without."""
    if item.label == "killer.json":
        os._exit(9)
    return batching.simulated(item)


def test_a_project_is_packed_unpacked_and_simulated_the_same(folder, capsys, tmp_path):
    file = tmp_path / "p.noontide"
    main(
        [
            "pack",
            str(folder / "roof.json"),
            str(folder / "west/west.json"),
            "--weather",
            str(folder / "weather.csv"),
            "--name",
            "Two roofs",
            "--out",
            str(file),
        ]
    )
    main(["unpack", str(file), "--to", str(tmp_path / "out")])
    said = capsys.readouterr().out
    assert "Two roofs" in said and "scheme B" in said and "pinned" in said
    project = noontide.read_project(file)
    year = project.simulate("A")
    unpacked = noontide.simulate(
        noontide.read_design(tmp_path / "out/scheme-a.json"), noontide.read_weather(tmp_path / "out/weather.csv")
    )
    assert unpacked.figures["energy"] == pytest.approx(year.figures["energy"], rel=1e-12)
    rows = {(row["file"], row["scheme"]): row for row in batching.run_all(batching.items_in(tmp_path), 1)}
    assert rows["p.noontide", "A"]["energy"] == year.figures["energy"]
    with pytest.raises(ValueError, match="not in the file"):
        noontide.Project(type(project.file)(project.file.uid, "x", project.file.schemes)).simulate("A")


def test_tables_agree_with_the_chain(roof_document, hill_weather):
    design = Design.read(roof_document)
    year = noontide.simulate(design, hill_weather)
    assert year.hours["delivered [W]"].sum() / 1000 == pytest.approx(year.figures["energy"], rel=1e-12)
    assert year.months["energy [kWh]"].sum() == pytest.approx(year.figures["energy"], rel=1e-12)
    cascade = year.cascade
    start = year.results.cascade.start
    assert start + cascade["energy"].sum() == pytest.approx(year.figures["energy"], rel=1e-9)
    assert set(year.checks.columns) >= {"rule", "severity", "title"}
    assert year.figure_units["energy"] == "Annual energy [kWh]"
    dirtier = noontide.change(design, {"losses": {"soiling": 10}})
    assert noontide.simulate(dirtier, hill_weather).figures["energy"] < year.figures["energy"]
    assert design.losses.soiling != 10, "what was given is not changed"


def test_importing_the_package_loads_nothing_that_is_not_asked_for():
    told = subprocess.run(
        [sys.executable, "-c", "import sys, noontide; print('numpy' in sys.modules); noontide.Design; print('numpy' in sys.modules)"],
        capture_output=True, text=True, check=True,
    )  # fmt: skip
    assert told.stdout.split() == ["False", "True"]
    with pytest.raises(AttributeError, match="no attribute"):
        noontide.nothing  # noqa: B018
