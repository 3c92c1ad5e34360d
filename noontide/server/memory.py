"""Memory of the process: what was needed for a while is given back to the machine."""

import ctypes
import gc
import sys

_ARENA_MAX = -8  # M_ARENA_MAX of malloc.h
ARENAS = 2


def share_arenas() -> None:
    """Let all threads take their memory from two heaps, on Linux; for a server, before its threads start.

    The C library makes a heap for each thread, and each keeps what was freed in it: an evaluation of a year of minutes, done
    once on either of two threads, would be there twice.
    """
    if (library := _c_library()) is not None:
        library.mallopt(_ARENA_MAX, ARENAS)


def give_back() -> None:
    """Give the free pages of the heap back, on Linux; elsewhere the system does as it likes.

    The C library keeps what was freed for the next need, which is right between two edits and wrong after a rare large
    one: a file of a year of minutes, all towns of the world.
    """
    gc.collect()
    if (library := _c_library()) is not None:
        library.malloc_trim(0)


def leave_alone() -> None:
    """What is there now, as modules and towns, stays: looking through it for garbage would hold up an edit now and then."""
    give_back()
    gc.freeze()


def _c_library() -> ctypes.CDLL | None:
    """The C library where it is GNU's."""
    if not sys.platform.startswith("linux"):
        return None
    try:
        library = ctypes.CDLL("libc.so.6")
        return library if library.malloc_trim and library.mallopt else None
    except (OSError, AttributeError):
        return None
