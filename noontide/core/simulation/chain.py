"""The chain of stages, each looked up in the cache before it is run."""

import numpy as np

from noontide.core.electrical.datasheets import Catalogue
from noontide.core.scheme.document import Scheme, Site
from noontide.core.simulation.cache import StageCache, key_of
from noontide.core.simulation.light import Sky, glass_of, light_planes, meet_sky
from noontide.core.simulation.plant import build_plant
from noontide.core.simulation.power import run_inverters, run_modules, run_strings
from noontide.core.simulation.results import Results
from noontide.core.sun import interval_sun
from noontide.core.weather.year import Weather


def simulate(scheme: Scheme, weather: Weather, parts: Catalogue, cache: StageCache | None = None) -> Results:
    """A year of a scheme, interval by interval.

    Parameters
    ----------
    scheme : Scheme
        The design; what is not set takes its default.
    weather : Weather
        The year that it stands in; its calendar is the results' own.
    parts : Catalogue
        The library of modules and inverters; datasheets in the scheme itself come first.
    cache : StageCache, optional
        Kept by the caller from run to run: an edit recomputes only what lies downstream of it.

    Returns
    -------
    Results

    Raises
    ------
    UnknownPart
        If a module or inverter is in neither library.
    ValueError
        If the scheme has no sub-array.
    """
    cache = cache if cache is not None else StageCache()
    plant = build_plant(scheme, parts)
    site = scheme.site
    # A surface takes part once for each kind of glass on it.
    fronts = [glass_of(module, scheme.models.incidence) for module in plant.modules]
    of_subarray = [(subarray.surface, front) for subarray, front in zip(plant.subarrays, fronts, strict=True)]
    planes = tuple(dict.fromkeys(of_subarray))
    plane_of = [planes.index(plane) for plane in of_subarray]
    surfaces = tuple(scheme.surfaces[key] for key, _ in planes)
    kinds = tuple(dict.fromkeys((plane, module) for plane, module in zip(plane_of, plant.modules, strict=True)))
    of_pair = np.array([kinds.index(kind) for kind in zip(plane_of, plant.modules, strict=True)])
    pairs = tuple((plane, plant.modules.index(module)) for plane, module in kinds)

    sky_key, sky = sky_over(site, weather, cache)
    glass = tuple(front for _, front in planes)
    light_key = key_of(
        "light", sky_key, glass, surfaces, site.horizon, site.albedo, site.albedo_by_month,
        scheme.losses.soiling, scheme.losses.soiling_by_month, scheme.models.transposition, scheme.models.incidence,
    )  # fmt: skip
    light = cache.get(light_key, lambda: light_planes(scheme, surfaces, glass, sky))
    module_key = key_of("modules", light_key, kinds, scheme.models.temperature, scheme.models.wind_factor)
    mounts = tuple(s.mounting for s in surfaces)
    modules = cache.get(module_key, lambda: run_modules(scheme, pairs, plant, light, mounts, sky))
    string_key = key_of("strings", module_key, plant.subarrays, plant.inverter_ids, plant.inverters, scheme.losses)
    strings = cache.get(string_key, lambda: run_strings(scheme.losses, plant, of_pair, light.effective[plane_of], modules, sky))
    grid_key = key_of("grid", string_key, plant.sets, plant.inverters, scheme.losses)
    grid = cache.get(grid_key, lambda: run_inverters(scheme.losses, plant, strings))
    return Results(scheme, weather, plant, np.array(plane_of), of_pair, sky, light, modules, strings, grid)


def sky_over(site: Site, weather: Weather, cache: StageCache) -> tuple[str, Sky]:
    """The first two stages, sun and sky, with the key under which they are kept."""
    sun_key = key_of("sun", weather.calendar, site.latitude, site.longitude, site.elevation)
    sun = cache.get(sun_key, lambda: interval_sun(weather.calendar, site.latitude, site.longitude, site.elevation))
    sky_key = key_of("sky", sun_key, weather.digest)
    return sky_key, cache.get(sky_key, lambda: meet_sky(sun, weather))
