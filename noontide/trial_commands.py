"""The part of the command line that tries many designs at once."""

import argparse
import json
import os
import time
from pathlib import Path
from typing import TYPE_CHECKING, Any

from noontide.command_errors import fail, say
from noontide.design_files import read_design, read_validated
from noontide.money_commands import add_use, series_named
from noontide.weather_commands import add_reading, read_weather

if TYPE_CHECKING:
    from noontide.core.design import Design
    from noontide.core.simulation import Libraries
    from noontide.core.trials import Plan, Study

ENDINGS = (".csv", ".xlsx", ".parquet")
SHOWN = 8  # of those as good as the best


def add(commands: argparse._SubParsersAction) -> None:
    """Add `noontide trials` and `noontide sensitivity`."""
    one = commands.add_parser("sensitivity", help="what a step more and a step less of each input does to a figure")
    one.add_argument("design", metavar="DESIGN.json")
    one.add_argument("--weather", metavar="FILE", required=True, help="as for simulate")
    add_reading(one)
    add_use(one)
    one.add_argument("--figure", default="energy", metavar="KEY", help="such as energy, net_present_value, lost_load")
    one.add_argument("--json", action="store_true", help="all of it as JSON")
    one.set_defaults(run=_sensitivity)
    many = commands.add_parser("trials", help="let values of a design loose: every run is the year of that design, and a row")
    many.add_argument("study", metavar="STUDY.json", help="what is let loose; docs/formats/study.md")
    many.add_argument("--design", metavar="DESIGN.json", required=True)
    many.add_argument("--weather", metavar="FILE", required=True, help="as for simulate")
    add_reading(many)
    add_use(many)
    many.add_argument("--out", metavar="RUNS.csv", help="all runs as .csv, .xlsx or .parquet")
    many.add_argument("--processes", type=int, default=1, metavar="N", help="0 for one a core")
    many.add_argument(
        "--scheduler",
        metavar="ADDRESS",
        default=os.environ.get("NOONTIDE_DASK_SCHEDULER", ""),
        help="of a Dask scheduler whose workers do it, such as tcp://10.0.0.5:8786",
    )
    many.add_argument("--share", type=float, default=2.0, metavar="PERCENT", help="within which runs are as good as the best")
    many.set_defaults(run=_trials)
    worker = commands.add_parser("worker", help="work for a Dask scheduler: trials of a server or of `trials --scheduler`")
    worker.add_argument("--scheduler", required=True, metavar="ADDRESS", help="such as tcp://10.0.0.5:8786")
    worker.add_argument("--processes", type=int, default=0, metavar="N", help="0 for one a core")
    worker.set_defaults(run=_worker)


def _worker(given: argparse.Namespace) -> int:
    from noontide.cluster import NoScheduler, work_for

    try:
        work_for(given.scheduler, given.processes)
    except NoScheduler as error:
        fail(str(error))
    except KeyboardInterrupt:
        pass
    return 0


def _trials(given: argparse.Namespace) -> int:
    from noontide.core.simulation import Libraries
    from noontide.core.trials import Study
    from noontide.parts import built_in_parts
    from noontide.trying import as_table_file, table_of, tried

    if given.out and Path(given.out).suffix not in ENDINGS:
        fail(f"{given.out} is neither {', '.join(ENDINGS[:-1])} nor {ENDINGS[-1]}")
    if given.processes < 0 or given.share < 0:
        fail("--processes and --share are 0 or more")
    study = read_validated(given.study, "study", Study.model_validate)
    design = read_design(given.design)
    libraries = Libraries(
        built_in_parts(), read_weather(given.weather, given.reading), series_named(given, design.site.time_zone)
    )
    plan = planned(given.study, study, design, libraries)
    began = time.monotonic()
    try:
        runs = list(tried(plan, libraries, given.processes, _told(began), _lanes(given.scheduler)))
    except RuntimeError as error:  # no scheduler, or a worker of another version
        fail(str(error))
    say(f"{len(runs):,} runs in {time.monotonic() - began:.1f} s; {sum(one.state == 'failed' for one in runs)} failed")
    if given.out:
        Path(given.out).write_bytes(as_table_file(table_of(runs, study), given.out.rpartition(".")[2]))
        say(f"wrote {given.out}")
    return _tell(runs, study, given.share)


def planned(path: str, study: "Study", design: "Design", libraries: "Libraries") -> "Plan":
    """The runs of a study of a file, whose number is said; the command fails with words where it cannot be run."""
    from noontide.core.trials import StudyError, plan_of

    try:
        plan, _ = plan_of(study, design, libraries)
    except StudyError as error:
        fail(f"{path}{error.pointer and ' at ' + error.pointer}: {error}")
    say(f"{plan.count:,} runs")
    return plan


def _lanes(scheduler: str) -> Any:
    if not scheduler:
        return None
    from noontide.cluster import DaskLanes

    lanes = DaskLanes(scheduler)
    if lanes.waits_for:
        say(lanes.waits_for)
    return lanes


def _sensitivity(given: argparse.Namespace) -> int:
    from dataclasses import asdict

    from noontide.core.simulation import Libraries
    from noontide.core.trials import StudyError, sensitivity
    from noontide.parts import built_in_parts

    design = read_design(given.design)
    weather = read_weather(given.weather, given.reading)
    libraries = Libraries(built_in_parts(), weather, series_named(given, design.site.time_zone))
    try:
        own, effects = sensitivity(design, given.figure, libraries, _told(time.monotonic()))
    except StudyError as error:
        fail(f"{given.design}: {error}")
    moving = [effect for effect in effects if effect.reach(own)]
    if given.json:
        print(json.dumps({"figure": given.figure, "value": own, "effects": [asdict(effect) for effect in effects]}, indent=1))
        return 0
    print(f"{given.figure} {own:,.6g}")
    for effect in moving:
        lower, higher = ("refused" if value is None else f"{value - own:+,.4g}" for value in (effect.lower, effect.higher))
        one = effect.input
        print(f"{lower:>12}  {higher:>12}  {one.title}: {one.value:g} ∓ {one.step:g} {one.unit}".rstrip())
    say(f"{len(effects) - len(moving)} inputs change nothing by a step")
    return 0


def _told(began: float) -> Any:
    last = [began]

    def told(done: int, of: int) -> None:
        now = time.monotonic()
        if now - last[0] > 2 or done == of:
            last[0] = now
            say(f"{done:,} of {of:,}, {(now - began) / done * (of - done):.0f} s left")

    return told


def _tell(runs: list, study: Any, percent: float) -> int:
    from noontide.core.trials import as_good_as_best, best_of, shared_by

    for one in [one for one in runs if one.state == "failed"][:3]:
        say(f"run {one.number}, {_values(one)}: {one.error}")
    if study.aim is None:
        return 0
    best = best_of(runs, study.aim)
    if best is None:
        nearest = min((one for one in runs if one.state == "done"), key=lambda one: len(one.broken), default=None)
        say(
            "no run keeps all limits"
            + (f"; run {nearest.number} breaks the fewest: {', '.join(nearest.broken)}" if nearest else "")
        )
        return 1
    good = as_good_as_best(runs, study.aim, percent / 100)
    print(f"best: run {best.number}, {study.aim.figure} {best.figures[study.aim.figure]:,.6g}; {_values(best)}")
    designs = len({one.design for one in runs if one.state == "done"})
    print(f"as good within {percent:g} %: {len(good)} of {designs} designs")
    for one in good[1 : SHOWN + 1]:
        print(f"  run {one.number}, {one.figures[study.aim.figure]:,.6g}; {_values(one)}")
    for words in shared_by(good, study):
        print(words)
    return 0


def _values(one: Any) -> str:
    return ", ".join(f"{key} {value:g}" if isinstance(value, float) else f"{key} {value}" for key, value in one.values.items())
