"""Checks of surfaces, weather and losses."""

from collections.abc import Iterator

import numpy as np

from noontide.core.checks.finding import Check, Remedy
from noontide.core.design.standing import objects_that_cast
from noontide.core.design.surface import Surface
from noontide.core.simulation.results import Results
from noontide.core.weather.clock import describe_clock_error
from noontide.core.weather.closure import closure_words, is_off
from noontide.core.weather.statistics import distance_km
from noontide.core.weather.year import Place

FAR_KM = 50.0
HIGH_M = 300.0
SAME_HOUR_KM = 500.0
WRONG_CLOCK = 1.0  # h, beyond which the simulation cannot be used
BRIGHTEST = 1500.0  # W/m2 on any plane
MOST_CLIPPED = 0.03
MOST_ROW_SHADE = 0.03
MOST_STOWED = 0.05  # of the intervals with the sun up


def check_surfaces(r: Results) -> Iterator[Check]:
    """Findings about surfaces."""
    area = r.plant.module_counts * r.plant.module_areas
    for s, (name, surface) in enumerate(zip(r.plant.surface_ids, r.plant.surfaces, strict=True)):
        covered = float(area[r.plant.surface_of == s].sum())
        if surface.area is not None and covered > surface.area:
            yield Check(
                "surface-area", "error", f"Modules exceed the area of {surface.name or name}",
                f"{covered:,.1f} m² of modules on {surface.area:,.1f} m².", "surfaces", f"/surfaces/{name}/area", covered, surface.area, "m²", "Area of the modules",
            )  # fmt: skip
        yield from _motion(r, name, surface)


def _motion(r: Results, name: str, surface: Surface) -> Iterator[Check]:
    """Findings about a surface that moves."""
    moves = surface.tracking or surface.two_axis_tracking
    title, at = surface.name or name, f"/surfaces/{name}"
    if (moves or surface.seasonal_tilt) and surface.mounting != "open rack":
        yield Check(
            "moving-mounting", "caution", f"{title} moves, but its mounting is a roof's",
            f"Cell temperature is calculated for '{surface.mounting}'. Air passes on both sides of a plane that moves: use the open rack.", "surfaces",
            f"{at}/mounting", 0, 0, "", "Mounting of the cell temperature model", (Remedy("Use the open rack", {"surfaces": {name: {"mounting": "open rack"}}}),),
        )  # fmt: skip
    if surface.tracking and surface.face and (beside := len(objects_that_cast(r.design))):
        yield Check(
            "objects-beside-trackers", "caution", f"Objects of the scene cast no shade on the trackers of {title}",
            f"{beside} object{'s' if beside > 1 else ''} of the scene stand{'s' if beside == 1 else ''} there; trackers count the shade of their rows, of the horizon and of the obstacles on Sky.",
            "scene", f"{at}/tracking", beside, 0, "", "Noontide rule: what is not calculated is noted",
        )  # fmt: skip
    shade = -sum(r.cascade[key].share for key in ("rows", "partial_shade"))
    if surface.tracking and surface.rows and not surface.tracking.backtracking and shade > MOST_ROW_SHADE:
        yield Check(
            "no-backtracking", "caution", f"Rows of {title} shade one another: backtracking is off",
            f"Rows cost {shade:.1%} of the energy in all, their partial shade included.", "surfaces", f"{at}/tracking/backtracking",
            shade * 100, 100 * MOST_ROW_SHADE, "%", "Noontide rule: at most 3 %",
            (Remedy("Use backtracking", {"surfaces": {name: {"tracking": {"backtracking": None}}}}),),
        )  # fmt: skip
    if moves and moves.stow_wind is not None:
        stowed = float(np.mean(r.sky.wind[r.sky.lit_fraction > 0] >= moves.stow_wind)) if r.sky.lit_fraction.any() else 0.0
        if stowed > MOST_STOWED:
            yield Check(
                "stowed", "caution", f"{title} is often stowed", f"Wind reaches {moves.stow_wind:g} m/s in {stowed:.0%} of the daylight.", "surfaces",
                f"{at}/{'tracking' if surface.tracking else 'two_axis_tracking'}/stow_wind", stowed * 100, 100 * MOST_STOWED, "%", "Noontide rule: at most 5 % of the daylight",
            )  # fmt: skip


def check_sky(r: Results) -> Iterator[Check]:
    """Findings about horizon, obstacles and shade by hand."""
    site = r.design.site
    for key, surface in zip(r.plant.surface_ids, r.plant.surfaces, strict=True):
        table = surface.shade_table
        if table is not None and not table.is_measured:
            yield Check(
                "shade-estimated", "caution", f"Shade of {surface.name or key} is estimated, not measured or calculated",
                f"Solar access by month and hour, estimated without a visit, replaces horizon and scene.{f' {table.statement}' if table.statement else ''}",
                "sky", f"/surfaces/{key}/shade_table", 0, 0, "", "User setting",
                (Remedy("Calculate it instead", {"surfaces": {key: {"shade_table": None}}}),),
            )  # fmt: skip
    by_hand = site.shade_factor or site.shade_table
    if by_hand is None:
        return
    what = f"Shade factor {site.shade_factor.factor:g}" if site.shade_factor else "Solar access by month and hour"
    if not by_hand.is_measured:
        yield Check(
            "shade-estimated", "caution", "Shade is estimated, not measured or calculated",
            f"{what}, estimated without a visit, replaces horizon and obstacles.{f' {by_hand.statement}' if by_hand.statement else ''}", "sky",
            "/site/shade_factor" if site.shade_factor else "/site/shade_table", 0, 0, "", "User setting",
            (Remedy("Calculate it instead", {"site": {"shade_factor": None, "shade_table": None}}),),
        )  # fmt: skip


def check_weather(r: Results) -> Iterator[Check]:
    """Findings about the weather data."""
    site, place = r.design.site, r.weather.place
    away = distance_km(Place(site.latitude, site.longitude), place)
    if away > FAR_KM:
        yield Check(
            "weather-far", "caution", "Weather data is for another location", f"{r.weather.title} is for a place {away:,.0f} km from the site.", "weather", "/weather",
            away, FAR_KM, "km", "Noontide rule: within 50 km",
        )  # fmt: skip
    if r.weather.is_place_guessed:
        yield Check(
            "weather-place-guessed", "caution", "The place of the weather data is a guess",
            f"{r.weather.title} states no place; the course of its light suits about {place.latitude:.0f}°, {place.longitude:.0f}°. Give its place in the reading.", "weather",
            "/weather", 0.0, 0.0, "", "Course of the light over the year",
        )  # fmt: skip
    if abs(place.elevation - site.elevation) > HIGH_M:
        yield Check(
            "weather-high", "caution", "Weather data is for another elevation",
            f"{r.weather.title} is for {place.elevation:,.0f} m; the site is at {site.elevation:,.0f} m.", "weather", "/weather",
            abs(place.elevation - site.elevation), HIGH_M, "m", "Noontide rule: within 300 m",
        )  # fmt: skip
    # From far enough, the sun itself is at another hour; that the weather is for another location is reported already.
    if (hours := r.sky.clock_error) and away < SAME_HOUR_KM:
        shift = (r.design.weather.clock_shift if r.design.weather else 0.0) - hours
        remedy = Remedy(f"Shift the clock by {shift:+g} h".replace("-", "−"), {"weather": {"clock_shift": shift or None}})
        yield Check(
            "weather-clock", "error" if abs(hours) > WRONG_CLOCK else "caution", "Weather timestamps do not match the sun", describe_clock_error(hours),
            "weather", "/weather", abs(hours), WRONG_CLOCK, "h", "Irradiance against the sun's position", (remedy,) if abs(shift) <= 12 else (),
        )  # fmt: skip
    elif r.sky.closure and is_off(r.sky.closure):
        found = r.sky.closure
        remedy = Remedy("Read DNI as beam on the horizontal", {"weather": {"beam_is_horizontal": True}})
        yield Check(
            "weather-closure", "error" if found.is_beam_horizontal else "caution", "GHI, DNI and DHI do not agree", closure_words(found), "weather", "/weather",
            abs(found.yearly) * 100, 3.0, "%", "BSRN: comparison of the three components", (remedy,) if found.is_beam_horizontal else (),
        )  # fmt: skip
    share = r.sky.capped_beam / max(float(r.sky.ghi.sum()) * r.sky.hours_per_interval, 1e-9)
    if share > 1e-4:
        yield Check(
            "weather-beam", "caution", "DNI above the extraterrestrial irradiance", f"The excess, {share:.2%} of GHI, is counted as diffuse. Check the DNI column.",
            "weather", "/weather", share * 100, 0.0, "%", "Extraterrestrial irradiance, ASTM E490",
        )  # fmt: skip
    brightest = max((member.brightest for member in r.members), default=0.0)
    if brightest > BRIGHTEST:
        yield Check(
            "irradiance-implausible", "error", "Implausible irradiance on a plane",
            f"{brightest:,.0f} W/m² at most; over {BRIGHTEST:,.0f} W/m² is not possible for an interval's mean. Check the units and the clock of the weather data.",
            "weather", "/weather", brightest, BRIGHTEST, "W/m²", "Noontide rule: at most 1,500 W/m²",
        )  # fmt: skip


def check_losses(r: Results) -> Iterator[Check]:
    """Findings about losses."""
    if r.annual.clipped_share > MOST_CLIPPED:
        yield Check(
            "clipping", "caution", "High clipping loss", f"{r.annual.clipped_share:.1%} of the DC energy, in {r.annual.clipped_hours:,.0f} hours.",
            "losses", "/inverters", r.annual.clipped_share * 100, 100 * MOST_CLIPPED, "%", "Noontide rule: at most 3 %",
        )  # fmt: skip
