"""Which values of a document a merge patch touches, and whether two documents agree in them."""

from typing import Any

_MISSING = object()


Path = tuple[str, ...]


def touched(patch: dict, target: Any = None) -> list[Path]:
    """Paths of the single values that a patch sets, and of the objects that it deletes or puts in place of something else."""
    paths: list[Path] = []
    for key, value in patch.items():
        inner = target.get(key, _MISSING) if isinstance(target, dict) else _MISSING
        if isinstance(value, dict) and value and (inner is _MISSING or isinstance(inner, dict)):
            paths += [(key, *rest) for rest in touched(value, inner)]
        else:
            paths.append((key,))
    return paths


def conflicts(patch: dict, base: dict, now: dict) -> list[Path]:
    """Paths that a patch touches and that have changed between two documents, unless they are by now what the patch sets.

    Two that set the first values of an object, each another, do not meet; who sets a value inside of what has been deleted, or has become
    something else, does.
    """
    found: dict[Path, None] = {}
    for path in touched(patch, base):
        if (gone := _lost_parent(path, base, now)) is not None:
            found[gone] = None
        elif _at(base, path) != _at(now, path) and not _is_as_wanted(_at(now, path), _at(patch, path)):
            found[path] = None
    return list(found)


def _lost_parent(path: Path, base: dict, now: dict) -> Path | None:
    """The outermost object around a value that is not there any more, or is no object now."""
    for depth in range(1, len(path)):
        before, after = _at(base, path[:depth]), _at(now, path[:depth])
        if not isinstance(after, dict) and (after is not _MISSING or isinstance(before, dict)):
            return path[:depth]
    return None


def _is_as_wanted(now: Any, wanted: Any) -> bool:
    """Whether a patch would leave a value as it is: what it deletes is gone, an object that it only wants to be there is."""
    return now is _MISSING if wanted is None else now == wanted or (wanted == {} and isinstance(now, dict))


def value_at(document: Any, path: tuple[str, ...]) -> Any:
    """The value at a path, None where there is none."""
    found = _at(document, path)
    return None if found is _MISSING else found


def pointer_of(path: tuple[str, ...]) -> str:
    """JSON pointer of a path."""
    return "".join("/" + step.replace("~", "~0").replace("/", "~1") for step in path)


def _at(document: Any, path: tuple[str, ...]) -> Any:
    for step in path:
        if not isinstance(document, dict) or step not in document:
            return _MISSING
        document = document[step]
    return document
