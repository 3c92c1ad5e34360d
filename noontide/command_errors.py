"""What the commands say on standard error, and how they end where an input cannot be used."""

import sys
from typing import NoReturn

USAGE_ERROR, INPUT_ERROR = 2, 3


def fail(message: str) -> NoReturn:
    """Say what cannot be used, and end."""
    print(f"noontide: {message}", file=sys.stderr)
    raise SystemExit(INPUT_ERROR)


def say(message: str) -> None:
    """Tell about progress."""
    print(message, file=sys.stderr)
