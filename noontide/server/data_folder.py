"""The folder that holds everything: whether it can be used, and that one server alone uses it."""

import fcntl
import os
import sqlite3
from pathlib import Path
from typing import IO


class UnusableFolder(RuntimeError):
    """The data folder cannot be used; the message says why and what to do."""


def claim(folder: Path) -> IO[str]:
    """Make the folder, check that it can be written, and hold it for this process.

    Returns
    -------
    file
        Open as long as the folder is held.

    Raises
    ------
    UnusableFolder
        If it is no folder, cannot be written, or another server has it.
    """
    if folder.exists() and not folder.is_dir():
        raise UnusableFolder(f"{folder} is a file. Name a folder with --data.")
    try:
        folder.mkdir(mode=0o700, parents=True, exist_ok=True)
        os.chmod(folder, 0o700)
        lock = open(folder / "lock", "a+", encoding="utf-8")  # noqa: SIM115  (held until the process ends)
    except OSError as error:
        raise UnusableFolder(
            f"{folder} cannot be written: {error.strerror}. Correct its rights, or name another folder with --data."
        ) from error
    try:
        fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        lock.seek(0)
        other = lock.read().strip() or "another process"
        lock.close()
        raise UnusableFolder(f"{folder} is in use by {other}. Stop it first, or name another folder with --data.") from None
    try:
        lock.truncate(0)
        lock.write(f"process {os.getpid()}\n")
        lock.flush()
    except OSError as error:
        raise UnusableFolder(
            f"{folder} cannot be written: {error.strerror}. Free some space, or name another folder with --data."
        ) from error
    return lock


def check_database(path: Path, known: set[tuple[str, str]]) -> None:
    """Refuse a database that is damaged or that a later version has changed.

    Parameters
    ----------
    known
        App and name of every migration of this version.

    Raises
    ------
    UnusableFolder
    """
    if not path.exists():
        return
    try:
        connection = sqlite3.connect(path, timeout=5)
        try:
            verdict = connection.execute("PRAGMA quick_check(1)").fetchone()[0]
            tables = {row[0] for row in connection.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
            applied = (
                set(connection.execute("SELECT app, name FROM django_migrations")) if "django_migrations" in tables else set()
            )
        finally:
            connection.close()
    except sqlite3.DatabaseError as error:
        raise UnusableFolder(
            f"{path} cannot be read: {error}. Put back a copy of it, or name another folder with --data."
        ) from error
    if verdict != "ok":
        raise UnusableFolder(f"{path} is damaged: {verdict}. Put back a copy of it, or name another folder with --data.")
    if later := sorted(applied - known):
        app, name = later[0]
        raise UnusableFolder(
            f"{path} was changed by a later version of Noontide (it has {app}.{name}). Use that version, or another folder with --data."
        )
