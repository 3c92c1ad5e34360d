"""Work in processes beside this one: results as they come, and whoever ends its process takes no other along."""

import multiprocessing
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor, as_completed
from concurrent.futures.process import BrokenProcessPool
from dataclasses import dataclass
from typing import Any, Generic, TypeVar

ENDED = "Its process was ended; the design may need more memory than there is."
Item = TypeVar("Item")
Result = TypeVar("Result")


@dataclass(frozen=True)
class Work(Generic[Item, Result]):
    """What is done to an item in a process: `do`, `begin` once in each process, and what becomes of an item that ends its process.

    Such an item is parted (`parts`) until it is one alone; of that, `lost` is the result.
    """

    do: Callable[[Item], Result]
    lost: Callable[[Item], Result]
    parts: Callable[[Item], list[Item]] = lambda item: []
    begin: Callable[..., None] | None = None
    given: tuple[Any, ...] = ()

    def results(self, items: Sequence[Item], processes: int) -> Iterator[Result]:
        """A result of every item as soon as it is there, in any order."""
        left = list(items)
        # A process that is ended (memory, a crash below Python) takes those beside it along: the rest goes on one by one, so that
        # it is known whose it was, and then together again.
        while left:
            try:
                with self._pool(processes) as pool:
                    futures = {pool.submit(self.do, item): item for item in left}
                    try:
                        for future in as_completed(futures):
                            yield future.result()
                            left.remove(futures[future])
                    except BaseException:
                        pool.shutdown(wait=False, cancel_futures=True)
                        raise
            except BrokenProcessPool:
                yield from self._one_by_one(left, 2 * processes)

    def _one_by_one(self, left: list[Item], most: int) -> Iterator[Result]:
        """Results of the next items, each in a process alone, until the one that ends its process."""
        for item in left[:most]:
            with self._pool(1) as pool:
                try:
                    result = pool.submit(self.do, item).result()
                except BrokenProcessPool:
                    left.remove(item)
                    if smaller := self.parts(item):
                        left[:0] = smaller
                    else:
                        yield self.lost(item)
                    return
            left.remove(item)
            yield result

    def _pool(self, processes: int) -> ProcessPoolExecutor:
        return ProcessPoolExecutor(processes, multiprocessing.get_context("spawn"), self.begin, self.given)
