"""The version of the code by what it says: figures that other code has made are told from today's."""

import hashlib
from pathlib import Path

import noontide


def code_version(*more: Path) -> str:
    """Of everything that the figures of a design are made from, and of further files; the same on two machines that have the same."""
    package = Path(noontide.__file__).parent
    files = [*(package / "core").rglob("*.py"), *(package / "parts").rglob("*.*"), *more]
    digest = hashlib.blake2b(digest_size=6)
    for file in sorted(file for file in files if file.suffix in (".py", ".json", ".csv", ".toml")):
        digest.update(file.relative_to(package).as_posix().encode() + b"\0" + file.read_bytes())
    return digest.hexdigest()
