"""Work in a process of its own, bounded in time and memory: the one place that starts, watches and ends such processes.

What a file makes of its reader, or a job of its worker, never reaches the server: the process is ended, its memory is the machine's again, and
the reason is told in words. It ends by itself when the server does.
"""

import multiprocessing
import os
import pickle
import sys
import threading
import time
from collections.abc import Callable
from functools import cache
from multiprocessing.connection import Connection, wait
from typing import Any

BEAT = 1.0  # s between signs of life of a worker
START = 20.0  # s that a process may take to begin
SILENCE = 6.0  # s without one, after which it counts as frozen
MEGABYTE = 1024**2
Hear = Callable[[float, str], None]


class NotFinished(Exception):
    """The work came to no end, in words for the person who waits for it."""


class TooLong(NotFinished):
    """It took longer than it may."""


class TooLarge(NotFinished):
    """It needed more memory than it may."""


class Died(NotFinished):
    """The process ended, or stands still, without a result."""


class Stopped(NotFinished):
    """Somebody asked for its end."""


def run_apart(
    work: Callable[..., Any],
    *arguments: Any,
    seconds: float,
    megabytes: int,
    hear: Hear | None = None,
    stop: Connection | None = None,
) -> Any:
    """The result of a function of a module, found in a process of its own.

    Parameters
    ----------
    work : function
        Of a module, so that another process finds it; with `hear` it is given a function `report(progress, words)` as its last argument.
    seconds, megabytes : float, int
        That it may take, and need beyond what its libraries do.
    hear : function, optional
        Told of its progress.
    stop : Connection, optional
        Once something can be read from it, the work is ended.

    Raises
    ------
    NotFinished
        TooLong, TooLarge, Died or Stopped.
    Exception
        Whatever the function raises.
    """
    ours, theirs = context().Pipe()
    process = context().Process(target=_carry_out, args=(theirs, megabytes, work, arguments, hear is not None), daemon=True)
    process.start()
    theirs.close()
    now = time.monotonic()
    end, heard = now + seconds, now + START
    try:
        while True:
            ready = wait([ours, *([stop] if stop is not None else [])], timeout=max(0.0, min(BEAT, end - time.monotonic())))
            if stop is not None and stop in ready:
                raise Stopped("Cancelled.")
            if ours in ready:
                kind, value = _received(ours, process)
                heard = time.monotonic() + SILENCE
                if kind == "done":
                    return value
                if kind == "raised":
                    raise TooLarge(f"It needs more than {megabytes:,} MB of memory.") if isinstance(value, MemoryError) else value
                if kind == "said" and hear is not None:
                    hear(*value)
            if time.monotonic() > end:
                raise TooLong(f"It takes longer than {seconds:.0f} s.")
            if time.monotonic() > heard:
                raise Died("Its process stands still.")
    finally:
        ours.close()
        process.kill()
        process.join(5)


def _received(ours: Connection, process: Any) -> tuple[str, Any]:
    try:
        return ours.recv()
    except (EOFError, OSError):
        process.join(2)
        code = process.exitcode
        if code is not None and code < 0:
            raise Died(
                f"Its process was ended by the system (signal {-code}); with little memory left that is what a system does."
            ) from None
        raise Died("Its process ended without a result.") from None


@cache
def context() -> Any:
    """Processes are forked from one that has loaded the libraries and nothing else: no threads and no open files of the server."""
    if sys.platform == "win32":
        return multiprocessing.get_context("spawn")
    context = multiprocessing.get_context("forkserver")
    context.set_forkserver_preload(["noontide.server.apart_libraries"])
    return context


def make_ready() -> None:
    """Begin to load what processes are forked from, before the first of them is asked for."""
    if context().get_start_method() == "forkserver":
        from multiprocessing import forkserver

        forkserver.ensure_running()


def _carry_out(pipe: Connection, megabytes: int, work: Callable[..., Any], arguments: tuple, reports: bool) -> None:
    """In the process of its own."""
    lock = threading.Lock()

    def send(kind: str, value: Any = None) -> None:
        with lock:
            pipe.send((kind, value))

    def beat() -> None:
        try:
            while True:
                time.sleep(BEAT)
                send("beat")
        except OSError:
            os._exit(1)  # nobody listens any more: the server has gone, or has given up

    threading.Thread(target=beat, daemon=True).start()
    _bound_memory(megabytes)
    if hasattr(os, "nice"):
        os.nice(12)  # an edit that somebody waits for goes before
    try:
        send("beat")
        more = (lambda progress, words: send("said", (progress, words)),) if reports else ()
        found: tuple[str, Any] = ("done", work(*arguments, *more))
    except Exception as error:
        found = ("raised", _to_send(error))
    try:
        send(*found)
    except MemoryError as error:
        send("raised", error)


def _to_send(error: Exception) -> Exception:
    """The exception, or its words where it does not survive the way between processes."""
    try:
        copy = pickle.loads(pickle.dumps(error))
        return copy if str(copy) == str(error) else RuntimeError(str(error))
    except Exception:
        return RuntimeError(str(error))


def _bound_memory(megabytes: int) -> None:
    """Let the process have so much more memory of its own than it has now, where the system can be told so."""
    try:
        import resource
    except ImportError:
        return
    try:
        with open("/proc/self/status") as status:
            now = next(int(line.split()[1]) * 1024 for line in status if line.startswith("VmData"))
        resource.setrlimit(resource.RLIMIT_DATA, (now + megabytes * MEGABYTE, resource.RLIM_INFINITY))
        # The system's choice falls on it, and not on the server.
        with open("/proc/self/oom_score_adj", "w") as score:
            score.write("800")
    except (OSError, ValueError, StopIteration):
        return
