"""JSON Merge Patch (RFC 7396)."""

from typing import Any


def merge_patch(target: Any, patch: Any) -> Any:
    """The target with the patch applied; neither is changed. A null in the patch deletes an entry."""
    if not isinstance(patch, dict):
        return patch
    merged = dict(target) if isinstance(target, dict) else {}
    for key, value in patch.items():
        if value is None:
            merged.pop(key, None)
        else:
            merged[key] = merge_patch(merged.get(key), value)
    return merged


def join_patches(first: dict[str, Any], second: dict[str, Any]) -> dict[str, Any]:
    """One patch that does what two do one after the other, deletions included."""
    joined = dict(first)
    for key, value in second.items():
        before = joined.get(key)
        joined[key] = join_patches(before, value) if isinstance(before, dict) and isinstance(value, dict) else value
    return joined


def difference(before: dict[str, Any], after: dict[str, Any]) -> dict[str, Any]:
    """The smallest patch that makes one document of another; of documents without nulls, which a patch cannot write."""
    patch: dict[str, Any] = dict.fromkeys(key for key in before if key not in after)
    for key, value in after.items():
        old = before.get(key)
        if isinstance(old, dict) and isinstance(value, dict):
            if old != value:
                patch[key] = difference(old, value)
        elif key not in before or old != value:
            patch[key] = value
    return patch
