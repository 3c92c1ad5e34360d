"""The key of all that the figures of a design depend on."""

import hashlib
import json

# Raised whenever the models change what they give: figures that were kept under an older one are computed anew.
RESULTS_VERSION = 10


def key_of_document(document: dict) -> str:
    """Key of a frozen document: its parts and the digest of its weather are in it."""
    text = json.dumps(document, sort_keys=True, separators=(",", ":"), ensure_ascii=False)
    return f"{RESULTS_VERSION}-" + hashlib.blake2b(text.encode("utf-8", "surrogatepass"), digest_size=20).hexdigest()


def is_current(key: str) -> bool:
    """Whether a key that was stored is one that today's models would give."""
    return key.startswith(f"{RESULTS_VERSION}-")
