"""Workers of a Dask scheduler, on machines that share neither disk nor database with this one; the extra `noontide[cluster]`."""

import asyncio
import contextlib
import os
import threading
import time
from collections.abc import Callable
from concurrent.futures import CancelledError, Future
from typing import Any

from noontide.trying import Verdict

GONE = 60.0  # s that a scheduler may be away before a study is given up
WAIT = 10.0  # s for it to answer at first
OVERDUE = 20.0  # s, and ten times as long as it should take, after which another worker does the same
NO_PACKAGE = "'distributed' is not installed: install noontide[cluster]."


class NoScheduler(RuntimeError):
    """A scheduler that cannot be reached, in words."""


class Interrupted(Exception):
    """The scheduler went away with what it had; it is asked again."""


class DaskLanes:
    """Workers of a scheduler as a study sees them. A scheduler that is begun anew is found again, and asked for what it has lost.

    Raises
    ------
    NoScheduler
        If it cannot be reached, or Dask is not installed.
    """

    overdue = OVERDUE

    def __init__(self, address: str, patience: float = GONE):
        self.address = address
        self._patience = patience
        self._lock = threading.Lock()
        self._open: set[Future] = set()
        self._is_over = False
        self._client = self._connected(WAIT)
        self._watch = threading.Thread(target=self._look_after, daemon=True)
        self._watch.start()

    @property
    def count(self) -> int:
        """Threads of the workers that there are now, one at least: work waits for the first worker."""
        with contextlib.suppress(Exception):
            return max(1, sum(self._client.nthreads().values()))
        return 1

    @property
    def waits_for(self) -> str:
        """In words, where the scheduler has no worker, or is away."""
        try:
            has_workers = bool(self._client.nthreads())
        except Exception:
            return f"The scheduler at {self.address} is away; it is looked for."
        if has_workers:
            return ""
        return f"The scheduler at {self.address} has no worker yet. Start one: noontide worker --scheduler {self.address}"

    def submit(self, work: Callable[..., bytes], /, *arguments: Any) -> Future:
        """The result of a function of a module, found by a worker."""
        future: Future = Future()
        with self._lock:
            self._open.add(future)
            client = self._client
        try:
            there = client.submit(work, *arguments, pure=False, retries=0)
        except Exception:  # the scheduler is away: the watch finds it again, and the work is asked for then
            self._settle(future, Interrupted("The scheduler is away."))
            return future
        there.add_done_callback(lambda done: self._told(future, done))
        return future

    def verdict(self, error: BaseException) -> Verdict:
        """What becomes of work that raised."""
        if isinstance(error, Interrupted | CancelledError):
            if self._is_over or not self._comes_back():
                raise NoScheduler(f"The Dask scheduler at {self.address} has been away for {self._patience:.0f} s.")
            return "again"
        return "gone" if type(error).__name__ in ("KilledWorker", "CommClosedError") else "raise"

    def shutdown(self) -> None:
        """Leave the scheduler; what is under way there is cancelled."""
        self._is_over = True
        for future in list(self._open):
            future.cancel()
        with contextlib.suppress(Exception):
            self._client.close(timeout=2)

    def _told(self, future: Future, done: Any) -> None:
        try:
            if done.status == "finished":
                self._settle(future, None, done.result(timeout=WAIT))
            elif done.status == "error":
                self._settle(future, done.exception(timeout=WAIT))
            else:  # lost or cancelled
                self._settle(future, Interrupted("The scheduler has lost it."))
        except Exception as error:
            self._settle(future, error if type(error).__name__ == "KilledWorker" else Interrupted(str(error)))

    def _settle(self, future: Future, error: BaseException | None, result: Any = None) -> None:
        with self._lock:
            if future not in self._open:
                return
            self._open.discard(future)
        if not future.done():
            if error is not None:
                future.set_exception(error)
            else:
                future.set_result(result)

    def _look_after(self) -> None:
        """Notices that the scheduler has gone, or is another one than before, and connects anew."""
        identity = self._identity()
        while not self._is_over:
            time.sleep(1.0)
            now = self._identity()
            if self._is_over or (now is not None and now == identity):
                continue
            with contextlib.suppress(Exception):
                self._client.close(timeout=1)
            with contextlib.suppress(NoScheduler):
                fresh = self._connected(WAIT)
                with self._lock:
                    self._client = fresh
                identity = self._identity()
            for future in list(self._open):
                self._settle(future, Interrupted("The scheduler was begun anew."))

    def _identity(self) -> str | None:
        try:
            if self._client.status != "running":
                return None
            return str(self._client.scheduler_info()["id"])
        except Exception:
            return None

    def _comes_back(self) -> bool:
        end = time.monotonic() + self._patience
        while time.monotonic() < end and not self._is_over:
            if self._identity() is not None:
                return True
            time.sleep(0.5)
        return False

    def _connected(self, seconds: float) -> Any:
        try:
            from distributed import Client
        except ImportError:
            raise NoScheduler(NO_PACKAGE) from None
        try:
            return Client(self.address, timeout=seconds, set_as_default=False, name="noontide")
        except (OSError, ValueError, TimeoutError) as error:
            raise NoScheduler(f"The Dask scheduler at {self.address} is not there ({str(error)[:120]}).") from error


def work_for(address: str, processes: int = 0) -> None:
    """Work for a scheduler until it is ended: one process a core, or so many, each anew after it has died.

    Raises
    ------
    NoScheduler
        If the scheduler cannot be reached, or Dask is not installed.
    """
    try:
        from distributed import Nanny
    except ImportError:
        raise NoScheduler(NO_PACKAGE) from None

    async def run() -> None:
        nannies = [Nanny(address, nthreads=1, dashboard_address=None) for _ in range(processes or os.cpu_count() or 1)]
        try:
            await asyncio.gather(*(asyncio.wait_for(nanny, WAIT * 6) for nanny in nannies))
            await asyncio.gather(*(nanny.finished() for nanny in nannies))
        finally:
            await asyncio.gather(*(nanny.close(timeout=2) for nanny in nannies), return_exceptions=True)

    try:
        asyncio.run(run())
    except (OSError, TimeoutError, ValueError) as error:
        raise NoScheduler(f"The Dask scheduler at {address} is not there ({str(error)[:120]}).") from error
