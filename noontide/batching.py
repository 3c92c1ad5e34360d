"""Many designs at once: each simulated in a process of its own kind, one row a design, whatever becomes of it."""

import csv
import hashlib
import io
import os
import time
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path
from typing import TYPE_CHECKING, Any

from noontide import __version__
from noontide.processes import ENDED, Work

if TYPE_CHECKING:
    import pandas as pd

WEATHER_ENDINGS = (".epw", ".csv", ".parquet", ".xlsx", ".txt", ".covjson")
PROJECT_ENDING = ".noontide"  # as the core has it, which is loaded where it is needed
FACTS = ("file", "scheme", "name", "state", "error", "errors", "cautions", "weather", "seconds", "key")
Told = Callable[[int, int, dict[str, Any]], None]


@dataclass(frozen=True)
class Item:
    """A design to be simulated: a file of its own with the weather's, or a scheme of a project's file."""

    path: str
    label: str  # as it is named in the table
    scheme: str = ""  # the letter in a project's file
    weather: str = ""
    problem: str = ""  # why it cannot even be begun

    @property
    def key(self) -> str:
        """Of all that its row depends on: the files and the program."""
        marks = [_mark(path) for path in (self.path, self.weather) if path]
        return hashlib.sha256(" ".join([__version__, self.scheme, *marks]).encode()).hexdigest()[:24]


def columns() -> list[str]:
    """Headings of the table: facts, then every figure that a design can have."""
    from noontide.core.figures.catalogue import FIGURES

    return [*FACTS, *(figure.key for figure in FIGURES if figure.in_headline)]


def items_in(folder: Path, weather: str = "") -> list[Item]:
    """The designs of a folder and of those below it, in order of their names.

    The weather of a design is the file of its own name beside it (`barn.json`, `barn.epw`), else `weather` with any ending in its
    folder, else the one that is given.

    Raises
    ------
    OSError
        If the folder cannot be read.
    """
    found: list[Item] = []
    for path in sorted(p for p in folder.rglob("*") if p.is_file()):
        label = path.relative_to(folder).as_posix()
        if path.suffix == PROJECT_ENDING:
            found += _schemes_of(path, label)
        elif path.suffix == ".json" and _is_design(path):
            beside = [path.with_suffix(ending) for ending in WEATHER_ENDINGS]
            shared = [path.with_name(f"weather{ending}") for ending in WEATHER_ENDINGS]
            own = next((str(one) for one in (*beside, *shared) if one.is_file()), weather)
            found.append(Item(str(path), label, weather=own, problem="" if own else f"There is no weather for it: lay {path.stem}.epw or weather.epw beside it, or name one."))  # fmt: skip
    return found


def run_all(items: Sequence[Item], processes: int = 0, told: Told | None = None) -> Iterator[dict[str, Any]]:
    """A row of every item as soon as it is there, in any order; an item that fails, or ends its process, has a row that says so."""
    for done, row in enumerate(Work(simulated, _lost).results(items, processes or os.cpu_count() or 1), 1):
        if told is not None:
            told(done, len(items), row)
        yield row


def batch(
    designs: str | Path | Iterable[Item], weather: str = "", processes: int = 0, told: Told | None = None
) -> "pd.DataFrame":
    """A table of many designs, one row each, in the order in which they were given.

    Parameters
    ----------
    designs
        A folder, or items.
    weather
        For designs of a folder that have none beside them.
    processes
        As many as the machine has cores where it is 0.
    """
    import pandas as pd

    items = items_in(Path(designs), weather) if isinstance(designs, str | Path) else list(designs)
    rows = {(row["file"], row["scheme"]): row for row in run_all(items, processes, told)}
    return pd.DataFrame([rows[item.label, item.scheme] for item in items], columns=columns())


def rows_of_table(text: str) -> list[dict[str, str]]:
    """The rows that an earlier run has written; none where the text is another table."""
    reader = csv.DictReader(io.StringIO(text))
    return list(reader) if set(FACTS) <= set(reader.fieldnames or ()) else []


def simulated(item: Item) -> dict[str, Any]:
    """The row of an item; never raises."""
    from noontide.core.checks import find_checks
    from noontide.core.fields import in_one_line
    from noontide.core.figures.catalogue import figures_of

    began = time.monotonic()
    row: dict[str, Any] = {"file": item.label, "scheme": item.scheme, "key": item.key}
    try:
        if item.problem:
            raise ValueError(item.problem)
        results, row["name"] = _results(item)
        checks = find_checks(results)
        row |= {
            "weather": results.weather.title,
            "errors": sum(check.severity == "error" and not check.accepted for check in checks),
            "cautions": sum(check.severity != "error" and not check.accepted for check in checks),
            **figures_of(results),
            "state": "done",
        }
    except Exception as error:  # one design that fails must not take the others with it
        row |= {"state": "failed", "error": in_one_line(error)}
    return row | {"seconds": round(time.monotonic() - began, 3)}


def _results(item: Item) -> tuple[Any, str]:
    from noontide.package import read_design, read_project, read_weather, simulate

    if item.scheme:
        project = _kept(read_project, item.path)
        return project.simulate(item.scheme).results, project.designs[item.scheme].name or project.file.name
    design = read_design(item.path)
    return simulate(design, _kept(read_weather, item.weather)).results, design.name or design.site.name


@lru_cache(maxsize=4)
def _kept(read: Callable[[str], Any], path: str) -> Any:
    """What was read last: many designs share one weather year, and the schemes of a project its file."""
    return read(path)


def _lost(item: Item) -> dict[str, Any]:
    return {"file": item.label, "scheme": item.scheme, "key": item.key, "state": "failed", "error": ENDED}


def _schemes_of(path: Path, label: str) -> list[Item]:
    from noontide.core.exchange.archive import ArchiveError, unzipped
    from noontide.core.fields import in_one_line

    try:
        manifest, _ = unzipped(path.read_bytes())
        letters = [str(entry["letter"]) for entry in manifest["schemes"]]
    except (ArchiveError, KeyError, TypeError) as error:
        return [Item(str(path), label, "?", problem=in_one_line(error))]
    return [Item(str(path), label, letter) for letter in letters]


def _is_design(path: Path) -> bool:
    from noontide.core.recognising import recognise_file

    return recognise_file(path.read_bytes(), path.name).kind == "scheme"


@lru_cache(maxsize=4096)
def _mark(path: str) -> str:
    try:
        return hashlib.sha256(Path(path).read_bytes()).hexdigest()
    except OSError:
        return "unreadable"
