"""The modules and strings of a layout as rows: of ten thousands of modules a drawing needs first places, steps and counts alone."""

import re
from collections.abc import Sequence
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, Field

Floats = NDArray[np.float64]
Point = tuple[float, float, float]
SAME = 5e-4  # m, within which a module lies on the way of its row
_NUMBERED = re.compile(r"(.*?)([1-9]\d{0,8}|0)")


class DrawnRow(BaseModel):
    """Modules at one distance from each other whose ids count up; a module that lies by itself is a row of one."""

    first: str = Field(description="id of the first; those that follow have the numbers after its own")
    number: int = Field(description="of the first in reading order, from 1")
    count: int
    at: Point = Field(description="lower left corner of the first, seen from its front [m]")
    step: Point = Field(description="from one module to the next [m]")
    along: Point = Field(description="lower edge of each [m]")
    up: Point = Field(description="left edge of each [m]")


def drawn_rows(ids: Sequence[str], corners: Floats) -> list[DrawnRow]:
    """Modules in reading order as rows.

    Parameters
    ----------
    corners : (modules, 4, 3)
        Counterclockwise from the lower left.
    """
    if not ids:
        return []
    at, along, up = corners[:, 0], corners[:, 1] - corners[:, 0], corners[:, 3] - corners[:, 0]
    follows = np.array([False, *(_follows(a, b) for a, b in pairwise(ids))])
    same = (np.abs(np.diff(along, axis=0)) < SAME / 10).all(axis=1) & (np.abs(np.diff(up, axis=0)) < SAME / 10).all(axis=1)
    follows[1:] &= same
    # A step of its own begins a row; the first step of a row is that from its first module to its second.
    steps = np.diff(at, axis=0)
    rows: list[DrawnRow] = []
    begin = 0
    while begin < len(ids):
        end = begin + 1
        if end < len(ids) and follows[end]:
            ends = begin + 1 + np.flatnonzero(~follows[begin + 1 :])
            limit = int(ends[0]) if ends.size else len(ids)
            off = np.abs(at[begin] + np.outer(np.arange(limit - begin), steps[begin].round(6)) - at[begin:limit]).max(axis=1)
            astray = np.flatnonzero(off > SAME)
            end = begin + int(astray[0]) if astray.size else limit
        step = steps[begin] if end > begin + 1 else np.zeros(3)
        rows.append(
            DrawnRow(
                first=ids[begin], number=begin + 1, count=end - begin, at=_point(at[begin], 4), step=_point(step, 6),
                along=_point(along[begin], 5), up=_point(up[begin], 5),
            )
        )  # fmt: skip
        begin = end
    return rows


def spans_of(ids: Sequence[str]) -> list[tuple[str, str]]:
    """Ids in their order as first and last of those that count up or down by one."""
    spans: list[tuple[str, str]] = []
    begin = 0
    while begin < len(ids):
        end = begin + 1
        for is_next in (_follows, lambda a, b: _follows(b, a)):
            k = begin + 1
            while k < len(ids) and is_next(ids[k - 1], ids[k]):
                k += 1
            end = max(end, k)
        spans.append((ids[begin], ids[end - 1]))
        begin = end
    return spans


def _follows(one: str, other: str) -> bool:
    a, b = _parted(one), _parted(other)
    return a is not None and b is not None and a[0] == b[0] and b[1] == a[1] + 1


def _parted(key: str) -> tuple[str, int] | None:
    """What stands before the number of an id, and the number; None where it ends in none, or in one with a zero before it."""
    found = _NUMBERED.fullmatch(key)
    return (found[1], int(found[2])) if found else None


def _point(vector: Floats, digits: int) -> Point:
    x, y, z = vector.round(digits).tolist()
    return x, y, z
