"""A study spread over workers: chunks as large as their pace allows, each run once, whatever becomes of a worker."""

import io
import time
from collections import deque
from collections.abc import Callable, Iterator, Mapping
from concurrent.futures import FIRST_COMPLETED, CancelledError, Future, wait
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any, Literal, Protocol

from noontide.carried import Load, load_of, run_chunk, runs_of
from noontide.core.simulation import Libraries
from noontide.core.trials import Course, Plan, Run, Study, run
from noontide.processes import ENDED, Ended, Workers

if TYPE_CHECKING:
    import pandas as pd

CHUNK_SECONDS = 1.0  # that a chunk should take: news come as often, and no more is lost with a worker
MOST_IN_CHUNK = 500
AHEAD = 1  # chunks that wait for each worker, so that none waits for the next one
LOOK_EVERY = 0.25  # s, whether it was stopped or something is overdue
TRIES = 2  # of a run alone, before it is given up
Told = Callable[[int, int], None]
# Of work that raised: its worker is gone, and it may be why; it is asked again as it is, for it cannot be why; or nothing helps.
Verdict = Literal["gone", "again", "raise"]


class Lanes(Protocol):
    """Workers as a study sees them: how many there are, work for one of them, and what tells that one is gone."""

    count: int
    overdue: float  # s after which another one does the same chunk; 0 where a frozen one is noticed otherwise
    waits_for: str  # in words, why nothing is done yet; empty where there are workers

    def submit(self, work: Callable[..., bytes], /, *arguments: Any) -> Future: ...
    def verdict(self, error: BaseException) -> Verdict: ...
    def shutdown(self) -> None: ...


class Here:
    """Processes of this machine."""

    overdue, waits_for = 0.0, ""

    def __init__(self, count: int = 0, context: Any = None, niceness: int = 0):
        self.workers = Workers(count, context=context, niceness=niceness)
        self.count = self.workers.count

    def submit(self, work: Callable[..., bytes], /, *arguments: Any) -> Future:
        return self.workers.submit(work, *arguments)

    def verdict(self, error: BaseException) -> Verdict:
        return "gone" if isinstance(error, Ended) else "raise"

    def shutdown(self) -> None:
        self.workers.shutdown(cancel_futures=True)


@dataclass(eq=False)
class _Chunk:
    numbers: list[int]
    tries: int = 0
    begun: float = field(default_factory=time.monotonic)
    wanted: tuple[str, ...] = ()  # contents that go with it
    copies: int = 0  # under way


@dataclass
class Pace:
    """What a study was measured to take, for the next chunks and for who wants to know."""

    chunks: int = 0
    runs: int = 0
    work_seconds: float = 0.0  # of workers
    sent_bytes: int = 0
    received_bytes: int = 0

    @property
    def seconds_a_run(self) -> float:
        return self.work_seconds / self.runs if self.runs else 0.0


def spread(
    course: Course, load: Load, lanes: Lanes, pace: Pace | None = None, is_stopped: Callable[[], bool] | None = None
) -> Iterator[list[Run]]:
    """The runs of a course from workers, chunk by chunk as they come; a run that fails, or ends its worker, is a row with words."""
    measured = pace if pace is not None else Pace()
    open_numbers: deque[int] = deque()
    again: deque[_Chunk] = deque()
    flight: dict[Future, _Chunk] = {}
    seen: set[int] = set()
    given_up: list[Run] = []

    def send(chunk: _Chunk) -> None:
        message = load.chunk((number, course.values(number)) for number in chunk.numbers)
        # As long as workers are new to it, what they need goes with the work; later they ask.
        wanted = chunk.wanted or (tuple(load.contents) if measured.chunks + len(flight) < lanes.count else ())
        contents = {digest: load.contents[digest] for digest in wanted}
        measured.sent_bytes += len(message) + sum(map(len, contents.values()))
        chunk.copies += 1
        flight[lanes.submit(run_chunk, message, contents)] = chunk

    def next_chunk() -> _Chunk | None:
        if again:
            return again.popleft()
        if not open_numbers:
            open_numbers.extend(course.batch())
        if not open_numbers:
            return None
        pace_of_one = measured.seconds_a_run
        size = int(CHUNK_SECONDS / pace_of_one) if pace_of_one else 1
        # Towards the end chunks become small, so that no worker waits long for the last one.
        size = max(1, min(size, MOST_IN_CHUNK, -(-len(open_numbers) // (2 * lanes.count))))
        return _Chunk([open_numbers.popleft() for _ in range(min(size, len(open_numbers)))])

    while not (is_stopped is not None and is_stopped()):
        while len(flight) < lanes.count * (1 + AHEAD) and (chunk := next_chunk()) is not None:
            chunk.begun = time.monotonic()
            send(chunk)
        if not flight:
            if course.is_over:
                return
            continue
        done = wait(flight, timeout=LOOK_EVERY, return_when=FIRST_COMPLETED).done
        for future in done:
            chunk = flight.pop(future)
            chunk.copies -= 1
            fresh, missing = _received(future, chunk, lanes, again, given_up, course, measured)
            if missing:
                chunk.wanted = tuple(missing)
                send(chunk)
                continue
            runs = [one for one in [*fresh, *given_up] if one.number not in seen]
            given_up.clear()
            seen.update(one.number for one in runs)
            for one in runs:
                course.tell(one)
            if runs:
                yield runs
        if lanes.overdue:
            for chunk in {chunk for chunk in flight.values() if chunk.copies == 1}:
                if time.monotonic() - chunk.begun > lanes.overdue + 10 * measured.seconds_a_run * len(chunk.numbers):
                    chunk.begun = time.monotonic()
                    send(chunk)


def _received(
    future: Future, chunk: _Chunk, lanes: Lanes, again: deque[_Chunk], given_up: list[Run], course: Course, pace: Pace
) -> tuple[list[Run], list[str]]:
    """The runs of a chunk; one that is lost with its worker is parted, until it is known which run it was."""
    try:
        answer = future.result()
    except (CancelledError, Exception) as error:
        verdict = lanes.verdict(error)
        if verdict == "raise":
            raise
        if chunk.copies:
            return [], []  # another worker has it too
        if verdict == "again":
            again.append(_Chunk(chunk.numbers, chunk.tries))
        elif len(chunk.numbers) > 1:
            middle = len(chunk.numbers) // 2
            again.extend(_Chunk(part) for part in (chunk.numbers[:middle], chunk.numbers[middle:]))
        elif chunk.tries + 1 < TRIES:
            again.append(_Chunk(chunk.numbers, chunk.tries + 1))
        else:
            number = chunk.numbers[0]
            given_up.append(Run(number, course.values(number), "failed", error=str(error) if isinstance(error, Ended) else ENDED))
        return [], []
    runs, missing = runs_of(answer)
    pace.received_bytes += len(answer)
    if not missing:
        pace.chunks += 1
        pace.runs += len(runs)
        pace.work_seconds += sum(one.seconds for one in runs)
    return runs, missing


def tried(
    plan: Plan, libraries: Libraries, processes: int = 1, told: Told | None = None, lanes: Lanes | None = None,
    known: Mapping[int, Run] | None = None, pace: Pace | None = None,
) -> Iterator[Run]:  # fmt: skip
    """All runs of a plan, as they come; in this process where `processes` is 1, else in so many, in one a core where it is 0, or in `lanes`."""
    done, course = len(known or ()), Course(plan, known)
    if processes == 1 and lanes is None:
        for one in run(plan, libraries, known):
            done += 1
            if told is not None:
                told(done, plan.count)
            yield one
        return
    workers = lanes or Here(processes)
    try:
        for runs in spread(course, load_of(plan, libraries), workers, pace):
            for one in runs:
                done += 1
                if told is not None:
                    told(done, course.count)
                yield one
    finally:
        workers.shutdown()


def table_of(runs: list[Run], study: Study) -> "pd.DataFrame":
    """The runs as a table, by their numbers: values, figures, and what was broken or failed."""
    import pandas as pd

    keys = list(dict.fromkeys(key for one in runs for key in one.figures))
    rows = [
        {"run": one.number, **one.values, "state": one.state, **{key: one.figures.get(key) for key in keys},
         "limits": "; ".join(one.broken), "error": one.error, "design": one.design, "seconds": round(one.seconds, 4)}
        for one in sorted(runs, key=lambda one: one.number)
    ]  # fmt: skip
    return pd.DataFrame(rows, columns=["run", *study.loose, "state", *keys, "limits", "error", "design", "seconds"])


def as_table_file(table: "pd.DataFrame", ending: str) -> bytes:
    """A table as .csv, .xlsx or .parquet."""
    buffer = io.BytesIO()
    if ending == "csv":
        return table.to_csv(index=False).encode()
    if ending == "xlsx":
        table.to_excel(buffer, index=False, sheet_name="Runs", engine="xlsxwriter", freeze_panes=(1, 1))
    else:
        table.to_parquet(buffer, index=False)
    return buffer.getvalue()
