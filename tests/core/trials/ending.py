"""Work that ends its process, in a module that a new process has loaded at once."""

import os
import signal


def end_with_three(numbers: tuple[int, ...]) -> list[int]:
    if 3 in numbers:
        os.kill(os.getpid(), signal.SIGKILL)
    return list(numbers)


def halves(numbers: tuple[int, ...]) -> list[tuple[int, ...]]:
    return [numbers[: len(numbers) // 2], numbers[len(numbers) // 2 :]] if len(numbers) > 1 else []
