"""What travels: a project as one file."""

from noontide.core.exchange.archive import ArchiveError
from noontide.core.exchange.kept_trials import KeptTrials
from noontide.core.exchange.project_file import (
    KeptPicture,
    KeptRevision,
    KeptScheme,
    KeptUse,
    KeptWeather,
    ProjectFile,
    pack,
    unpack,
)

__all__ = [
    "ArchiveError",
    "KeptPicture",
    "KeptRevision",
    "KeptScheme",
    "KeptTrials",
    "KeptUse",
    "KeptWeather",
    "ProjectFile",
    "pack",
    "unpack",
]
