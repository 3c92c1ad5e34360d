"""Work in processes beside this one, as an executor: whoever ends or freezes its process loses that work alone, and takes no other along."""

import multiprocessing
import os
import queue
import threading
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import FIRST_COMPLETED, Executor, Future, wait
from dataclasses import dataclass
from multiprocessing.connection import Connection
from typing import Any, Generic, TypeVar

ENDED = "Its process was ended; the design may need more memory than there is."
FROZEN = "Its process stood still, and was ended."
BEAT = 1.0  # s between signs of life of a process
SILENCE = 20.0  # s without one, after which it counts as frozen
START = 90.0  # s that a process may take to begin; many beside one another on a busy machine
PRELOADED = ["noontide.core.trials"]  # by the process from which all are forked
Item = TypeVar("Item")
Result = TypeVar("Result")


class Ended(Exception):
    """The process in which work was done has ended, or stood still."""


class NeverBegan(RuntimeError):
    """A process has ended before it could do anything: no fault of the work, and the next one would too."""


class Workers(Executor):
    """So many processes, each begun when there is work for it, and anew after one has ended.

    Parameters
    ----------
    count : int
        Processes at most; one a core where it is 0.
    silence : float
        Seconds without a sign of life after which a process is ended.
    context : multiprocessing context, optional
        From which processes are begun.
    niceness : int
        By which they step back behind others.
    """

    def __init__(self, count: int = 0, silence: float = SILENCE, context: Any = None, niceness: int = 0):
        self.count = count or os.cpu_count() or 1
        self._silence = silence
        self._niceness = niceness
        self._context = context or _forked()
        self._waiting: queue.SimpleQueue[tuple[Future, Callable, tuple] | None] = queue.SimpleQueue()
        self._processes: dict[int, Any] = {}
        self._lock = threading.Lock()
        self._is_over = False
        self._threads = [threading.Thread(target=self._serve, args=(k,), daemon=True) for k in range(self.count)]
        for thread in self._threads:
            thread.start()

    def submit(self, work: Callable[..., Any], /, *arguments: Any) -> Future:  # type: ignore[override]
        """The result of a function of a module, found in one of the processes; `Ended` where that has ended."""
        if self._is_over:
            raise RuntimeError("These workers were dismissed.")
        future: Future = Future()
        self._waiting.put((future, work, arguments))
        return future

    def pids(self) -> list[int]:
        """Of the processes that are there."""
        with self._lock:
            return [process.pid for process in self._processes.values()]

    def shutdown(self, wait: bool = True, *, cancel_futures: bool = False) -> None:
        """Dismiss them: at once with `cancel_futures`, else when all that was asked is done."""
        self._is_over = True
        if cancel_futures:
            while True:
                try:
                    asked = self._waiting.get_nowait()
                except queue.Empty:
                    break
                if asked is not None:
                    asked[0].cancel()
            with self._lock:
                for process in self._processes.values():
                    process.kill()
        for _ in self._threads:
            self._waiting.put(None)
        if wait:
            for thread in self._threads:
                thread.join()

    def _serve(self, number: int) -> None:
        """One process after the other, as long as there is work."""
        ours: Connection | None = None
        while (asked := self._waiting.get()) is not None:
            future, work, arguments = asked
            if not future.set_running_or_notify_cancel():
                continue
            try:
                if ours is None:
                    ours = self._begin(number)
                ours.send((work, arguments))
                kind, value = self._heard(ours, number)
            except NeverBegan as error:
                self._end(number)
                future.set_exception(error)
                continue
            except (EOFError, OSError, Ended) as error:
                self._end(number)
                ours = None
                future.set_exception(error if isinstance(error, Ended) else Ended(ENDED))
                continue
            (future.set_result if kind == "done" else future.set_exception)(value)
        self._end(number)

    def _heard(self, ours: Connection, number: int) -> tuple[str, Any]:
        while True:
            if not ours.poll(self._silence):
                raise Ended(FROZEN)
            kind, value = ours.recv()
            if kind != "beat":
                return kind, value

    def _begin(self, number: int) -> Connection:
        ours, theirs = self._context.Pipe()
        process = self._context.Process(target=_work, args=(theirs, self._niceness), daemon=True)
        process.start()
        theirs.close()
        with self._lock:
            self._processes[number] = process
        try:
            if self._is_over or not ours.poll(START):
                raise Ended(FROZEN)
            ours.recv()  # its first sign of life
        except (EOFError, OSError):
            if self._is_over:
                raise Ended(ENDED) from None
            raise NeverBegan("A process for the work could not be begun; what it said stands in the log.") from None
        return ours

    def _end(self, number: int) -> None:
        with self._lock:
            process = self._processes.pop(number, None)
        if process is not None:
            process.kill()
            process.join(5)


def _forked() -> Any:
    """Processes forked from one that has loaded what they need, and has neither threads nor open files of this one."""
    if "forkserver" not in multiprocessing.get_all_start_methods():
        return multiprocessing.get_context("spawn")
    context = multiprocessing.get_context("forkserver")
    context.set_forkserver_preload(PRELOADED)
    return context


def _work(pipe: Connection, niceness: int) -> None:
    """In a process: what is asked, one after the other, with signs of life meanwhile."""
    lock = threading.Lock()
    over = threading.Event()

    def send(kind: str, value: Any = None) -> None:
        with lock:
            pipe.send((kind, value))

    def beat() -> None:
        try:
            while not over.wait(BEAT):
                send("beat")
        except OSError:
            os._exit(1)  # nobody listens any more

    if niceness and hasattr(os, "nice"):
        os.nice(niceness)
    threading.Thread(target=beat, daemon=True).start()
    send("beat")
    while True:
        try:
            work, arguments = pipe.recv()
        except (EOFError, OSError):
            os._exit(0)
        try:
            found: tuple[str, Any] = ("done", work(*arguments))
        except Exception as error:
            found = ("raised", error)
        try:
            send(*found)
        except Exception as error:  # what cannot be sent between processes
            send("raised", RuntimeError(str(error) or type(error).__name__))


@dataclass(frozen=True)
class Work(Generic[Item, Result]):
    """What is done to an item in a process: `do`, and what becomes of an item that ends its process: `lost`."""

    do: Callable[[Item], Result]
    lost: Callable[[Item], Result]

    def results(self, items: Sequence[Item], processes: int) -> Iterator[Result]:
        """A result of every item as soon as it is there, in any order."""
        workers = Workers(min(processes, max(len(items), 1)))
        try:
            left: dict[Future, Item] = {workers.submit(self.do, item): item for item in items}
            while left:
                for future in wait(left, return_when=FIRST_COMPLETED).done:
                    item = left.pop(future)
                    try:
                        yield future.result()
                    except Ended:
                        yield self.lost(item)
        finally:
            workers.shutdown(cancel_futures=True)
