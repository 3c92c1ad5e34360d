"""A study over workers: every run once and as it would be here, whatever becomes of a worker or of a scheduler."""

import contextlib
import copy
import dataclasses
import json
import os
import random
import signal
import socket
import subprocess
import sys
import threading
import time
from concurrent.futures import Future

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from noontide import carried, cluster
from noontide.carried import Refused, load_of, run_chunk, runs_of
from noontide.cluster import DaskLanes, NoScheduler
from noontide.core.design import Design
from noontide.core.simulation import Libraries
from noontide.core.trials import Course, Run, Study, plan_of, run
from noontide.processes import Ended, Workers
from noontide.trying import Here, spread, tried
from tests.conftest import SOUTH_ROOF
from tests.core.trials.ending import nap, number_of

TILTS = {"loose": {"tilt": {"pointers": ["/surfaces/barn/tilt"], "low": 1, "high": 60, "step": 1}}, "figures": ["energy"]}
SEARCH = {
    "loose": {
        "tilt": {"pointers": ["/surfaces/barn/tilt"], "low": 5, "high": 60},
        "azimuth": {"pointers": ["/surfaces/barn/azimuth"], "low": 90, "high": 270},
    },
    "way": "search", "runs": 40, "figures": ["energy"], "aim": {"figure": "energy", "better": "more"},
}  # fmt: skip


@pytest.fixture(scope="module")
def libraries(hill_weather, parts):
    return Libraries(parts, hill_weather)


@pytest.fixture(scope="module")
def plans(libraries):
    design = Design.read(copy.deepcopy(SOUTH_ROOF))
    return {
        name: plan_of(Study.model_validate(given), design, libraries)[0] for name, given in (("tilts", TILTS), ("search", SEARCH))
    }


@pytest.fixture(scope="module")
def alone(plans, libraries):
    return {name: figures(run(plan, libraries)) for name, plan in plans.items()}


def figures(runs) -> dict:
    found = [(one.number, one.values, dict(one.figures)) for one in runs]
    by_number = {number: rest for number, *rest in found}
    assert len(by_number) == len(found), "none counted twice"
    return by_number


class Failing:
    """Workers that do a chunk here, or lose it."""

    overdue = 0.0

    def __init__(self, count: int, loses):
        self.count, self.loses, self.given = count, loses, 0

    def submit(self, work, /, *arguments):
        future: Future = Future()
        self.given += 1
        if self.loses(json.loads(arguments[0])["tasks"], self.given):
            future.set_exception(Ended("gone"))
        else:
            future.set_result(made(arguments[0]))
        return future

    def verdict(self, error):
        return "gone" if isinstance(error, Ended) else "raise"


def made(chunk: bytes) -> bytes:
    """Runs whose figures are their numbers: what is tried is that each comes back once."""
    return json.dumps(
        {
            "runs": [
                dataclasses.asdict(Run(n, v, "done", {"energy": float(n)}, seconds=0.2)) for n, v in json.loads(chunk)["tasks"]
            ]
        }
    ).encode()


@given(lanes=st.integers(1, 5), chance=st.floats(0, 0.5), bad=st.sets(st.integers(0, 59), max_size=4), seed=st.integers(0, 10**6))
@settings(max_examples=40, deadline=None)
def test_none_is_lost_and_none_twice_whatever_workers_do(plans, libraries, lanes, chance, bad, seed):
    """Workers end by chance, and always with some runs: those alone are given up."""
    dice = random.Random(seed)

    def loses(tasks, given):
        return any(number in bad for number, _ in tasks) or (len(tasks) > 1 and dice.random() < chance)

    load = load_of(plans["tilts"], libraries)
    runs = [one for some in spread(Course(plans["tilts"]), load, Failing(lanes, loses)) for one in some]
    assert sorted(one.number for one in runs) == list(range(60))
    assert {one.number for one in runs if one.state == "failed"} == bad
    assert all(one.error for one in runs if one.state == "failed")


def test_what_nothing_helps_is_raised_and_not_tried_for_ever(plans, libraries):
    class Refusing(Failing):
        def submit(self, work, /, *arguments):
            future: Future = Future()
            future.set_exception(Refused("another version"))
            return future

    with pytest.raises(Refused, match="another version"):
        list(spread(Course(plans["tilts"]), load_of(plans["tilts"], libraries), Refusing(2, None)))


@pytest.mark.parametrize("name", ["tilts", "search"])
def test_processes_find_what_one_finds_to_the_last_bit(name, plans, alone, libraries):
    assert figures(tried(plans[name], libraries, lanes=Here(2))) == alone[name]


@pytest.mark.parametrize("name", ["tilts", "search"])
@pytest.mark.parametrize("done", [0, 7, 23, 40])
def test_a_study_goes_on_where_it_was_left(name, done, plans, alone, libraries):
    every = list(run(plans[name], libraries))
    known = {one.number: one for one in every[:done]}
    rest = list(run(plans[name], libraries, known))
    assert not set(known) & {one.number for one in rest}
    assert figures([*known.values(), *rest]) == alone[name]


def test_a_process_that_is_killed_or_frozen_takes_no_run_with_it(plans, alone, libraries):
    lanes = Here.__new__(Here)
    lanes.workers = Workers(2, silence=8.0)
    lanes.count = 2
    found, hit = [], []
    for runs in spread(Course(plans["tilts"]), load_of(plans["tilts"], libraries), lanes):
        found += runs
        pids = [pid for pid in lanes.workers.pids() if pid not in hit]
        if len(hit) < 2 and pids:
            os.kill(pids[0], signal.SIGKILL if not hit else signal.SIGSTOP)
            hit.append(pids[0])
    lanes.shutdown()
    assert len(hit) == 2 and figures(found) == alone["tilts"]


def test_workers_end_at_once_when_they_are_dismissed():
    workers = Workers(2)
    futures = [workers.submit(nap, 60) for _ in range(4)]
    while not workers.pids():
        time.sleep(0.05)
    began = time.monotonic()
    workers.shutdown(cancel_futures=True)
    assert time.monotonic() - began < 5 and not workers.pids()
    assert all(future.cancelled() or isinstance(future.exception(), Ended) for future in futures)
    with pytest.raises(RuntimeError):
        workers.submit(nap, 1)


def test_work_that_raises_keeps_its_process():
    workers = Workers(1)
    with pytest.raises(ValueError, match="no number"):
        workers.submit(number_of, "seven").result()
    (pid,) = workers.pids()
    assert workers.submit(number_of, "7").result() == 7 and workers.pids() == [pid]
    workers.shutdown()


def test_a_worker_asks_for_what_it_does_not_have_and_takes_nothing_false(plans, libraries, monkeypatch):
    plan = plans["tilts"]
    load = load_of(plan, libraries)
    monkeypatch.setattr(carried, "_CONTENTS", type(carried._CONTENTS)())
    monkeypatch.setattr(carried, "_STUDIES", type(carried._STUDIES)())
    chunk = load.chunk([(0, plan.values(0))])
    runs, missing = runs_of(run_chunk(chunk, {}))
    assert not runs and set(missing) == set(load.contents)
    first = missing[0]
    with pytest.raises(Refused, match="digest"):
        run_chunk(chunk, {first: load.contents[first] + b" "})
    runs, missing = runs_of(run_chunk(chunk, load.contents))
    assert [one.number for one in runs] == [0] and not missing
    # Once is enough, and a study of another design over the same weather sends itself alone.
    assert runs_of(run_chunk(chunk, {}))[0]
    other = load_of(dataclasses.replace(plan, document=plan.document | {"name": "Another"}), libraries)
    assert runs_of(run_chunk(other.chunk([(0, plan.values(0))]), {}))[1] == [other.needs["study"]]
    with pytest.raises(Refused, match="another version"):
        run_chunk(json.dumps(json.loads(chunk) | {"version": "0"}).encode(), {})


def test_nothing_that_travels_is_code(plans, libraries):
    """Every content is JSON or plain arrays, and a pickle in its place is not opened."""
    for name, digest in load_of(plans["tilts"], libraries).needs.items():
        content = load_of(plans["tilts"], libraries).contents[digest]
        if name in ("study", "parts"):
            json.loads(content)
        else:
            assert carried._opened_arrays(content)[1].dtype == float
    with pytest.raises(ValueError, match="pickle"):
        carried._opened_arrays(b"\x80\x04K\x01.")


def free_port() -> int:
    with socket.socket() as one:
        one.bind(("127.0.0.1", 0))
        return one.getsockname()[1]


@contextlib.contextmanager
def process(*command):
    """A process with all that it begins."""
    one = subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, start_new_session=True)
    try:
        yield one
    finally:
        with contextlib.suppress(ProcessLookupError):
            os.killpg(one.pid, signal.SIGKILL)
        one.wait()


def scheduler(port: int):
    return process(
        sys.executable, "-m", "distributed.cli.dask_scheduler", "--host", "127.0.0.1", "--port", str(port), "--no-dashboard"
    )


def worker(port: int):
    return process(sys.executable, "-m", "noontide.cli", "worker", "--scheduler", f"tcp://127.0.0.1:{port}", "--processes", "1")


def lanes_at(port: int) -> DaskLanes:
    end = time.monotonic() + 60
    while True:
        try:
            return DaskLanes(f"tcp://127.0.0.1:{port}")
        except NoScheduler:
            if time.monotonic() > end:
                raise


@pytest.mark.slow
def test_workers_of_a_scheduler_find_the_same_though_one_is_killed_in_the_midst(plans, alone, libraries):
    port = free_port()
    with scheduler(port), worker(port), worker(port) as second:
        lanes = lanes_at(port)
        while lanes.count < 2:
            time.sleep(0.2)
        found = []
        for runs in spread(Course(plans["search"]), load_of(plans["search"], libraries), lanes):
            if not found:
                os.killpg(second.pid, signal.SIGKILL)
            found += runs
        lanes.shutdown()
    assert figures(found) == alone["search"]


@pytest.mark.slow
def test_a_scheduler_that_is_begun_anew_is_asked_again(plans, alone, libraries):
    port = free_port()
    found, begun_anew = [], threading.Event()
    with contextlib.ExitStack() as later:
        with scheduler(port):
            lanes = lanes_at(port)
            assert "no worker yet" in lanes.waits_for and str(port) in lanes.waits_for
            with worker(port):
                course = spread(Course(plans["tilts"]), load_of(plans["tilts"], libraries), lanes)
                found += next(course)
                assert lanes.waits_for == ""

        def again():
            later.enter_context(scheduler(port))
            later.enter_context(worker(port))
            begun_anew.set()

        threading.Timer(1.0, again).start()
        for runs in course:
            found += runs
        lanes.shutdown()
        begun_anew.wait()
    assert figures(found) == alone["tilts"]


def test_a_scheduler_that_there_is_not_is_said(monkeypatch):
    monkeypatch.setattr(cluster, "WAIT", 1.0)
    with pytest.raises(NoScheduler, match="is not there"):
        DaskLanes(f"tcp://127.0.0.1:{free_port()}")
