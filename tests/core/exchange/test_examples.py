"""The examples run as they stand, and say what they should."""

import json
import runpy
from pathlib import Path

import pytest

EXAMPLES = Path(__file__).resolve().parents[3] / "docs/examples"


@pytest.mark.parametrize("name", ["first_year.py", "many_designs.py"])
def test_a_script_runs(name, capsys, monkeypatch):
    script = EXAMPLES / name
    monkeypatch.setattr("sys.argv", [str(script)])
    runpy.run_path(str(script), run_name="__main__")
    said = capsys.readouterr().out
    assert "energy" in said or "kWh a year" in said


def test_the_notebook_runs_from_its_first_cell_to_its_last(monkeypatch):
    monkeypatch.chdir(EXAMPLES)
    notebook = json.loads((EXAMPLES / "a-roof-by-the-hour.ipynb").read_text(encoding="utf-8"))
    names: dict = {}
    cells = ["".join(cell["source"]) for cell in notebook["cells"] if cell["cell_type"] == "code"]
    for cell in cells:
        exec(compile(cell, "cell", "exec"), names)
    assert names["by_month"].sum() == pytest.approx(names["year"].figures["energy"], rel=1e-9)
    assert not any(cell.get("outputs") for cell in notebook["cells"]), "figures of another version do not travel with it"


def test_the_readme_says_what_runs(capsys, monkeypatch):
    root = EXAMPLES.parents[1]
    monkeypatch.chdir(root)
    readme = (root / "README.md").read_text(encoding="utf-8")
    exec(compile(readme.split("```python\n")[1].split("```")[0], "README", "exec"), {})
    assert float(capsys.readouterr().out.split()[0]) > 0
