"""The key of all that the figures of a design depend on."""

import hashlib
import json
from pathlib import Path

from noontide.code_version import code_version

# Of everything that figures, checks, words and the shape of the answer are made from: what was kept by other code is computed anew.
RESULTS_VERSION = code_version(Path(__file__).with_name("evaluation_answer.py"))


def key_of_document(document: dict) -> str:
    """Key of a frozen document: its parts and the digest of its weather are in it."""
    return f"{RESULTS_VERSION}-" + hashlib.blake2b(canonical(document), digest_size=20).hexdigest()


def canonical(document: dict) -> bytes:
    """A document as the one text that all its equals have, for digests."""
    text = json.dumps(document, sort_keys=True, separators=(",", ":"), ensure_ascii=False)
    return text.encode("utf-8", "surrogatepass")


def is_current(key: str) -> bool:
    """Whether a key that was stored is one that today's models would give."""
    return key.startswith(f"{RESULTS_VERSION}-")
