"""The sun as a witness of the clock: where the light of a table stands against it."""

import numpy as np

from noontide.core.sun import solar_position
from noontide.core.weather.reading.clockwork import (
    Wall,
)
from noontide.core.weather.reading.columns import (
    factor_of,
    told_apart,
    without_codes,
)
from noontide.core.weather.reading.findings import Findings, sureness_of
from noontide.core.weather.reading.frame import Frame
from noontide.core.weather.reading.model import IRRADIANCES, Reading
from noontide.core.weather.reading.preamble import Preamble
from noontide.core.weather.reading.summer_time import find_summer_time
from noontide.core.weather.reading.sunfit import SunFit, guess_place
from noontide.core.weather.reading.table_light import CLEAR_GAIN, TELLING, fit_of, light_of, middles_of


def settle_by_the_sun(reading: Reading, frame: Frame, wall: Wall, words: Preamble, say: Findings) -> SunFit | None:
    """What the clock itself leaves open is settled by the sun; where both are sure and disagree, a shift is proposed."""
    light = light_of(reading, frame)
    if light is None:
        return None
    if reading.latitude is None or reading.longitude is None:
        middles = middles_of(reading, wall)
        guessed = guess_place(middles, light, reading.step, reading.utc_offset)
        if guessed is None:
            return None
        for name, value in zip(("latitude", "longitude"), guessed, strict=True):
            if getattr(reading, name) is None:
                setattr(reading, name, round(value, 1))
                say(
                    name,
                    f"about {value:.0f}",
                    "The file does not say; where the sun would follow its light. Give the place.",
                    "guess",
                )
    sureness = sureness_of(reading)
    has_zones = wall.zones is not None
    if not has_zones and not reading.daylight_saving:
        find_summer_time(reading, frame, wall, light, words, say)
    fit = fit_of(reading, wall, light)
    if fit is None or (abs(fit.best) < TELLING) or fit.gain < CLEAR_GAIN:
        if fit is not None and sureness.get("time") == "guess" and reading.step >= 30:
            say(
                "time",
                f"{reading.stamps} of the interval",
                "The first row stands at midnight, and the clearest days follow the sun.",
                "likely",
            )
        if fit is not None and sureness.get("clock") == "guess" and abs(fit.best) < TELLING:
            say("clock", f"UTC{reading.utc_offset:+g}", "The clearest days follow the sun under it.", "likely")
        return fit
    step = reading.step
    left = fit.best
    if sureness.get("clock") == "guess":
        # Whole hours are the clock's, what is left is the interval's.
        backs = (0.0,) if sureness.get("time") == "certain" else (0.0, -step / 2, -float(step))
        moves = {float(h) for h in range(-12, 13)} | {a - reading.utc_offset for a in range(-12, 15)}
        candidates = [(abs(left + 60 * h - back), abs(h), h, back) for h in sorted(moves) for back in backs]
        near = [c for c in candidates if c[0] <= 15.0 and -12 <= reading.utc_offset + c[2] <= 14]
        if near:
            _, _, hours, _ = min(near, key=lambda c: (c[3] != 0.0, c[0], c[1]))
            if hours:
                reading.utc_offset += hours
                say(
                    "clock",
                    f"UTC{reading.utc_offset:+g}",
                    f"The file does not say; under it the clearest days follow the sun ({fit.best:+.0f} min before).",
                    "likely",
                )
                left += 60 * hours
    if (
        sureness.get("time") in ("guess", "likely")
        and reading.stamps == "start"
        and step >= 30
        and min(abs(left + step), abs(left + step / 2)) <= 15
    ):
        reading.stamps = "end" if abs(left + step) <= abs(left + step / 2) else "middle"
        say(
            "time",
            f"{reading.stamps} of the interval",
            f"Read as its start, the clearest days would be {-left:.0f} min behind the sun.",
            "likely",
        )
    fit = fit_of(reading, wall, light)
    if fit is not None and abs(fit.best) >= TELLING and fit.gain >= CLEAR_GAIN:
        reading.proposed_shift = fit.best
        late = "behind" if fit.best < 0 else "ahead of"
        say("sun", f"{fit.best:+.0f} min", f"On {fit.days} clear days the light is {abs(fit.best):.0f} min {late} the sun. A shift by {fit.best:+.0f} min mends it; it is not done unless you say so.", "likely")  # fmt: skip
    return fit


def find_closure(reading: Reading, frame: Frame, wall: Wall, say: Findings) -> None:
    """Whether the three irradiances are what their headings say."""
    columns = {r: c for r in IRRADIANCES if (c := reading.column(r)) is not None}
    if len(columns) < 3 or reading.latitude is None or reading.longitude is None:
        return
    some = np.unique(np.linspace(0, len(frame) - 1, min(len(frame), 9000)).astype(np.int64))
    values = {}
    for role, column in columns.items():
        factor, _ = factor_of(column.unit, role, reading.step)
        values[role] = without_codes(frame.coerced(column.place), reading.missing)[some] * factor
    middles = middles_of(reading, wall)[some] + (reading.proposed_shift or 0.0)
    zenith = solar_position((middles * 60).astype("int64").astype("datetime64[s]"), reading.latitude, reading.longitude).zenith
    found = told_apart(values, np.maximum(np.cos(np.radians(zenith)), 0))
    if found is None:
        return
    new_roles, before, after = found
    changed = [(column, new_roles[role]) for role, column in columns.items() if new_roles[role] != role]
    for column, _ in changed:
        column.role = ""
    words = []
    for column, role in changed:
        # The unit stays: a heading that names the wrong quantity mostly states the right unit.
        column.role, column.sureness = role, "likely"  # type: ignore[assignment]
        column.reason = (
            f"The values are not what the heading says: as {role} the three close to {after:.0%} of GHI, before {before:.0%}."
        )
        words.append(f"{column.heading or f'column {column.place + 1}'} is {role}")
    say(
        "closure",
        "; ".join(words),
        f"GHI = DNI cos(zenith) + DHI is off by {before:.0%} of GHI as the headings say, by {after:.0%} so.",
        "likely",
    )
