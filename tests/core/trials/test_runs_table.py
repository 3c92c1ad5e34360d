"""Runs by columns: what the pictures show is what one finds by looking through all runs."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from noontide.core.trials import Aim, Run, Study
from noontide.core.trials.runs_table import Filter, NoSuchColumn, RunColumns, RunsTable

STUDY = Study.model_validate(
    {
        "loose": {
            "tilt": {"pointers": ["/x"], "values": [10, 20, 30]},
            "kind": {"pointers": ["/y"], "values": ["flat", "steep"]},
            "length": {"pointers": ["/z"], "low": 0, "high": 4, "step": 1, "is_whole": True},
        },
        "limits": [{"figure": "energy", "at_least": 3}],
    }
)
figure = st.one_of(st.integers(0, 9).map(float), st.none())


@st.composite
def some_runs(draw):
    numbers = draw(st.lists(st.integers(0, 40), unique=True, min_size=1, max_size=20))
    runs = []
    for number in numbers:
        values = {
            "tilt": draw(st.sampled_from([10, 20, 30])),
            "kind": draw(st.sampled_from(["flat", "steep"])),
            "length": draw(st.integers(0, 4)),
        }
        if draw(st.integers(0, 5)) == 0:
            runs.append(Run(number, values, "failed", error="no weather"))
        else:
            figures = {"energy": draw(figure), "purchase": draw(figure)}
            energy = figures["energy"]
            broken = ("energy",) if energy is None or energy < 3 else ()
            runs.append(
                Run(number, values, "done", figures, broken=broken, design=f"{draw(st.integers(1, 12)):016x}", seconds=0.5)
            )
    return runs


def kept(run: Run) -> bool:
    return run.state == "done" and not run.broken


@given(some_runs())
def test_runs_come_back_as_they_were_kept(runs):
    half = len(runs) // 2
    pieces = [RunColumns.from_bytes(RunColumns.of(STUDY, part).as_bytes()) for part in (runs[:half], runs[half:], runs[:1])]
    table = RunsTable(STUDY, RunColumns.joined(STUDY, pieces))
    assert [int(n) for n in table.numbers] == sorted(run.number for run in runs), "each once"
    for run in runs:
        back = table.run(table.place(run.number))
        assert (back.values, back.state, back.error, back.seconds) == (run.values, run.state, run.error, run.seconds)
        assert [type(v) for v in back.values.values()] == [type(v) for v in run.values.values()]
        if run.state == "done":
            assert (back.figures, back.design) == (run.figures, run.design)
            assert bool(back.broken) == bool(run.broken) == (not table.kept[table.place(run.number)])


@given(some_runs(), st.sampled_from(["best", "mean"]))
def test_a_cell_is_made_of_the_runs_that_fall_on_it(runs, of):
    table = RunsTable.of(STUDY, runs)
    if "energy" not in table.figure_keys:
        return
    cells = {(cell.x, cell.y): cell for cell in table.map("tilt", "kind", "energy", of)}
    assert set(cells) == {(run.values["tilt"], run.values["kind"]) for run in runs}
    for (tilt, kind), cell in cells.items():
        there = [run for run in runs if (run.values["tilt"], run.values["kind"]) == (tilt, kind)]
        energies = [run.figures["energy"] for run in there if run.state == "done" and run.figures["energy"] is not None]
        good = [run.figures["energy"] for run in there if kept(run)]
        assert (cell.count, cell.kept) == (len(there), len(good))
        if of == "mean":
            assert cell.value == (pytest.approx(np.mean(energies)) if energies else None)
        else:
            # More energy is better; those that break a limit count only where none keeps it.
            assert cell.value == (max(good) if good else max(energies) if energies else None)
    held = table.effect("length", "energy", "mean", {"tilt": 20, "kind": "steep"})
    assert sum(cell.count for cell in held) >= sum(
        run.state == "done" and run.figures["energy"] is not None and run.values["tilt"] == 20 and run.values["kind"] == "steep"
        for run in runs
    )


@given(some_runs())
@settings(max_examples=60)
def test_the_front_is_found_by_comparing_every_two(runs):
    table = RunsTable.of(STUDY, runs)
    if "energy" not in table.figure_keys:
        return
    aims = [Aim(figure="energy", better="more"), Aim(figure="purchase", better="less")]
    there = [run for run in runs if kept(run) and run.figures["purchase"] is not None]

    def beats(a, b):
        one, other = ((run.figures["energy"], -run.figures["purchase"]) for run in (a, b))
        return all(x >= y for x, y in zip(one, other, strict=True)) and one != other

    points = {(run.figures["energy"], run.figures["purchase"]) for run in there if not any(beats(other, run) for other in there)}
    found = [table.run(int(place)) for place in table.front(aims)]
    assert {(run.figures["energy"], run.figures["purchase"]) for run in found} == points


@given(some_runs(), st.sampled_from(["run", "tilt", "energy"]), st.booleans(), st.integers(0, 9))
def test_order_and_filters(runs, key, down, low):
    table = RunsTable.of(STUDY, runs)
    if "energy" not in table.figure_keys:
        return
    places = table.ordered(key, down, table.chosen([Filter("energy", low=low)]))
    column = table.column(key)[places]
    assert np.all(np.diff(column if not down else -column) >= 0)
    assert len(places) == sum(
        run.state == "done" and run.figures["energy"] is not None and run.figures["energy"] >= low for run in runs
    )
    assert set(table.ordered(key)) == set(range(len(runs))), "runs without the figure come too, at the end"


def test_a_column_that_there_is_not():
    table = RunsTable.of(STUDY, [Run(0, {"tilt": 10, "kind": "flat", "length": 0}, "done", {"energy": 1.0})])
    for look in (
        lambda: table.ordered("beauty"),
        lambda: table.map("tilt", "beauty", "energy"),
        lambda: table.effect("tilt", "beauty"),
    ):
        with pytest.raises(NoSuchColumn, match="beauty"):
            look()
