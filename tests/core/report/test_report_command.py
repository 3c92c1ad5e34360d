"""`noontide report`: the same report as the core's, and refusals in words."""

import json

import pytest

from noontide.cli import main
from noontide.core.weather import write


@pytest.fixture
def files(tmp_path, roof_document, hill_weather):
    design, weather = tmp_path / "roof.json", tmp_path / "hill.epw"
    design.write_text(json.dumps(roof_document))
    write(hill_weather, weather)
    return design, weather


@pytest.mark.parametrize(("ending", "start"), [("pdf", b"%PDF-"), ("html", b"<!doctype")])
def test_an_edition_is_written_and_what_is_left_out_is_said(files, tmp_path, capsys, ending, start):
    design, weather = files
    out = tmp_path / f"report.{ending}"
    assert main(["report", str(design), "--weather", str(weather), "--edition", "engineer", "--out", str(out)]) == 0
    assert out.read_bytes().startswith(start)
    said = capsys.readouterr().err
    assert "Plan is left out: No surface lies" in said and "pages to" in said


def test_pages_of_ones_own_choice(files, tmp_path, capsys):
    design, weather = files
    out = tmp_path / "two.html"
    assert main(["report", str(design), "--weather", str(weather), "--pages", "yield,cover", "--out", str(out)]) == 0
    assert (
        out.read_text().index("Energy by month") < out.read_text().index("Annual energy")
        and "wrote 2 pages" in capsys.readouterr().err
    )


@pytest.mark.parametrize(
    ("more", "said"),
    [(["--edition", "banker"], "no edition 'banker'"), (["--pages", "castle"], "no page 'castle'"), (["--paper", "b5"], "no paper 'b5'")],
)  # fmt: skip
def test_what_there_is_not_is_refused_in_words(files, tmp_path, capsys, more, said):
    design, weather = files
    with pytest.raises(SystemExit) as ended:
        main(["report", str(design), "--weather", str(weather), *more, "--out", str(tmp_path / "x.pdf")])
    assert ended.value.code == 3 and said in capsys.readouterr().err
    assert not (tmp_path / "x.pdf").exists()
