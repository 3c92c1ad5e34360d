"""Noontide: design solar power plants and answer for the numbers.

For programs: `Design`, `read_design`, `read_weather`, `read_project`, `simulate`, `change`, `act`, `batch`.
"""

from importlib import import_module
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from noontide.batching import batch
    from noontide.package import (
        Design,
        Project,
        Year,
        act,
        change,
        read_design,
        read_project,
        read_weather,
        simulate,
    )

__version__ = "0.1.0"
__all__ = ["Design", "Project", "Year", "act", "batch", "change", "read_design", "read_project", "read_weather", "simulate"]


def __getattr__(name: str) -> Any:
    """What programs use is loaded when it is asked for: the command line starts without it."""
    if name not in __all__:
        raise AttributeError(f"module 'noontide' has no attribute {name!r}")
    return getattr(import_module("noontide.batching" if name == "batch" else "noontide.package"), name)
