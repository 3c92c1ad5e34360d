"""Symbols of the one-line diagram, after IEC 60617."""

from math import cos, pi, sin

from noontide.core.drawing import Mark, Polyline, Sheet
from noontide.core.drawings.measures import INVERTER_WIDTH, LETTER


def generator(sheet: Sheet, x: float, y: float) -> None:
    """Photovoltaic generator: G over a cell, with light from above."""
    sheet.box(x - 5, y - 5, 10, 10)
    sheet.text(x, y - 0.4, "G", 4.0, "middle", is_bold=True)
    sheet.line((x - 3.2, y + 2.8), (x - 0.7, y + 2.8))
    sheet.line((x - 0.7, y + 1.2), (x - 0.7, y + 4.4))
    sheet.line((x + 0.7, y + 2.0), (x + 0.7, y + 3.6), weight=0.5)
    sheet.line((x + 0.7, y + 2.8), (x + 3.2, y + 2.8))
    for shift in (-1.2, 1.0):
        sheet.line((x - 6.4 + shift, y - 8.2), (x - 3.8 + shift, y - 5.6))
        sheet.line((x - 5.0 + shift, y - 5.9), (x - 3.8 + shift, y - 5.6), (x - 4.1 + shift, y - 6.8))


def fuse(sheet: Sheet, x: float, y: float) -> None:
    sheet.box(x, y - 1.3, 6, 2.6)


def switch(sheet: Sheet, x: float, y: float, is_disconnector: bool) -> None:
    """A make contact; a disconnector has a bar at its fixed contact, a load-break switch a circle."""
    _gap(sheet, x, y)
    if is_disconnector:
        sheet.circle(x + 7.2, y, 0.7)
        sheet.line((x + 7.9, y - 1.6), (x + 7.9, y + 1.6))


def _gap(sheet: Sheet, x: float, y: float) -> None:
    # Paper over the line, and the open blade.
    sheet.marks = [*_without(sheet.marks, x + 1, x + 6.5, y)]
    sheet.line((x + 1, y), (x + 6.4, y - 3.0))


def _without(marks: list[Mark], from_x: float, to_x: float, y: float) -> list[Mark]:
    """The marks with a horizontal line at y interrupted between two places."""
    kept: list[Mark] = []
    for mark in marks:
        if isinstance(mark, Polyline) and len(mark.points) == 2 and mark.points[0][1] == mark.points[1][1] == y:
            (start, _), (end, _) = mark.points
            if start < from_x and end > to_x:
                kept += [
                    Polyline(((start, y), (from_x, y)), mark.weight, tone=mark.tone),
                    Polyline(((to_x, y), (end, y)), mark.weight, tone=mark.tone),
                ]
                continue
        kept.append(mark)
    return kept


def breaker(sheet: Sheet, x: float, y: float) -> None:
    _gap(sheet, x, y)
    sheet.line((x + 5.6, y - 0.9), (x + 7.4, y + 0.9))
    sheet.line((x + 5.6, y + 0.9), (x + 7.4, y - 0.9))


def residual(sheet: Sheet, x: float, y: float) -> None:
    """A summation transformer around the conductors."""
    ring = [(x + 1.6 * cos(2 * pi * i / 24), y + 3.4 * sin(2 * pi * i / 24)) for i in range(24)]
    sheet.shape(ring)


def surge(sheet: Sheet, x: float, y: float) -> None:
    """A surge protective device between a conductor and earth."""
    sheet.circle(x, y, 0.55, is_filled=True)
    sheet.line((x, y), (x, y + 2))
    sheet.box(x - 1.4, y + 2, 2.8, 4.4)
    sheet.line((x, y + 2.6), (x, y + 5.6))
    sheet.line((x - 0.7, y + 4.6), (x, y + 5.6), (x + 0.7, y + 4.6))
    sheet.line((x, y + 6.4), (x, y + 7.6))
    earth(sheet, x, y + 7.6)


def earth(sheet: Sheet, x: float, y: float) -> None:
    for i, half in enumerate((1.6, 1.05, 0.5)):
        sheet.line((x - half, y + 0.7 * i), (x + half, y + 0.7 * i))


def converter(sheet: Sheet, x: float, y: float, half: float, is_to_dc: bool = False) -> None:
    """From direct current above the diagonal to what stands below it."""
    width = INVERTER_WIDTH
    sheet.box(x, y - half, width, 2 * half)
    sheet.line((x, y + half), (x + width, y - half))
    for lift in (3.0, 4.2):
        sheet.line((x + 2, y - half + lift), (x + 5.5, y - half + lift))
        if is_to_dc:
            sheet.line((x + width - 6, y + half - lift), (x + width - 2.5, y + half - lift))
    if not is_to_dc:
        wave(sheet, x + width - 6, y + half - 3.5, 4.0)


def transformer(sheet: Sheet, x: float, y: float) -> None:
    sheet.marks = _without(sheet.marks, x - 5.6, x + 5.6, y)
    sheet.circle(x - 1.9, y, 3.7)
    sheet.circle(x + 1.9, y, 3.7)


def wave(sheet: Sheet, x: float, y: float, width: float) -> None:
    sheet.line(*((x + width * i / 16, y - 0.8 * sin(2 * pi * i / 16)) for i in range(17)))


def slashes(sheet: Sheet, x: float, y: float, conductors: int) -> None:
    """A stroke across the line with the number of conductors."""
    sheet.line((x - 1, y + 1.6), (x + 1, y - 1.6))
    sheet.text(x + 1.2, y - 1.6, str(conductors), LETTER * 0.8)
