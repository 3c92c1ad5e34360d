"""Throughput of a study over 1, 2 and 4 workers here: runs a second, bytes a run, seconds a chunk; and what a million years would take.

`python -m bench.trials DESIGN.json WEATHER.csv [RUNS] [--scheduler ADDRESS]`
"""

import argparse
import json
import time
from pathlib import Path

from noontide.carried import load_of
from noontide.core.design import Design
from noontide.core.simulation import Libraries
from noontide.core.trials import Course, Study, plan_of
from noontide.core.trials.runs_table import RunColumns
from noontide.package import read_weather
from noontide.parts import built_in_parts
from noontide.trying import Here, Lanes, Pace, spread

MILLION = 1_000_000


def study_of(design: Design, runs: int) -> Study:
    """A sample over the tilt of the first surface and what its modules lose: every run has a solar year of its own."""
    surface = next(iter(design.surfaces))
    loose = {
        "tilt": {"pointers": [f"/surfaces/{surface}/tilt"], "low": 5, "high": 60},
        "soiling": {"pointers": ["/losses/soiling"], "low": 0, "high": 8},
    }
    return Study.model_validate({"loose": loose, "way": "sobol", "runs": runs})


def measured(lanes: Lanes, design: Design, libraries: Libraries, runs: int) -> tuple[float, Pace, int]:
    """Seconds of a study on workers that are warm, its pace, and bytes of its runs as they are kept."""
    warm, _ = plan_of(study_of(design, 4 * lanes.count), design, libraries)
    list(spread(Course(warm), load_of(warm, libraries), lanes))
    plan, _ = plan_of(study_of(design, runs), design, libraries)
    pace, began = Pace(), time.perf_counter()
    found = [one for some in spread(Course(plan), load_of(plan, libraries), lanes, pace) for one in some]
    seconds = time.perf_counter() - began
    assert len(found) == runs and all(one.state == "done" for one in found)
    kept = sum(len(RunColumns.of(plan.study, found[at : at + 500]).as_bytes()) for at in range(0, runs, 500))
    return seconds, pace, kept


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("design")
    parser.add_argument("weather")
    parser.add_argument("runs", nargs="?", type=int, default=400)
    parser.add_argument("--scheduler", default="")
    given = parser.parse_args()
    document = json.loads(Path(given.design).read_text(encoding="utf-8"))
    design, libraries = Design.read(document), Libraries(built_in_parts(), read_weather(given.weather))
    print(f"{'workers':>8} {'runs/s':>8} {'a run':>8} {'a chunk':>8} {'sent':>9} {'back':>8} {'kept':>8}   a million")
    for count in (1, 2, 4):
        lanes: Lanes = Here(count)
        if given.scheduler:
            from noontide.cluster import DaskLanes

            lanes = DaskLanes(given.scheduler)
        seconds, pace, kept = measured(lanes, design, libraries, given.runs)
        workers = lanes.count
        lanes.shutdown()
        rate = given.runs / seconds
        print(
            f"{workers:8d} {rate:8.1f} {1e3 * pace.seconds_a_run:6.1f}ms {pace.work_seconds / pace.chunks:7.2f}s "
            f"{pace.sent_bytes / given.runs:7.0f} B {pace.received_bytes / given.runs:6.0f} B {kept / given.runs:6.0f} B   "
            f"{MILLION / rate / 3600:.1f} h, {MILLION * kept / given.runs / 1e9:.2f} GB kept"
        )
        if given.scheduler:
            return


if __name__ == "__main__":
    main()
