"""Which column of a table is which quantity, in which unit: by its heading, and by its values."""

import re
from collections.abc import Sequence
from itertools import permutations

import numpy as np
from numpy.typing import NDArray

from noontide.core.weather.reading.frame import Frame
from noontide.core.weather.reading.layout import is_number
from noontide.core.weather.reading.model import ENERGIES, IRRADIANCES, ColumnReading, units_of
from noontide.core.weather.reading.stamps import clock_of, layout_of
from noontide.core.weather.reading.words import folded, is_left_out, quantity_in, time_part_in, unit_in

Floats = NDArray[np.float64]
CODES = (
    -999.0,
    -9999.0,
    -99999.0,
    -99.0,
    -99.9,
    -999.9,
    -6999.0,
    -7999.0,
    999.0,
    9999.0,
    99999.0,
    999.9,
    9999.9,
    99.9,
    32767.0,
    -32768.0,
    9.96921e36,
    1e20,
)
BOUNDS = {
    "ghi": (-30, 1900),
    "dni": (-30, 1600),
    "dhi": (-30, 1300),
    "beam_horizontal": (-30, 1600),
    "temperature": (-95, 75),
    "wind": (0, 110),
    "pressure": (300, 1100),
}
SAME_CLOSURE = 0.01  # of GHI, by which two assignments close alike
HIGHEST_MEAN = 420.0  # W/m2 of a year of GHI, that no place on Earth exceeds
_BARE_CLOCK = ("time", "hour", "hhmm", "zeit", "uhrzeit", "heure", "hora", "ora", "stunde", "clock")


def time_columns(samples: list[list[str]], headings: Sequence[str]) -> tuple[list[ColumnReading], dict[int, str]]:
    """Columns that hold dates and times, and the layout of those that are read as texts."""
    found: list[ColumnReading] = []
    layouts: dict[int, str] = {}
    for place, texts in enumerate(samples):
        heading = headings[place]
        numbers = all(is_number(t) for t in texts if t)
        layout = layout_of(texts)
        if layout == "no year" and numbers:
            layout = ""
        if layout == "compact" and numbers and not _are_dates(texts):
            layout = ""
        if layout:
            has_clock = (
                any(":" in t or "T" in t for t in texts)
                or (layout == "compact" and max(map(len, texts)) > 8)
                or layout == "epoch"
            )
            found.append(
                _time(
                    place,
                    heading,
                    "stamp" if has_clock else "date",
                    "certain",
                    f"Every field reads as a {'time' if has_clock else 'date'}, as {texts[0]}.",
                )
            )
            layouts[place] = layout
        elif (notation := clock_of(texts)) in ("clock", "hours"):
            found.append(_time(place, heading, "clock", "certain", f"Every field reads as a time of day, as {texts[0]}."))
            layouts[place] = notation
    has_date = any(c.role in ("stamp", "date") for c in found)
    has_clock = any(c.role in ("stamp", "clock") for c in found)
    # Of several stamps, as local time and UTC, the first is taken; of a stamp and its parts, the stamp.
    found = [c for i, c in enumerate(found) if not any(o.role == c.role for o in found[:i])]
    if any(c.role == "stamp" for c in found):
        found = [c for c in found if c.role == "stamp"]
        return found, layouts
    for place, texts in enumerate(samples):
        if place in layouts or not texts or not all(is_number(t) for t in texts if t):
            continue
        part = time_part_in(headings[place])
        values = [float(t.replace(",", ".")) for t in texts if t]
        if not values:
            continue
        whole = all(v == round(v) for v in values)
        bare = folded(headings[place]).split("(")[0].strip()
        if (
            not has_clock
            and whole
            and any(word in bare for word in _BARE_CLOCK)
            and max(values) > 60
            and all(v % 100 < 60 and v <= 2400 for v in values)
        ):
            reason = "Whole numbers to 2400 under a heading of time: hours and minutes."
            found.append(_time(place, headings[place], "clock", "certain", reason))
            layouts[place] = "hhmm"
            has_clock = True
        elif part and _fits(part, values) and not any(c.role == part for c in found) and (whole or part == "hour"):
            if part in ("year", "month", "day", "day of year") and has_date:
                continue
            if part in ("hour", "minute") and has_clock:
                continue
            found.append(_time(place, headings[place], part, "certain", f"The heading names the {part}, and the values fit."))
        elif (
            bare in ("time", "zeit", "temps", "tiempo", "ora", "hora", "t")
            and whole
            and has_date
            and _fits("hour", values)
            and not any(c.role == "hour" for c in found)
        ):
            found.append(_time(place, headings[place], "hour", "likely", "Whole numbers within 0 to 24 under a heading of time."))
    if not has_date and not any(c.role in ("month", "day of year") for c in found):
        found += _parts_by_values(samples, headings, {c.place for c in found})
    return found, layouts


def _are_dates(texts: Sequence[str]) -> bool:
    return all(re.match(r"(19|20)\d{2}(0[1-9]|1[0-2])([0-2]\d|3[01])", t) for t in texts if t)


def _time(place: int, heading: str, role: str, sureness: str, reason: str) -> ColumnReading:
    return ColumnReading(place=place, heading=heading[:200], role=role, sureness=sureness, reason=reason[:300])  # type: ignore[arg-type]


def _fits(part: str, values: Sequence[float]) -> bool:
    low, high = {
        "year": (1900, 2100),
        "month": (1, 12),
        "day": (1, 31),
        "hour": (0, 24),
        "minute": (0, 60),
        "day of year": (1, 366),
    }[part]
    return min(values) >= low and max(values) <= high


def _parts_by_values(samples: list[list[str]], headings: Sequence[str], taken: set[int]) -> list[ColumnReading]:
    """Year, month, day and hour in the first columns, without headings that say so."""
    found, wanted = [], ["year", "month", "day", "hour"]
    for place, texts in enumerate(samples[:6]):
        if place in taken or not texts or not all(is_number(t) for t in texts if t):
            continue
        values = [float(t.replace(",", ".")) for t in texts if t]
        if not values or any(v != round(v) for v in values):
            break
        part = next((p for p in wanted if _fits(p, values)), "")
        if not part:
            break
        found.append(
            _time(
                place,
                headings[place],
                part,
                "likely",
                f"Whole numbers from {min(values):g} to {max(values):g} in order of year, month, day, hour.",
            )
        )
        wanted = wanted[wanted.index(part) + 1 :]
    return found if any(c.role == "month" for c in found) and any(c.role == "day" for c in found) else []


def codes_in(frame: Frame, places: Sequence[int]) -> list[float]:
    """Values that say that there is none: those known for it that stand far from all others of their column."""
    found: set[float] = set()
    for place in places:
        try:
            values = frame.numbers(place)
        except ValueError:
            continue
        values = values[np.isfinite(values)]
        if not values.size:
            continue
        for code in CODES:
            mine = np.isclose(values, code, rtol=1e-6)
            if not mine.any():
                continue
            rest = values[~mine & ~np.isin(values, CODES)]
            if not rest.size:
                continue
            low, high = float(rest.min()), float(rest.max())
            spread = max(high - low, 1.0)
            # Far outside of all others, or the same odd number again and again far above them.
            if (code < 0 and low > -95 and code < low - 0.5 * min(spread, 40)) or (code > 0 and code > high + 0.3 * spread):
                found.add(float(code))
    return sorted(found)


def without_codes(values: Floats, codes: Sequence[float]) -> Floats:
    """A copy with NaN where a value says that there is none."""
    values = values.copy()
    for code in codes:
        values[np.isclose(values, code, rtol=1e-6, atol=1e-9)] = np.nan
    return values


def named_columns(
    headings: Sequence[str], units: Sequence[str], taken: set[int], frame: Frame, codes: Sequence[float], step: int
) -> list[ColumnReading]:
    """Quantities by their headings; of several columns for one quantity the first with values is taken."""
    found: list[ColumnReading] = []
    for place, heading in enumerate(headings):
        if place in taken:
            continue
        quantity = quantity_in(heading)
        if not quantity:
            found.append(
                ColumnReading(
                    place=place,
                    heading=heading[:200],
                    reason=_left_out(heading),
                    sureness="certain" if is_left_out(heading) else "guess",
                )
            )
            continue
        values = without_codes(frame.coerced(place), codes)
        if not frame.is_numeric(place) and np.isfinite(values).mean() < 0.5:
            found.append(
                ColumnReading(place=place, heading=heading[:200], reason=f"Named like {quantity}, but most of it are no numbers.")
            )
            continue
        if not np.isfinite(values).any():
            found.append(ColumnReading(place=place, heading=heading[:200], reason="The column is empty."))
            continue
        if any(c.role == quantity for c in found):
            found.append(ColumnReading(place=place, heading=heading[:200], reason=f"An earlier column holds {quantity} already."))
            continue
        stated = unit_in(f"{heading} [{units[place]}]" if units[place] else heading, quantity)
        unit, why = (stated, "the unit is stated") if stated else unit_by_values(values, quantity, step)
        found.append(
            ColumnReading(place=place, heading=heading[:200], role=quantity, unit=unit, sureness="certain" if stated else "likely", reason=f"The heading names it; {why}.")  # type: ignore[arg-type]
        )  # fmt: skip
    _agree_on_units(found, headings, units, frame, codes, step)
    return found


def _agree_on_units(
    columns: list[ColumnReading], headings: Sequence[str], units: Sequence[str], frame: Frame, codes: Sequence[float], step: int
) -> None:
    """Irradiances without a stated unit take that of one that has it, or that of the strongest: those of a table are alike."""
    mine = [c for c in columns if c.role in IRRADIANCES]
    stated = [c for c in mine if c.sureness == "certain"]
    open_ = [c for c in mine if c.sureness != "certain"]
    if len(mine) < 2 or not open_:
        return
    if stated:
        unit, why = stated[0].unit, f"the unit of {stated[0].heading[:60]}"
    else:
        by_strength = {c.place: float(np.nansum(without_codes(frame.coerced(c.place), codes))) for c in mine}
        strongest = next((c for c in mine if c.role == "ghi"), max(mine, key=lambda c: by_strength[c.place]))
        unit, why = strongest.unit, f"the unit of {strongest.heading[:60] or 'the strongest'}"
    for column in open_:
        if column.unit != unit:
            column.unit, column.reason = unit, f"The heading names it; {why}."


def _left_out(heading: str) -> str:
    if not heading:
        return "It has no heading."
    return "Nothing here uses it." if is_left_out(heading) else "The heading names none of the quantities."


def factor_of(unit: str, quantity: str, step: int) -> tuple[float, float]:
    """Factor and shift from a unit to ours; energies are those of a row."""
    factor, shift = units_of(quantity)[unit or next(iter(units_of(quantity)))]
    return (factor * 60 / step if unit in ENERGIES else factor), shift


def unit_by_values(values: Floats, quantity: str, step: int) -> tuple[str, str]:
    """The unit under which values of a year are believable, and why."""
    known = values[np.isfinite(values)]
    high, mean = float(np.percentile(known, 99.9)), float(known.mean())
    if quantity in IRRADIANCES:
        for unit in ("W/m²", "kW/m²", "MJ/m²", "J/cm²", "kJ/m²", "Wh/m²", "kWh/m²"):
            factor = factor_of(unit, quantity, step)[0]
            if 350 <= high * factor <= 1550 and mean * factor <= HIGHEST_MEAN:
                return unit, f"values to {high:,.4g} are {unit}"
        return "W/m²", f"values to {high:,.4g} are taken as W/m²"
    if quantity == "temperature":
        unit = "K" if float(np.percentile(known, 1)) > 170 else "°F" if high > 62 or mean > 42 else "°C"
        return unit, f"values from {known.min():.4g} to {known.max():.4g} are {unit}"
    if quantity == "wind":
        unit = "km/h" if mean > 14 else "m/s"
        return unit, f"a mean of {mean:.3g} is {unit}"
    unit = "Pa" if mean > 20_000 else "kPa" if mean < 130 else "mmHg" if 300 < mean < 500 and high < 500 else "hPa"
    return unit, f"a mean of {mean:,.5g} is {unit}"


def light_by_values(columns: list[ColumnReading], frame: Frame, codes: Sequence[float], step: int) -> None:
    """Give columns without a name that behave like irradiance, dark at night and bright by day, a role where GHI is missing."""
    if any(c.role in IRRADIANCES for c in columns):
        return
    bright = []
    for column in columns:
        if column.role or is_left_out(column.heading):
            continue
        try:
            values = without_codes(frame.numbers(column.place), codes)
        except ValueError:
            continue
        known = values[np.isfinite(values)]
        if known.size < 100:
            continue
        dark = float(np.mean(np.abs(known) <= 0.005 * max(float(known.max()), 1e-9)))
        if 0.25 < dark < 0.75 and known.max() > 0:
            bright.append((float(known.sum()), column, values))
    if bright:
        _, column, values = max(bright, key=lambda found: found[0])
        column.unit, why = unit_by_values(values, "ghi", step)
        column.role, column.sureness, column.reason = (
            "ghi",
            "guess",
            f"Dark at night, bright by day, the strongest of its kind; {why}.",
        )


def _looks_swapped(lights: list[Floats], mu: Floats, is_horizontal: bool) -> bool:
    """Whether what is taken for diffuse light behaves like a beam: it goes where the sky is dull, and is most of the light where it is clear."""
    ghi, beam, diffuse = lights
    direct = beam if is_horizontal else beam * mu
    clearness = ghi / np.maximum(mu, 0.15)
    dull, clear = clearness <= np.quantile(clearness, 0.2), clearness >= np.quantile(clearness, 0.8)

    def share(part: Floats, when: NDArray[np.bool_]) -> float:
        return float(part[when].sum() / max(ghi[when].sum(), 1e-9))

    return share(diffuse, dull) < share(direct, dull) and share(diffuse, clear) > share(direct, clear)


def air_by_values(columns: list[ColumnReading], frame: Frame, codes: Sequence[float]) -> None:
    """Give the temperature of the air, and the wind, a column of a table without headings: what swings with the seasons, and what does not."""
    if any(c.heading for c in columns if not c.role) or any(c.role in ("temperature", "wind") for c in columns):
        return
    found = []
    for column in columns:
        values = without_codes(frame.coerced(column.place), codes)
        known = values[np.isfinite(values)]
        if column.role or known.size < 1000 or known.min() < -60 or known.max() > 60 or known.std() < 0.5:
            continue
        parts = [part.mean() for part in np.array_split(known, 12)]
        found.append((float(np.std(parts) / known.std()), column, known))
    if not found:
        return
    swing, column, _ = max(found, key=lambda one: one[0])
    if swing > 0.4:
        column.role, column.unit, column.sureness = "temperature", "°C", "guess"
        column.reason = "Without headings: values like a temperature in °C that swings with the seasons."
    for swing, column, known in found:
        if not column.role and known.min() >= 0 and 0.5 <= known.mean() <= 12 and swing < 0.5:
            column.role, column.unit, column.sureness = "wind", "m/s", "guess"
            column.reason = "Without headings: never below 0 and alike in all seasons, as the wind in m/s."
            return


def told_apart(values: dict[str, Floats], cosine: Floats) -> tuple[dict[str, str], float, float] | None:
    """Another assignment of the irradiances under which GHI = DNI cos(zenith) + DHI holds much better.

    Parameters
    ----------
    values : dict of (rows,)
        By the role that each has so far [W/m2].
    cosine : (rows,)
        Of the zenith; 0 at night.

    Returns
    -------
    tuple or None
        From the old role to the new one, with the mean residual before and after, relative to the GHI.
    """
    roles = [role for role in IRRADIANCES if role in values]
    if len(roles) < 3 or "beam_horizontal" in roles:
        return None
    bright = np.flatnonzero((cosine > 0.15) & np.all([np.isfinite(values[r]) for r in roles], axis=0))
    if bright.size < 50:
        return None
    mu = cosine[bright]

    def residual(ghi: Floats, dni: Floats, dhi: Floats, is_horizontal: bool) -> float:
        total = float(np.abs(ghi).mean())
        beam = dni if is_horizontal else dni * mu
        return float(np.abs(ghi - beam - dhi).mean()) / total if total > 0 else np.inf

    given = [values[r][bright] for r in ("ghi", "dni", "dhi")]
    now = residual(given[0], given[1], given[2], False)
    trials = {}
    for order in permutations(range(3)):
        for is_horizontal in (False, True):
            g, b, d = (given[k] for k in order)
            # Nothing that is diffuse or beam on the horizontal exceeds the global irradiance over a year.
            if d.mean() > g.mean() * 1.02 or (is_horizontal and b.mean() > g.mean() * 1.02):
                continue
            trials[order, is_horizontal] = residual(g, b, d, is_horizontal)
    best = min(trials.values())
    # Beam and diffuse light on the horizontal can be swapped without a change of the sum, and others nearly so: of those that close as well,
    # the one that looks like beam and diffuse light is taken, and else the one that leaves most headings as they are.
    alike = [trial for trial, off in trials.items() if off <= best + SAME_CLOSURE]
    order, is_horizontal = min(alike, key=lambda trial: (_looks_swapped([given[k] for k in trial[0]], mu, trial[1]), sum(a != b for a, b in enumerate(trial[0])), trials[trial]))  # fmt: skip
    # What closes but for the noise of instruments stays, unless another assignment closes all but exactly.
    if (
        now < 0.02
        or (now < 0.08 and best > 0.25 * now)
        or best > 0.6 * now
        or best > 0.15
        or (order == (0, 1, 2) and not is_horizontal)
    ):
        return None
    new = ("ghi", "beam_horizontal" if is_horizontal else "dni", "dhi")
    old = ("ghi", "dni", "dhi")
    return {old[k]: role for role, k in zip(new, order, strict=True)}, now, best
