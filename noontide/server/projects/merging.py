"""Which values of a document a merge patch touches, and whether two documents agree in them."""

from typing import Any

_MISSING = object()


def touched(patch: dict, target: Any = None) -> list[tuple[str, ...]]:
    """Paths of the values that a patch sets or deletes; a whole object where the target has none or it is deleted."""
    paths: list[tuple[str, ...]] = []
    for key, value in patch.items():
        inner = target.get(key) if isinstance(target, dict) else None
        if isinstance(value, dict) and isinstance(inner, dict) and value:
            paths += [(key, *rest) for rest in touched(value, inner)]
        else:
            paths.append((key,))
    return paths


def conflicts(patch: dict, base: dict, now: dict) -> list[tuple[str, ...]]:
    """Paths that a patch touches and that have changed between two documents."""
    return [path for path in touched(patch, base) if _at(base, path) != _at(now, path)]


def value_at(document: Any, path: tuple[str, ...]) -> Any:
    """The value at a path, None where there is none."""
    found = _at(document, path)
    return None if found is _MISSING else found


def pointer_of(path: tuple[str, ...]) -> str:
    """JSON pointer of a path."""
    return "".join("/" + step.replace("~", "~0").replace("/", "~1") for step in path)


def join_patches(first: dict, second: dict) -> dict:
    """One patch that does what two do one after the other, deletions included."""
    joined = dict(first)
    for key, value in second.items():
        before = joined.get(key)
        joined[key] = join_patches(before, value) if isinstance(before, dict) and isinstance(value, dict) else value
    return joined


def _at(document: Any, path: tuple[str, ...]) -> Any:
    for step in path:
        if not isinstance(document, dict) or step not in document:
            return _MISSING
        document = document[step]
    return document
