"""Pictures of a report, of the same figures as those of the screen."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from noontide.core.access.sky_picture import sun_paths
from noontide.core.calendar import MONTHS
from noontide.core.drawing import Cells, Polyline, Sheet
from noontide.core.drawing.ramp import ramp
from noontide.core.drawing.sheet import Tone
from noontide.core.simulation.results import Results

Floats = NDArray[np.float64]
TOP_OF_SKY = 90.0  # degrees


def year_band(r: Results, sheet: Sheet, x: float, y: float, width: float, height: float) -> None:
    """The year as a band: a column a day, an hour a row with midnight below, coloured by the power at the meter."""
    power = np.maximum(r.delivered, 0.0)
    days = r.calendar.days
    hours = power.reshape(days, 24, -1).mean(axis=2).T[::-1]  # (hours, days), the last hour above
    most = float(hours.max())
    colours = ramp(hours / most if most > 0 else hours)
    rows = tuple(tuple(colours[k * days : (k + 1) * days]) for k in range(24))
    deep = height - 5
    sheet.marks.append(Cells(x, y, width / days, deep / 24, rows))
    for month, start in _starts(r):
        sheet.text(x + start / days * width, y + height - 0.6, month, 2.4, tone="soft")


def sun_picture(r: Results, sheet: Sheet, x: float, y: float, width: float, height: float) -> None:
    """The sky unrolled: the sun's paths on the 21st of seven months, which stand for the year, and the horizon before them.

    The side of the equator is in the middle: south of a place in the north.
    """
    site = r.design.site
    paths = sun_paths(site, r.calendar)
    begin = 180.0 if site.latitude < 0 else 0.0
    left, base = x + 9, y + height - 6
    wide, deep = width - 9, height - 9

    def at(azimuth: float, elevation: float) -> tuple[float, float]:
        return left + (azimuth - begin) % 360 / 360 * wide, base - min(elevation, TOP_OF_SKY) / TOP_OF_SKY * deep

    for elevation in (0, 30, 60, 90):
        line = at(begin, elevation)[1]
        sheet.line((left, line), (left + wide, line), weight=0.25 if elevation == 0 else 0.08, tone="soft")
        sheet.text(left - 1.5, line + 0.9, f"{elevation}°", 2.4, "end", tone="soft")
    for azimuth, name in ((0, "N"), (90, "E"), (180, "S"), (270, "W")):
        sheet.text(at(azimuth, 0)[0], base + 4.2, name, 2.6, "middle", is_bold=azimuth == (begin + 180) % 360)
    per_day = paths.azimuth.size // r.calendar.days
    months = r.calendar.months[:: r.calendar.intervals // r.calendar.days]
    for month in (11, 0, 1, 2, 3, 4, 5):
        day = int(np.argmax(months == month)) + 20
        some = slice(day * per_day, (day + 1) * per_day)
        up = [(float(a), float(e)) for a, e in zip(paths.azimuth[some], paths.elevation[some], strict=True) if e > 0]
        for piece in _unbroken([at(*place) for place in up], wide / 2):
            sheet.line(*piece, weight=0.3, tone="sun")
        if up:
            highest = at(*max(up, key=lambda place: place[1]))
            sheet.text(highest[0], highest[1] - 0.8, f"21 {MONTHS[month][:3]}", 2.1, "middle", tone="sun")
    if not (horizon := site.horizon_line).is_flat:
        azimuths = begin + np.linspace(0, 359.999, 361)
        ridge = [at(float(a), float(e)) for a, e in zip(azimuths, horizon.elevation_at(azimuths % 360), strict=True)]
        sheet.marks.append(_filled(((left, base), *ridge, (left + wide, base)), "soft"))


def _unbroken(places: list[tuple[float, float]], most: float) -> list[list[tuple[float, float]]]:
    """Places in their order from left to right, parted where the path leaves on one side and comes back on the other."""
    pieces: list[list[tuple[float, float]]] = [[]]
    for place in places:
        if pieces[-1] and abs(place[0] - pieces[-1][-1][0]) > most:
            pieces.append([])
        pieces[-1].append(place)
    return [piece for piece in pieces if len(piece) > 1]


def _starts(r: Results) -> list[tuple[str, int]]:
    """The months with the day of the year on which they begin."""
    months = r.calendar.months[:: r.calendar.intervals // r.calendar.days]
    return [(MONTHS[m][:3], int(np.argmax(months == m))) for m in range(12) if (months == m).any()]


def month_bars(
    values: Sequence[float], unit: str, sheet: Sheet, x: float, y: float, width: float, height: float, tone: Tone = "yield"
) -> None:
    """Twelve bars with their figures on top."""
    most = max(*values, 1e-9)
    each, base = width / 12, y + height - 5
    for k, value in enumerate(values):
        tall = max(value, 0.0) / most * (height - 11)
        left = x + k * each + each * 0.14
        if tall > 0.05:
            corners = ((left, base), (left + each * 0.72, base), (left + each * 0.72, base - tall), (left, base - tall))
            sheet.marks.append(_filled(corners, tone))
        sheet.text(left + each * 0.36, base - tall - 1.2, f"{value:,.0f}", 2.4, "middle", tone="soft", most=each)
        sheet.text(left + each * 0.36, base + 4, MONTHS[k][:3], 2.4, "middle", tone="soft")
    sheet.line((x, base), (x + width, base), weight=0.25)
    sheet.text(x, y + 2, unit, 2.4, tone="soft")


def balance_bars(r: Results, sheet: Sheet, x: float, y: float, width: float, height: float) -> None:
    """The energy balance as bars: what is left after each line, and what the line took or gave."""
    entries = [e for e in r.cascade.entries if abs(e.energy) >= 0.0005 * max(abs(e.before), 1e-9)]
    lines = [("Horizontal irradiation on the module area", 0.0, r.cascade.start, r.cascade.start)]
    lines += [(e.title, e.before, e.before + e.energy, e.energy) for e in entries]
    lines.append(("Energy delivered", 0.0, r.cascade.delivered, r.cascade.delivered))
    most = max(max(a, b) for _, a, b, _ in lines) or 1.0
    left, wide = x + 62, width - 62 - 34
    step = height / len(lines)
    for k, (title, before, after, energy) in enumerate(lines):
        top = y + k * step
        is_end = k in (0, len(lines) - 1)
        tone: Tone = "sun" if k == 0 else "yield" if is_end or energy > 0 else "loss"
        a, b = sorted((before, after))
        edges = (left + max(a, 0) / most * wide, left + max(b, 0) / most * wide)
        low, high = top + step * 0.2, top + step * 0.8
        corners = (
            (edges[0], low),
            (max(edges[1], edges[0] + 0.15), low),
            (max(edges[1], edges[0] + 0.15), high),
            (edges[0], high),
        )
        sheet.marks.append(_filled(corners, tone))
        sheet.text(x, top + step * 0.5 + 0.9, title, 2.6, is_bold=is_end, most=60)
        words = f"{energy:,.0f} kWh" if is_end else f"{100 * energy / before:+.1f} %".replace("-", "−") if before else ""
        sheet.text(x + width, top + step * 0.5 + 0.9, words, 2.6, "end", is_bold=is_end, tone="ink" if is_end else tone)


def running_line(running: Sequence[float], currency: str, sheet: Sheet, x: float, y: float, width: float, height: float) -> None:
    """The sum of all flows from year to year, with the line of nothing lost or won."""
    low, high = min(0.0, *running), max(0.0, *running, 1e-9)
    base, deep = y + height - 5, height - 9
    left = x + 16

    def at(year: float, value: float) -> tuple[float, float]:
        return left + year / max(len(running) - 1, 1) * (width - 16), base - (value - low) / (high - low) * deep

    for value in (low, 0.0, high):
        (_, line) = at(0, value)
        sheet.line((left, line), (x + width, line), weight=0.3 if value == 0 else 0.1, tone="ink" if value == 0 else "soft")
        sheet.text(left - 1.5, line + 0.9, f"{value:,.0f}".replace("-", "−"), 2.4, "end", tone="soft", most=15)
    sheet.line(*(at(k, v) for k, v in enumerate(running)), weight=0.7, tone="yield")
    for year in range(0, len(running), 5):
        sheet.text(at(year, 0)[0], base + 4, f"{year}", 2.4, "middle", tone="soft")
    sheet.text(x + width, base + 7.2, f"years; {currency}", 2.4, "end", tone="soft")


def _filled(corners: tuple[tuple[float, float], ...], tone: Tone) -> Polyline:
    return Polyline(corners, 0.0, True, True, tone)
