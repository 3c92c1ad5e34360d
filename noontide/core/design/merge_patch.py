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
