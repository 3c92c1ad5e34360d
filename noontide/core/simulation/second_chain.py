"""The second chain, from the plant at the meter on: demand, storage, bills; each step kept by what it reads."""

from collections.abc import Mapping
from dataclasses import replace

from noontide.core.demand.series import DemandError, UseSeries
from noontide.core.design import Design
from noontide.core.simulation.after_meter import (
    LITTLE,
    AfterMeter,
    BillInputs,
    BillWithoutPlantInputs,
    DemandInputs,
    EfficiencyInputs,
    MeterInputs,
    PlacingInputs,
    bill_without_plant,
    bill_year,
    find_demand,
    find_efficiency,
    meter,
    meter_together,
    place_demand,
)
from noontide.core.simulation.cache import Kept, StageCache
from noontide.core.simulation.connection import ConnectionInputs, ConnectionYear, connect
from noontide.core.simulation.dc_side import DcSideInputs, Hybrid, find_dc_side
from noontide.core.simulation.plant import Plant
from noontide.core.simulation.storage_year import StorageSetting
from noontide.core.simulation.sun_and_weather import SunAndWeather
from noontide.core.weather.year import Weather


def after_meter(
    design: Design,
    weather: Weather,
    sky: Kept[SunAndWeather],
    connection: ConnectionInputs,
    cache: StageCache,
    series: Mapping[str, UseSeries],
    plant: Plant,
    hybrid: Hybrid | None = None,
) -> tuple[Kept[ConnectionYear], AfterMeter]:
    """Demand, storage and bills; and the plant at the meter, where an export limit leaves what is used or stored behind it alone."""
    calendar, zone, money = weather.calendar, design.site.time_zone, design.money
    used = None
    storage = _storage(design, plant)
    connected = cache.keep(connection, connect, lasting=True)
    unlimited = cache.keep(replace(connection, export_limit=None), connect, lasting=True)
    side = None
    if storage is not None and hybrid is not None:
        at = DcSideInputs(sky, hybrid, unlimited, connection.power_factor, calendar)
        side = cache.keep(at, find_dc_side, lasting=True)
    if any(source.is_on for source in design.demand.sources.values()):
        named = [s.interval.digest for s in design.demand.sources.values() if s.is_on and s.interval is not None]
        own = tuple(series[digest] for digest in named if digest in series)
        found = cache.keep(DemandInputs(design.demand, weather, zone, own), find_demand, lasting=True)
        try:
            found.value  # noqa: B018
            used = found
        except DemandError as error:
            # The year of the plant stands without it: a check says what is missing.
            return connected, AfterMeter(
                calendar, zone, False, None, cache.keep(MeterInputs(sky, connected, None, calendar), meter, lasting=True),
                None, money.carbon, money.carbon_by_hour, unlimited, problem=error,
            )  # fmt: skip
        if any(source.can_wait for source in design.demand.sources.values()):
            placing = PlacingInputs(used, sky, unlimited, money.tariff, calendar, zone)
            used = cache.keep(placing, place_demand, lasting=True)
    if storage is not None and storage.has_efficiency_by_power:
        at_datasheet = EfficiencyInputs(MeterInputs(sky, unlimited, used, calendar, 1.0, storage, side=side))
        storage = storage.of_efficiency(cache.keep(at_datasheet, find_efficiency, lasting=True).value.round_trip)
    if connection.export_limit is not None and (used is not None or storage is not None):
        stored = None
        if storage is not None:
            stored = cache.keep(MeterInputs(sky, unlimited, used, calendar, 1.0, storage, side=side), meter, lasting=True)
        connected = cache.keep(replace(connection, demand=used, stored=stored), connect, lasting=True)
    now = MeterInputs(sky, connected, used, calendar, 1.0, storage, side=side)
    bills = worn = None
    # Where there is no grid nothing is bought from it, and nothing sold.
    if money.tariff is not None and (storage is None or not storage.is_off_grid):
        aged = max(1 - design.losses.degradation / 100 * (money.years - 1), 0.0)
        states = [now, replace(now, left=aged)]
        if storage is not None and storage.storage.bank is not None:
            states.append(replace(now, capacity=storage.storage.bank.worn / 100))
        metered, last, *at_its_end = cache.keep_together(states, meter_together, lasting=True)
        less = cache.keep(replace(now, left=1 - LITTLE), meter)
        without = money.tariff_before or money.tariff
        if without.net_metering is None:
            # Nothing is exported then, whatever it would earn.
            without = without.model_copy(update={"export": None})
        bills = (
            cache.keep(BillWithoutPlantInputs(used, without, calendar, zone), bill_without_plant, lasting=True),
            cache.keep(BillInputs(metered, money.tariff, calendar, zone), bill_year, lasting=True),
            cache.keep(BillInputs(last, money.tariff, calendar, zone), bill_year, lasting=True),
            cache.keep(BillInputs(less, money.tariff, calendar, zone), bill_year),
        )
        if at_its_end:
            worn = cache.keep(BillInputs(at_its_end[0], money.tariff, calendar, zone), bill_year, lasting=True)
    else:
        metered = cache.keep(now, meter, lasting=True)
    after = AfterMeter(
        calendar, zone, used is not None, used, metered, bills, money.carbon, money.carbon_by_hour, unlimited, storage, side, worn
    )
    return connected, after


def _storage(design: Design, plant: Plant) -> StorageSetting | None:
    """The battery with what its strategy reads; no more, so that a price which it does not follow changes nothing in it."""
    storage = design.storage
    if storage.bank is None:
        return None
    tariff = design.money.tariff if storage.serves == "dear hours" else None
    prices, holidays = (None, ()) if tariff is None else (tariff.energy, tariff.holidays)
    return StorageSetting(
        storage, plant.battery, prices, holidays, design.site.time_zone, design.connection.export_limit, plant.is_on_bus, plant.bus_inverter
    )  # fmt: skip
