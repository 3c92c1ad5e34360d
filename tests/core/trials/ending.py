"""Work that ends its process, in a module that a new process has loaded at once."""

import os
import signal
import time


def end_with_three(numbers: tuple[int, ...]) -> list[int]:
    if 3 in numbers:
        os.kill(os.getpid(), signal.SIGKILL)
    return list(numbers)


def nap(seconds: float) -> None:
    time.sleep(seconds)


def number_of(text: str) -> int:
    if not text.isdecimal():
        raise ValueError(f"'{text}' is no number")
    return int(text)
