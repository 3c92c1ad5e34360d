"""Compiled loops over the cores of the machine.

The kernels release the interpreter's lock, so plain threads serve; the compiler's own parallel loops may not be entered by two threads
at once, which a server does.
"""

import itertools
import os
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from functools import cache

SMALL = 64  # rounds of a loop that are not worth a second thread


@cache
def _pool() -> ThreadPoolExecutor:
    return ThreadPoolExecutor(max_workers=_cores(), thread_name_prefix="kernel")


@cache
def _cores() -> int:
    return max(1, min(16, os.cpu_count() or 1))


def in_chunks(work: Callable[[int, int], object], count: int, small: int = SMALL) -> None:
    """Call `work(start, end)` for parts of a loop of `count` rounds, each round once, on all cores; up to `small` rounds on one."""
    if count <= small or _cores() == 1:
        work(0, count)
        return
    parts = min(4 * _cores(), max(2, count // small))
    ends = [count * k // parts for k in range(parts + 1)]
    futures = [_pool().submit(work, start, end) for start, end in itertools.pairwise(ends)]
    for future in futures:
        future.result()
