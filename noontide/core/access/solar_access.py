"""Solar access of the faces of a scene: what each module or piece receives with its shade, and without."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from noontide.core.access.directed import DirectedInputs, MapInputs, gather, map_out
from noontide.core.design.document import Design
from noontide.core.design.surface import Surface
from noontide.core.electrical.datasheets import Catalogue
from noontide.core.irradiance.attitude import Fixed
from noontide.core.plan.cell_groups import GroupTargets, groups_of, pieces_of, racks_beside
from noontide.core.plan.layouts import plans_of
from noontide.core.scene.solids import Face
from noontide.core.simulation.cache import Kept, StageCache
from noontide.core.simulation.chain import calculated_around
from noontide.core.simulation.near_shade import NearInputs, NearLight, cast_shadows
from noontide.core.simulation.plane_irradiance import AttitudeInputs, PlaneInputs, PlaneIrradiance, light_plane, turn_plane
from noontide.core.simulation.sun_and_weather import SunAndWeather

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class AccessInputs:
    sky: Kept[SunAndWeather]
    plane: Kept[PlaneIrradiance]  # behind the horizon, without the scene
    near: Kept[NearLight]
    targets: GroupTargets


@dataclass(frozen=True)
class SpanInputs:
    light: AccessInputs
    span: tuple[int, int]  # intervals of the year, the first and the last, that are looked at by themselves


@dataclass(frozen=True, eq=False)
class SpanAccess:
    """Irradiation in a span of the year [kWh/m2], with everything that shades and with nothing that does."""

    received: Floats  # of every module or piece, (modules,)
    free: float


@dataclass(frozen=True, eq=False)
class SolarAccess:
    """Irradiation by month [kWh/m2], with everything that shades and with nothing that does."""

    received: Floats  # of every module or piece, (12, modules)
    free: Floats  # (12,)

    @cached_property
    def annual(self) -> Floats:
        """Solar access of every module over the year, 0..1."""
        whole = float(self.free.sum())
        return self.received.sum(axis=0) / whole if whole > 0 else np.ones(self.received.shape[1])


def find_access(row: AccessInputs) -> SolarAccess:
    """The irradiation of every module, from the parts of the light and what the scene leaves of each."""
    sky, plane = row.sky.value, row.plane.value
    return SolarAccess(
        received=_by_module(monthly_light(sky, plane, row.near.value), row.targets),
        free=sky.monthly_sums(plane.free) * sky.hours_per_interval / 1000,
    )


def find_in_span(row: SpanInputs) -> SpanAccess:
    """The irradiation of every module in a span of the year."""
    sky, plane = row.light.sky.value, row.light.plane.value
    first, last = row.span
    inside = (sky.interval_index >= first) & (sky.interval_index <= last)
    return SpanAccess(
        received=_by_module(monthly_light(sky, plane, row.light.near.value, inside), row.light.targets).sum(axis=0),
        free=float(plane.free[inside].sum()) * sky.hours_per_interval / 1000,
    )


def _by_module(by_target: Floats, targets: GroupTargets) -> Floats:
    """Means over the cell groups of each module, (12, modules)."""
    modules = int(targets.module.max()) + 1 if targets.module.size else 0
    sizes = np.maximum(np.bincount(targets.module, minlength=modules), 1)
    return np.stack([np.bincount(targets.module, line, modules) for line in by_target]) / sizes


def monthly_light(sky: SunAndWeather, plane: PlaneIrradiance, near: NearLight, inside: NDArray[np.bool_] | None = None) -> Floats:
    """Irradiation of every target in what light the scene leaves, (12, targets) [kWh/m2]; of some intervals alone, (light,), where they are said."""
    hours = sky.hours_per_interval / 1000
    counts = 1.0 if inside is None else inside
    direct = plane.direct * hours * counts
    starts = np.searchsorted(sky.months, np.arange(13))
    by_target = np.zeros((12, near.beam.shape[1]))
    for month in range(12):
        during = slice(starts[month], starts[month + 1])
        if near.place is None:
            by_target[month] = direct[during] @ near.beam[during]
        else:
            by_target[month] = np.bincount(near.place[during], direct[during], len(near.beam)) @ near.beam
    dome, band, ground = (
        sky.monthly_sums(part * counts)[:, np.newaxis] * hours for part in (plane.dome, plane.band, plane.ground)
    )
    found = by_target + dome * near.isotropic + band * near.band + ground * near.ground
    return found if near.column is None else found[:, near.column]


@dataclass(frozen=True, eq=False)
class FaceAccess:
    """A face of the scene with its solar access: of its modules, or of pieces all over it."""

    face: Face
    surface_id: str | None  # of the design's surface that lies there
    name: str
    tilt: float  # of the modules [°]
    azimuth: float
    targets: GroupTargets
    is_pieces: bool
    access: SolarAccess
    orientation: float  # factor: this plane without shade over the best fixed plane, 0..1
    best: float  # irradiation of that plane [kWh/m2]
    during: SpanAccess | None  # in the span that was asked for

    @property
    def mean(self) -> float:
        """Solar access over the year, mean of the modules, 0..1."""
        return float(self.access.annual.mean()) if self.access.annual.size else 1.0


def accesses_of(
    design: Design,
    parts: Catalogue,
    sky: Kept[SunAndWeather],
    cache: StageCache,
    everything: bool = False,
    is_coarse: bool = False,
    spacing: float | None = None,
    span: tuple[int, int] | None = None,
) -> list[FaceAccess]:
    """Solar access of every surface on a face of the scene, and of every other roof and ground where all are asked for."""
    taken: dict[str | None, list[tuple[str | None, Surface]]] = {}
    for one, lying in design.surfaces.items():
        if lying.tracking is None:  # the access of what turns is no share of a plane's
            taken.setdefault(lying.face, []).append((one, lying))
    light = cache.keep(DirectedInputs(sky, design.site.albedo_before(None), None, "year", (0, 24)), gather)
    best = cache.keep(MapInputs(light), map_out).value.best[2]
    plans = {key: plan for key, plan in plans_of(design, parts).items() if plan.ids}
    found = []
    for face in design.built_scene.faces:
        is_shown = everything and face.kind in ("roof", "ground")
        for key, surface in taken.get(face.id) or ([(None, Surface())] if is_shown else []):
            plan = plans.get(key) if key else None
            racks = racks_beside(plans, key)
            targets = groups_of(plan, racks) if plan else pieces_of(face, spacing, racks)
            tilt, azimuth = (surface.tilt, surface.azimuth) if plan else (face.tilt, face.azimuth)
            inputs = _light_on(design, surface, tilt, azimuth, targets, sky, cache, is_coarse)
            access = cache.keep(inputs, find_access).value
            during = cache.keep(SpanInputs(inputs, span), find_in_span).value if span else None
            own = float(light.value.on_planes(np.array([tilt]), np.array([azimuth]))[0])
            factor, name = own / best if best > 0 else 0.0, surface.name or face.name
            found.append(FaceAccess(face, key, name, tilt, azimuth, targets, plan is None, access, factor, best, during))
    return found


def mean_access(found: list[FaceAccess]) -> float:
    """Of all modules, weighted by their number; of the surfaces' pieces while there is no module; 1 without either."""
    weights = [0 if one.is_pieces else len(one.targets.ids) for one in found]
    if not sum(weights):
        weights = [len(one.targets.ids) if one.surface_id else 0 for one in found]
    total = sum(weights)
    return sum(w * one.mean for w, one in zip(weights, found, strict=True)) / total if total else 1.0


def access_of(
    design: Design,
    surface: Surface,
    tilt: float,
    azimuth: float,
    targets: GroupTargets,
    sky: Kept[SunAndWeather],
    cache: StageCache,
    is_coarse: bool = False,
) -> Kept[SolarAccess]:
    """Solar access of targets on a plane of the design's scene, which also checks what was measured; coarse, it is within some percent, and there at once."""
    return cache.keep(_light_on(design, surface, tilt, azimuth, targets, sky, cache, is_coarse), find_access)


def _light_on(
    design: Design,
    surface: Surface,
    tilt: float,
    azimuth: float,
    targets: GroupTargets,
    sky: Kept[SunAndWeather],
    cache: StageCache,
    is_coarse: bool,
) -> AccessInputs:
    plane = plane_of(design, surface, tilt, azimuth, sky, cache)
    near = cache.keep(NearInputs(sky, targets, design.built_scene.bodies, design.site.horizon_line, is_coarse), cast_shadows)
    return AccessInputs(sky, plane, near, targets)


def plane_of(
    design: Design, surface: Surface, tilt: float, azimuth: float, sky: Kept[SunAndWeather], cache: StageCache
) -> Kept[PlaneIrradiance]:
    """Light on a plane behind the horizon, without the scene."""
    attitude = cache.keep(AttitudeInputs(sky, Fixed(tilt, azimuth), None), turn_plane)
    return cache.keep(
        PlaneInputs(
            sky,
            attitude,
            design.models.transposition,
            design.site.albedo_before(surface.albedo),
            calculated_around(design.site),
            None,
        ),
        light_plane,
    )
