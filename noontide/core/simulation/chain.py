"""The chain of stages, each looked up in the cache before it is run."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from hashlib import blake2b
from typing import TypeVar

from noontide.core.calendar import Calendar
from noontide.core.demand.series import UseSeries
from noontide.core.design.circuits import Connection, InverterSet, Wiring
from noontide.core.design.document import Design
from noontide.core.design.losses import Losses, Models
from noontide.core.design.site import Site
from noontide.core.design.surface import Surface
from noontide.core.design.weather_reference import Adjustment
from noontide.core.electrical.datasheets import Catalogue, Module
from noontide.core.electrical.optimisers import string_voltage
from noontide.core.irradiance.attitude import Fixed, Motion, Seasonal, SingleAxis, TwoAxis
from noontide.core.plan import FaceModules, GroupTargets, groups_of, pieces_of, racks_beside
from noontide.core.plan.layouts import deal, module_on, plans_with
from noontide.core.scene import Scene
from noontide.core.shading.horizon import Horizon
from noontide.core.shading.surroundings import Surroundings, surroundings_of
from noontide.core.simulation.adjusted_weather import AdjustmentInputs, adjust_year
from noontide.core.simulation.balance import Balance, BalanceInputs, BalanceMember, BookInputs, Books, keep_books, settle
from noontide.core.simulation.cables_in_use import SizedCables, size_cables
from noontide.core.simulation.cache import CachedRows, Company, Kept, StageCache
from noontide.core.simulation.connection import ConnectionInputs, connect
from noontide.core.simulation.dc_side import Hybrid
from noontide.core.simulation.effective_irradiance import EffectiveInputs, EffectiveIrradiance, cover_of, pass_cover
from noontide.core.simulation.grid_power import GridInputs, InverterOutput, run_inverter
from noontide.core.simulation.module_power import ModuleInputs, ModulePower, operate_module
from noontide.core.simulation.near_shade import NearInputs, NearShade, StringsInShadeInputs, cast_shadows, shade_strings
from noontide.core.simulation.plane_irradiance import (
    Attitude,
    AttitudeInputs,
    ByMonth,
    PlaneInputs,
    PlaneIrradiance,
    RowField,
    light_plane,
    turn_plane,
)
from noontide.core.simulation.plant import IncompleteDesign, Plant, battery_in, build_plant
from noontide.core.simulation.results import BookedInputs, FirstChain, Results, book_all
from noontide.core.simulation.second_chain import after_meter
from noontide.core.simulation.sun_and_weather import (
    SunAndWeather,
    SunAndWeatherInputs,
    SunInputs,
    find_sun,
    join_sun_and_weather,
)
from noontide.core.simulation.tracker_power import MemberInputs, TrackerInputs, TrackerPower, run_tracker
from noontide.core.simulation.tracker_rows import with_tracker_rows
from noontide.core.weather.year import Weather

TOGETHER = 16  # inverter sets of a year of hours


def simulate(
    design: Design,
    weather: Weather,
    parts: Catalogue,
    cache: StageCache | None = None,
    series: Mapping[str, UseSeries] | None = None,
    company: Company | None = None,
) -> Results:
    """A year of a design, interval by interval.

    Parameters
    ----------
    design : Design
        What is not set takes its default.
    weather : Weather
        The year to simulate; its calendar is the results' own.
    parts : Catalogue
        The library of modules and inverters; datasheets in the design itself come first.
    cache : StageCache, optional
        Kept by the caller from run to run: an edit recomputes only what lies downstream of it.
    series : mapping of UseSeries, optional
        Interval data of the demand, by digest.
    company : Company, optional
        The same for several designs, empty before the first: what follows the meter is found for all of them when it is asked for of one.

    Returns
    -------
    Results

    Raises
    ------
    UnknownPart
        If a module or inverter is in neither library.
    IncompleteDesign
        If the design has no sub-array.
    """
    cache = cache if cache is not None else StageCache()
    first = first_chain(design, weather, parts, cache)
    battery = battery_in(design, parts)
    plant = first.plant if battery is None else replace(first.plant, battery=battery)
    together = max(1, TOGETHER // max(1, weather.calendar.intervals // 8760))
    # Of a design by itself the books are kept while its hours are there; of many only where somebody asks for them.
    balances, books = _settled(first, together, with_books=company is None)
    years = {
        k: year for ks, balance in zip(plant.members, balances, strict=True) for k, year in zip(ks, balance.members, strict=True)
    }
    hybrid = _hybrid(design, plant, first.grid)
    connected, after = after_meter(design, first, cache, series or {}, plant, hybrid, company)
    return Results(
        design=design,
        weather=first.weather,
        plant=plant,
        joined=first.sky,
        attitudes=CachedRows(first.attitudes),
        planes=CachedRows(first.planes),
        effective=CachedRows(first.effective),
        modules=CachedRows(first.powers),
        trackers=CachedRows(first.trackers),
        places=tuple(first.places),
        grid=CachedRows(first.grid),
        balances=balances,
        books=books,
        members=tuple(years[k] for k in range(len(plant.subarrays))),
        balance_inputs=first.balance_inputs,
        cables=first.cables,
        connected=connected,
        booked=first.booked,
        after=after,
        library=parts,
        first=first,
    )


@dataclass(frozen=True)
class FirstChainInputs:
    """All that the light and the plant read, to the inverters: nothing of the use, the battery's size and the money."""

    plant: Plant  # without its battery
    weather: Weather  # as the design corrects it
    site: Site
    scene: Scene
    surfaces: tuple[tuple[str, Surface], ...]  # those without strings too: their modules shade
    laid: tuple[Module, ...]  # of the design's own parts, which such surfaces name
    inverters: tuple[tuple[str, InverterSet], ...]
    connection: Connection
    wiring: Wiring
    losses: Losses
    models: Models


def first_chain(design: Design, weather: Weather, parts: Catalogue, cache: StageCache) -> FirstChain:
    """The stages from the sun to the inverters, shared by all designs that differ after the meter alone."""
    # Designs that were made of one another have the same rooms: the quickest way to see that nothing of it is another.
    rooms = (
        weather, parts, design.parts, design.site, design.weather, design.scene, *design.surfaces, *design.surfaces.values(),
        *design.inverters, *design.inverters.values(), *design.subarrays, *design.subarrays.values(), design.connection, design.wiring, design.losses, design.models, design.storage.off_grid,
        None if design.storage.bank is None else FirstChain,
    )  # fmt: skip
    if (known := cache.shared_by(rooms)) is not None:
        return known
    plant, weather = replace(build_plant(design, parts), battery=None), corrected(weather, design, cache)
    inputs = FirstChainInputs(
        plant, weather, design.site, design.scene, tuple(design.surfaces.items()), tuple(design.parts.modules.values()),
        tuple(design.inverters.items()), design.connection, design.wiring, design.losses, design.models,
    )  # fmt: skip
    return cache.share(inputs, lambda _: _first_chain(design, plant, weather, cache), rooms)


def _first_chain(design: Design, plant: Plant, weather: Weather, cache: StageCache) -> FirstChain:
    plant = with_tracker_rows(design, plant)
    sky = sky_over(design.site, weather, cache)
    nears = near_shades(design, plant, sky, cache)
    common = around_of(design.site)
    arounds = [common if s.shade_table is None else around_of(design.site, s) for s in plant.surfaces]
    attitudes, planes = _planes(design, plant, sky, weather.calendar, arounds, nears, cache)
    effective = _effective(design, plant, sky, arounds, attitudes, planes, cache)
    powers = _modules(design, plant, sky, planes, effective, cache)
    cables = size_cables(design, plant)
    trackers, places = _trackers(design, plant, cables, sky, effective, powers, nears, cache)
    grid = cache.keep_rows(
        [
            GridInputs(
                tuple(dict.fromkeys(trackers[k] for k in members)),
                unit,
                sky,
                design.site.elevation,
                one.warmer,
                design.connection.power_factor,
                cables.of_inverter(i),
                design.losses.unavailability,
            )
            for i, (one, unit, members) in enumerate(zip(plant.sets, plant.inverters, plant.members, strict=True))
        ],
        run_inverter,
    )
    balance_inputs = tuple(
        BalanceInputs(
            sky,
            tuple(BalanceMember(planes[k], effective[k], powers[k], trackers[k], places[k]) for k in members),
            output,
        )
        for members, output in zip(plant.members, grid, strict=True)
    )
    balances = cache.keep_rows(balance_inputs, settle, lasting=True)
    books = cache.keep_rows([BookInputs(inputs) for inputs in balance_inputs], keep_books, lasting=True)
    connection = _connection(design, plant, cables, sky, balances)
    connected = cache.keep(connection, connect, lasting=True)
    unlimited = connected
    if connection.export_limit is not None:
        unlimited = cache.keep(replace(connection, export_limit=None), connect, lasting=True)
    return FirstChain(
        plant, weather, sky, attitudes, planes, effective, powers, trackers, places, grid, balance_inputs, balances, books, cables, connection, connected,
        unlimited, cache.keep(BookedInputs(balance_inputs, tuple(plant.counts.tolist())), book_all),
    )  # fmt: skip


def _hybrid(design: Design, plant: Plant, grid: Sequence[Kept[InverterOutput]]) -> Hybrid | None:
    """The inverters on whose DC side the battery stands; None where it is coupled to the AC side.

    Raises
    ------
    IncompleteDesign
        If they have no strings, or are microinverters.
    """
    bank = design.storage.bank
    if bank is None or bank.inverter is None:
        return None
    name, at = design.inverters[bank.inverter].name, "/storage/bank/inverter"
    if plant.is_on_bus:
        raise IncompleteDesign(
            "The battery stands on the bus that the charge controllers feed, and not on the DC side of an inverter.", at
        )
    if bank.inverter not in plant.inverter_ids:
        raise IncompleteDesign(
            f"The battery stands on the DC side of {name}, which has no strings. Add strings to it, or couple the battery to the AC side.",
            at,
        )
    i = plant.inverter_ids.index(bank.inverter)
    if plant.inverters[i].kind == "micro":
        raise IncompleteDesign(
            f"{name} is a microinverter: no battery stands on its DC side. Couple the battery to the AC side.", at
        )
    return Hybrid(grid[i], plant.inverters[i], float(plant.counts[i]))


def _settled(first: FirstChain, together: int, with_books: bool) -> tuple[tuple[Balance, ...], tuple[Books, ...]]:
    """The balances of all inverter sets and perhaps their books; what those that are not kept need is found stage by stage for a few of them at a time.

    A stage that runs over several rows in turn has its tables and code in the processor's cache: a tenth faster than row by row.
    """
    stages: tuple[Sequence[Kept], ...] = (first.planes, first.effective, first.powers, first.trackers)
    rows = [(balance, first.books[i]) if with_books else (balance,) for i, balance in enumerate(first.balances)]
    missing = [i for i, row in enumerate(rows) if not all(one.is_there for one in row)]
    found: dict[int, tuple] = {i: tuple(one.value for one in row) for i, row in enumerate(rows) if i not in set(missing)}
    for start in range(0, len(missing), together):
        some = missing[start : start + together]
        held = [[stage[k].value for i in some for k in first.plant.members[i]] for stage in stages]
        found |= {i: tuple(one.value for one in rows[i]) for i in some}
        del held
    each = [found[i] for i in range(len(rows))]
    return tuple(row[0] for row in each), tuple(row[1] for row in each if with_books)


def corrected(weather: Weather, design: Design, cache: StageCache) -> Weather:
    """The weather year as a design reads it.

    Raises
    ------
    ImpossibleAdjustment
        If a step cannot be taken with this year.
    """
    reference = design.weather
    if reference is None or not reference.changes:
        return weather
    filling, height, climate = (
        _in_use(reference.gap_filling),
        _in_use(reference.height_correction),
        _in_use(reference.warmer_climate),
    )
    factors, target = _in_use(reference.monthly_factors), _in_use(reference.calibration)
    inputs = AdjustmentInputs(
        weather,
        marks=blake2b(weather.flags.tobytes(), digest_size=16).hexdigest() if filling else "",
        beam_is_horizontal=reference.beam_is_horizontal,
        clock_shift=reference.clock_shift,
        filling=filling.method if filling else None,
        fills_doubtful=filling.includes_doubtful if filling else False,
        splits_by_course=reference.decomposition == "ridley" and not {"dni", "dhi"} & set(weather.given),
        elevation=design.site.elevation if height else None,
        lapse_rate=height.lapse_rate if height else 0.0,
        factors=factors.irradiance if factors else None,
        monthly_ghi=target.monthly_ghi if target else None,
        warming=climate.temperature if climate else None,
    )
    return cache.keep(inputs, adjust_year).value


Step = TypeVar("Step", bound=Adjustment)


def _in_use(step: Step | None) -> Step | None:
    return step if step is not None and step.is_on else None


def sky_over(site: Site, weather: Weather, cache: StageCache) -> Kept[SunAndWeather]:
    """The first two stages, the sun and the weather joined to it."""
    sun = cache.keep(SunInputs(weather.calendar, site.latitude, site.longitude, site.elevation), find_sun)
    return cache.keep(SunAndWeatherInputs(sun, weather), join_sun_and_weather, lasting=True)


def around_of(site: Site, surface: Surface | None = None) -> Surroundings | None:
    """All that hides a part of the sky, where anything does; shade known as a factor or a table, of the surface before the site, stands in its place."""
    if surface is not None and surface.shade_table is not None:
        return Surroundings(Horizon(), access=surface.shade_table.access)
    if site.shade_factor is not None:
        return Surroundings(Horizon(), access=((site.shade_factor.factor,) * 24,) * 12)
    if site.shade_table is not None:
        return Surroundings(Horizon(), access=site.shade_table.access)
    return calculated_around(site)


def calculated_around(site: Site) -> Surroundings | None:
    """Horizon and obstacles, where there are any, whatever is known of their shade by hand."""
    around = surroundings_of(site.horizon_line, site.obstacle_shapes, site.near_limit, site.array_across)
    return None if around.horizon.is_flat and not around.veils else around


def is_shade_measured(site: Site, surface: Surface) -> bool:
    """Whether the shade of a surface is known otherwise than by what stands around."""
    return site.shade_factor is not None or site.shade_table is not None or surface.shade_table is not None


def near_shades(design: Design, plant: Plant, sky: Kept[SunAndWeather], cache: StageCache) -> list[Kept[NearShade] | None]:
    """The shade of the scene on each sub-array; None where its surface is no face of it.

    Shade that was measured on site stands in place of the scene's bodies; only rows of racks still shade one another.

    Raises
    ------
    IncompleteDesign
        If a surface lies on a face that the scene does not have.
    """
    found: list[Kept[NearShade] | None] = [None] * len(plant.subarrays)
    laid = {plant.surface_ids[s]: module for s, module in zip(plant.surface_of, plant.modules, strict=True)}
    resting = {key: module for key in design.surfaces if key not in laid and (module := module_on(design, key, Catalogue())[1])}
    plans = plans_with(design, laid | resting)
    for s, (key, surface) in enumerate(zip(plant.surface_ids, plant.surfaces, strict=True)):
        if surface.face is None or surface.tracking is not None:  # those that turn shade one another as rows
            continue
        members = [k for k in range(len(plant.subarrays)) if plant.surface_of[k] == s]
        targets = targets_on(design, key, plans)
        is_measured = is_shade_measured(design.site, surface)
        horizon, bodies = (Horizon(), ()) if is_measured else (design.site.horizon_line, design.built_scene.bodies)
        near = cache.keep(NearInputs(sky, targets, bodies, horizon), cast_shadows)
        banks = banks_on(plant, members, targets)
        for k in members:
            # Behind optimisers each string is a bank of its modules, else each tracker one of its strings.
            subarray = plant.subarrays[k]
            weight = subarray.modules_per_string if plant.optimisers[k] is not None else subarray.strings
            found[k] = cache.keep(StringsInShadeInputs(near, targets, banks[k], weight), shade_strings, lasting=True)
    return found


def targets_on(design: Design, key: str, plans: Mapping[str, FaceModules]) -> GroupTargets:
    """The cell groups on a surface, or pieces of its face where no module lies yet.

    Raises
    ------
    IncompleteDesign
        If the scene does not have the face.
    """
    surface = design.surfaces[key]
    face = design.built_scene.face(surface.face or "")
    if face is None:
        raise IncompleteDesign(
            f"Surface '{surface.name or key}' lies on face {surface.face}, which the scene does not have. Choose another face on the Scene bench.",
            f"/surfaces/{key}/face",
        )
    racks = racks_beside(plans, key)
    plan = plans.get(key)
    return groups_of(plan, racks) if plan is not None and plan.ids else pieces_of(face, racks=racks)


def banks_on(plant: Plant, members: list[int], targets: GroupTargets) -> dict[int, tuple[tuple[tuple[int, ...], ...], ...]]:
    """The modules of the strings on the tracker of each inverter, of the sub-arrays on a surface: as drawn on the plan, else the next ones in reading order.

    The inverters of a set take their strings one after another. What the plan has no module for takes the mean of all: a string that has none
    is left out, a tracker without any has all strings that there are, and without any at all one string of every module. Behind
    optimisers each string is a bank, and each of its modules a string of its own.
    """
    place = {key: k for k, key in enumerate(targets.ids)}
    everything = (tuple(range(len(targets.ids))),)

    def many(k: int) -> int:
        """Strings in all; none where the targets are pieces of a face and no modules."""
        has_modules = targets.groups == plant.modules[k].bypass_diodes and targets.cells > 1
        return plant.subarrays[k].strings * int(plant.counts[plant.inverter_of[k]]) if has_modules else 0

    found: dict[int, tuple[tuple[tuple[int, ...], ...], ...]] = {}
    dealt = deal(targets.ids, [(plant.subarrays[k], many(k)) for k in members])
    for k, keys in zip(members, dealt, strict=True):
        strings = [tuple(place[key] for key in string if key in place) for string in keys]
        every = tuple(string for string in strings if string) or everything
        each, inverters = plant.subarrays[k].strings, int(plant.counts[plant.inverter_of[k]])
        of_inverter = [tuple(s for s in strings[i * each : (i + 1) * each] if s) or every for i in range(inverters)]
        if len(set(of_inverter)) == 1:
            of_inverter = of_inverter[:1]  # what holds for one holds for all
        if plant.optimisers[k] is None:
            found[k] = tuple(of_inverter)
        else:
            found[k] = tuple(tuple((m,) for m in own[i % len(own)]) for own in of_inverter for i in range(each))
    return found


def _planes(
    design: Design,
    plant: Plant,
    sky: Kept[SunAndWeather],
    calendar: Calendar,
    arounds: list[Surroundings | None],
    nears: list[Kept[NearShade] | None],
    cache: StageCache,
) -> tuple[list[Kept[Attitude]], list[Kept[PlaneIrradiance]]]:
    """Of each sub-array; those that share a surface and its shade share their results."""
    of_surfaces = [attitude_of(s, sky, calendar, cache) for s in plant.surfaces]
    attitudes = [of_surfaces[s] for s in plant.surface_of]
    rows = [
        PlaneInputs(
            sky,
            attitude,
            design.models.transposition,
            design.site.albedo_before(plant.surfaces[s].albedo),
            arounds[s],
            _row_field(plant.surfaces[s]),
            near,
        )
        for attitude, s, near in zip(attitudes, plant.surface_of, nears, strict=True)
    ]
    return attitudes, cache.keep_rows(rows, light_plane)


def motion_of(surface: Surface) -> Motion:
    """How a surface moves."""
    if (turns := surface.tracking) is not None:
        rows = surface.rows if turns.backtracking else None
        return SingleAxis(
            turns.axis_tilt,
            turns.axis_azimuth,
            turns.maximum,
            rows.width / rows.pitch if rows else None,
            turns.slope,
            turns.stow_wind,
            turns.stow_angle,
        )
    if (faces := surface.two_axis_tracking) is not None:
        return TwoAxis(faces.maximum_tilt, faces.stow_wind)
    if (seasonal := surface.seasonal_tilt) is not None:
        return Seasonal(surface.azimuth, tuple(sorted((c.month, c.day, c.tilt) for c in seasonal.changes.values())))
    return Fixed(surface.tilt, surface.azimuth)


def attitude_of(surface: Surface, sky: Kept[SunAndWeather], calendar: Calendar, cache: StageCache) -> Kept[Attitude]:
    """How a surface stands in each interval."""
    motion = motion_of(surface)
    return cache.keep(AttitudeInputs(sky, motion, calendar if isinstance(motion, Seasonal) else None), turn_plane)


def _row_field(surface: Surface) -> RowField | None:
    rows, turns = surface.rows, surface.tracking
    if rows is None:
        return None
    axis = (turns.axis_tilt, turns.axis_azimuth, turns.slope) if turns else (0.0, surface.azimuth - 90, 0.0)
    return RowField(rows.width, rows.pitch, rows.count, rows.cell_groups, *axis)


def _effective(
    design: Design,
    plant: Plant,
    sky: Kept[SunAndWeather],
    arounds: list[Surroundings | None],
    attitudes: list[Kept[Attitude]],
    planes: list[Kept[PlaneIrradiance]],
    cache: StageCache,
) -> list[Kept[EffectiveIrradiance]]:
    soiling: ByMonth = design.losses.soiling_by_month or design.losses.soiling
    rows = []
    for k, (module, s) in enumerate(zip(plant.modules, plant.surface_of.tolist(), strict=True)):
        field = _row_field(plant.surfaces[s])
        cover = cover_of(module, design.models.incidence)
        rows.append(
            EffectiveInputs(
                sky, attitudes[k], planes[k], arounds[s], field, field is not None and module.half_cut, cover, soiling
            )
        )
    return cache.keep_rows(rows, pass_cover)


def _modules(
    design: Design,
    plant: Plant,
    sky: Kept[SunAndWeather],
    planes: list[Kept[PlaneIrradiance]],
    effective: list[Kept[EffectiveIrradiance]],
    cache: StageCache,
) -> list[Kept[ModulePower]]:
    models = design.models
    rows = [
        ModuleInputs(sky, plane, light, module, plant.surfaces[s].mounting, models.temperature, models.wind_factor)
        for s, plane, light, module in zip(plant.surface_of.tolist(), planes, effective, plant.modules, strict=True)
    ]
    return cache.keep_rows(rows, operate_module)


def _connection(
    design: Design, plant: Plant, cables: SizedCables, sky: Kept[SunAndWeather], balances: list[Kept[Balance]]
) -> ConnectionInputs:
    connection, transformer = design.connection, plant.transformer
    return ConnectionInputs(
        sky=sky,
        balances=tuple(balances),
        counts=tuple(plant.counts.tolist()),
        on_phase=cables.phases.on_phase,
        # Of a battery bus there is no AC before the inverter.
        cable=None if plant.is_on_bus else cables.of_main,
        stations=connection.stations,
        # Transformers alike that share a load lose together what one as large as all of them does.
        iron_loss=transformer.iron_loss * connection.stations if transformer else 0.0,
        copper_loss=transformer.copper_loss * connection.stations if transformer else 0.0,
        rated_power=transformer.rated_power * connection.stations if transformer else 0.0,
        collector=cables.collector.loss if cables.collector is not None else None,
        power_factor=connection.power_factor,
        auxiliaries=connection.auxiliaries,
        export_limit=None if connection.export_limit is None else connection.export_limit * 1000,
    )


def _trackers(
    design: Design,
    plant: Plant,
    cables: SizedCables,
    sky: Kept[SunAndWeather],
    effective: list[Kept[EffectiveIrradiance]],
    powers: list[Kept[ModulePower]],
    nears: list[Kept[NearShade] | None],
    cache: StageCache,
) -> tuple[list[Kept[TrackerPower]], list[int]]:
    """The tracker of each sub-array, and the sub-array's place on it."""
    rows = [
        _tracker(design.losses, plant, i, n, tuple(_member(plant, k, cables, effective, powers, nears[k]) for k in members), sky)
        for (i, n), members in plant.on_trackers.items()
    ]
    kept = cache.keep_rows(rows, run_tracker)
    tracker_of: dict[int, tuple[Kept[TrackerPower], int]] = {}
    for tracker, members in zip(kept, plant.on_trackers.values(), strict=True):
        for place, k in enumerate(members):
            tracker_of[k] = tracker, place
    return [tracker_of[k][0] for k in range(len(plant.subarrays))], [tracker_of[k][1] for k in range(len(plant.subarrays))]


def _member(
    plant: Plant,
    k: int,
    cables: SizedCables,
    effective: list[Kept[EffectiveIrradiance]],
    powers: list[Kept[ModulePower]],
    near: Kept[NearShade] | None,
) -> MemberInputs:
    subarray, module = plant.subarrays[k], plant.modules[k]
    field = _row_field(plant.surfaces[plant.surface_of[k]])
    behind = field.shaded_rows if field else 0.0
    return MemberInputs(
        powers[k],
        effective[k],
        behind,
        module,
        subarray.modules_per_string,
        subarray.strings,
        cables.of_strings(k),
        plant.optimisers[k],
        near,
    )


def _tracker(
    losses: Losses, plant: Plant, i: int, tracker: int, members: tuple[MemberInputs, ...], sky: Kept[SunAndWeather]
) -> TrackerInputs:
    unit = plant.inverters[i]
    return TrackerInputs(
        sky=sky,
        members=members,
        mppt_minimum=unit.mppt_minimum,
        mppt_maximum=unit.mppt_maximum,
        start=unit.start_voltage,
        current=unit.tracker_input(tracker).current,
        string_voltage=string_voltage(unit),
        quality=losses.quality,
        light_induced=losses.light_induced,
        degradation=losses.degraded,
        degradation_of_current=losses.degradation_of_current / 100,
        mismatch=losses.mismatch,
    )
