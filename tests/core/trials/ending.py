"""Work that ends its process, in a module that a new process has loaded at once."""

import os
import signal


def end_with_three(numbers: tuple[int, ...]) -> list[int]:
    if 3 in numbers:
        os.kill(os.getpid(), signal.SIGKILL)
    return list(numbers)
