"""Memory that was needed for a while and is given back to the machine."""

import ctypes
import gc
import sys


def give_back() -> None:
    """Give the free pages of the heap back, on Linux; elsewhere the system does as it likes.

    The C library keeps what was freed for the next need, which is right between two edits and wrong after a rare large
    one: a file of a year of minutes, all towns of the world.
    """
    gc.collect()
    if sys.platform.startswith("linux"):
        try:
            ctypes.CDLL("libc.so.6").malloc_trim(0)
        except (OSError, AttributeError):
            # Another C library than GNU's.
            return
