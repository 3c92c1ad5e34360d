"""The part of the command line for what travels: projects as files, and many designs at once."""

import argparse
import csv
import json
import os
import re
from pathlib import Path

from noontide.command_errors import fail, say
from noontide.design_files import read_design
from noontide.weather_commands import add_reading, load_reading, read_weather


def add(commands: argparse._SubParsersAction) -> None:
    """Add `noontide pack`, `noontide unpack` and `noontide batch`."""
    pack = commands.add_parser("pack", help="put designs and their weather into one project file")
    pack.add_argument("schemes", metavar="DESIGN.json", nargs="+", help="the schemes, in order: A, B, C...")
    pack.add_argument("--weather", metavar="FILE", required=True, help="the weather year of all of them; as for simulate")
    add_reading(pack)
    pack.add_argument("--name", default="", help="of the project; the first design's where it is left out")
    pack.add_argument("--customer", default="", metavar="NAME", help="for whom it is")
    pack.add_argument("--out", metavar="PROJECT.noontide", required=True)
    pack.set_defaults(run=_pack)

    unpack = commands.add_parser("unpack", help="say what a project file holds, having checked every part of it; or write it out")
    unpack.add_argument("file", metavar="PROJECT.noontide")
    unpack.add_argument("--to", metavar="FOLDER", help="write its designs, weather, measured use, pictures and parts there")
    unpack.set_defaults(run=_unpack)

    many = commands.add_parser("batch", help="simulate all designs of a folder: one row each, in processes, to be taken up again")
    many.add_argument("folder", metavar="FOLDER", help="of DESIGN.json, each with its weather beside it, and PROJECT.noontide")
    many.add_argument("--out", metavar="TABLE.csv", required=True, help="rows that are there already and still hold are kept")
    many.add_argument("--weather", metavar="FILE", default="", help="for designs that have none beside them")
    many.add_argument("--processes", type=int, default=0, metavar="N", help="as many as there are cores by default")
    many.add_argument("--again", action="store_true", help="run every design, also those whose rows still hold")
    many.set_defaults(run=_batch)


def _pack(given: argparse.Namespace) -> int:
    from uuid import uuid4

    from noontide.core.exchange import KeptRevision, KeptScheme, KeptWeather, ProjectFile, pack
    from noontide.core.weather.files import format_of

    weather = read_weather(given.weather, given.reading)
    content = Path(given.weather).read_bytes()
    designs = [read_design(path) for path in given.schemes]
    reference = {"weather": {"digest": weather.digest, "title": weather.title[:200]}}
    schemes = [KeptScheme(_letter(i), 1, (KeptRevision(1, design.as_kept() | reference),)) for i, design in enumerate(designs)]
    project = ProjectFile(
        uid=uuid4().hex,
        name=(given.name or designs[0].name or designs[0].site.name or Path(given.schemes[0]).stem)[:120],
        schemes=tuple(schemes),
        customer=given.customer[:120],
        pinned="A",
        weather=(
            KeptWeather(
                weather, content, Path(given.weather).name, format_of(content) or "table", reading=load_reading(given.reading)
            ),
        ),
    )
    _write(Path(given.out), pack(project))
    say(f"wrote {len(schemes)} scheme{'s' if len(schemes) != 1 else ''} to {given.out}")
    return 0


def _unpack(given: argparse.Namespace) -> int:
    from noontide.core.exchange import ArchiveError, unpack
    from noontide.core.weather import as_text

    try:
        project = unpack(Path(given.file).read_bytes())
    except OSError as error:
        fail(f"{given.file} cannot be read: {error}")
    except ArchiveError as error:
        fail(f"{given.file}: {error}")
    print(f"{project.name}" + (f", for {project.customer}" if project.customer else ""))
    for scheme in project.schemes:
        title = scheme.document.get("name") or ""
        pinned = ", pinned" if scheme.letter == project.pinned else ""
        history = f", {len(scheme.revisions)} revisions" if len(scheme.revisions) > 1 else ""
        print(f"  scheme {scheme.letter}  {title}{pinned}, at revision {scheme.head}{history}")
    for year in project.weather:
        print(f"  weather  {year.weather.title}, from {year.file_name}")
    for use in project.use:
        print(f"  measured use  {use.series.title}, from {use.file_name}")
    for picture in project.pictures:
        print(f"  picture  {len(picture.content):,} bytes")
    for one in project.trials:
        runs = 0 if one.runs is None else len(one.runs.numbers)
        print(f"  trials of scheme {one.letter}  {one.study.name or ', '.join(one.study.loose)}: {runs:,} runs, {one.state}")
    if not given.to:
        return 0
    folder = Path(given.to)
    for scheme in project.schemes:
        text = json.dumps(scheme.document, indent=1, ensure_ascii=False) + "\n"
        _write(folder / f"scheme-{scheme.letter.lower()}.json", text.encode())
    for number, year in enumerate(project.weather, 1):
        name = "weather" if len(project.weather) == 1 else f"weather-{number}"
        _write(folder / f"{name}.csv", as_text(year.weather, "csv").encode())
        _write(folder / "sources" / f"{number}-{_plain(year.file_name)}", year.content)
    for number, use in enumerate(project.use, 1):
        _write(folder / "use" / f"{number}-{_plain(use.file_name)}", use.content)
    for picture in project.pictures:
        _write(folder / "pictures" / picture.digest, picture.content)
    for number, one in enumerate(project.trials, 1):
        study = json.dumps(one.study.model_dump(mode="json", exclude_unset=True), indent=1, ensure_ascii=False) + "\n"
        _write(folder / "trials" / f"{number}-study.json", study.encode())
        _write(
            folder / "trials" / f"{number}-design.json", (json.dumps(one.document, indent=1, ensure_ascii=False) + "\n").encode()
        )
        if one.runs is not None:
            from noontide.core.trials.runs_table import RunsTable
            from noontide.trying import as_table_file, table_of

            table = RunsTable(one.study, one.runs)
            runs = table_of([table.run(place) for place in range(len(table))], one.study)
            _write(folder / "trials" / f"{number}-runs.csv", as_table_file(runs, "csv"))
    if project.parts is not None:
        text = json.dumps(project.parts.model_dump(mode="json", exclude_defaults=True), indent=1, ensure_ascii=False)
        _write(folder / "parts.json", text.encode())
    say(f"written to {folder}")
    return 0


def _batch(given: argparse.Namespace) -> int:
    from noontide.batching import columns, items_in, rows_of_table, run_all

    folder, out = Path(given.folder), Path(given.out)
    if not folder.is_dir():
        fail(f"{folder} is no folder")
    if given.weather and not Path(given.weather).is_file():
        fail(f"{given.weather} is not there")
    if given.processes < 0:
        fail("--processes is 0 or more")
    items = items_in(folder, given.weather)
    if not items:
        fail(f"{folder} holds no design: a DESIGN.json, or a PROJECT.noontide")
    kept: dict[tuple[str, str], dict] = {}
    if out.is_file() and not given.again:
        earlier = rows_of_table(out.read_text(encoding="utf-8"))
        if not earlier and out.stat().st_size:
            fail(f"{out} is another table; name a new one, or say --again to write over it")
        before = {(row["file"], row["scheme"]): row for row in earlier if row["state"] == "done"}
        for item in items:
            row = before.get((item.label, item.scheme))
            if row is not None and not item.problem and row["key"] == item.key:
                kept[item.label, item.scheme] = row
    left = [item for item in items if (item.label, item.scheme) not in kept]
    if kept:
        say(f"{len(kept)} of {len(items)} are there already and still hold")

    def told(done: int, of: int, row: dict) -> None:
        what = f"{row['energy']:,.0f} kWh" if row["state"] == "done" else f"FAILED: {row['error']}"
        say(f"{done} of {of}  {row['file']}{' ' + row['scheme'] if row['scheme'] else ''}  {what}")

    headings = columns()
    rows = dict(kept)
    # Each row is on the disk as soon as it is there: what is interrupted is taken up again from them.
    _write_table(out, headings, rows.values())
    with out.open("a", encoding="utf-8", newline="") as file:
        writer = csv.DictWriter(file, headings, extrasaction="ignore", lineterminator="\n")
        for row in run_all(left, given.processes, told):
            rows[row["file"], row["scheme"]] = row
            writer.writerow(_cells(row))
            file.flush()
    _write_table(out, headings, [rows[item.label, item.scheme] for item in items])
    failed = sum(row["state"] != "done" for row in rows.values())
    say(f"wrote {len(items)} rows to {out}" + (f"; {failed} failed, and say why" if failed else ""))
    return 0


def _write_table(out: Path, headings: list[str], rows) -> None:
    """The whole table, in place of the one that is there once it is complete."""
    new = out.with_name(out.name + ".new")
    try:
        with new.open("w", encoding="utf-8", newline="") as file:
            writer = csv.DictWriter(file, headings, extrasaction="ignore", lineterminator="\n")
            writer.writeheader()
            writer.writerows(map(_cells, rows))
        os.replace(new, out)
    except OSError as error:
        new.unlink(missing_ok=True)
        fail(f"{out} cannot be written: {error}")


def _cells(row: dict) -> dict:
    """What a spreadsheet would take for a formula stands behind an apostrophe."""
    from noontide.core.cells import quoted

    return {key: quoted(value) if isinstance(value, str) else value for key, value in row.items()}


def _letter(number: int) -> str:
    return chr(65 + number) if number < 26 else chr(64 + number // 26) + chr(65 + number % 26)


def _plain(name: str) -> str:
    """A file name that is one on any disk, whatever stood in the archive."""
    return re.sub(r"[^A-Za-z0-9._-]+", "-", name).strip(".-")[:120] or "file"


def _write(path: Path, content: bytes) -> None:
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(content)
    except OSError as error:
        fail(f"{path} cannot be written: {error}")
