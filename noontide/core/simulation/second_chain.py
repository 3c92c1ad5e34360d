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
    bill_together,
    bill_without_plant,
    find_demand,
    find_efficiency,
    meter,
    meter_together,
    place_demand,
)
from noontide.core.simulation.cache import Company, Kept, StageCache
from noontide.core.simulation.connection import ConnectionYear, connect
from noontide.core.simulation.dc_side import DcSideInputs, Hybrid, find_dc_side
from noontide.core.simulation.plant import Plant
from noontide.core.simulation.results import FirstChain
from noontide.core.simulation.storage_year import StorageSetting


def after_meter(
    design: Design,
    first: FirstChain,
    cache: StageCache,
    series: Mapping[str, UseSeries],
    plant: Plant,
    hybrid: Hybrid | None = None,
    company: Company | None = None,
) -> tuple[Kept[ConnectionYear], AfterMeter]:
    """Demand, storage and bills; and the plant at the meter, where an export limit leaves what is used or stored behind it alone."""
    weather, sky, connection = first.weather, first.sky, first.connection
    calendar, zone, money = weather.calendar, design.site.time_zone, design.money
    used = None
    storage = _storage(design, plant)
    connected, unlimited = first.connected, first.unlimited
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
        later = [replace(now, left=aged)]
        if storage is not None and storage.storage.bank is not None:
            later.append(replace(now, capacity=storage.storage.bank.worn / 100))
        # Of a design by itself all are asked for; of many the later years only where somebody asks for money.
        if company is None:
            metered, last, *at_its_end = cache.keep_together([now, *later], meter_together, lasting=True)
        else:
            (metered,) = cache.keep_together([now], meter_together, lasting=True, beside=company["first years"])
            last, *at_its_end = cache.keep_together(later, meter_together, lasting=True, beside=company["later years"])
        less = cache.keep(replace(now, left=1 - LITTLE), meter)
        without = (money.tariff_before or money.tariff).of_use_alone
        paid = [BillInputs(year, money.tariff, calendar, zone) for year in (metered, last, *at_its_end)]
        now_paid, last_paid, *worn_paid = cache.keep_together(
            paid, bill_together, True, None if company is None else company["bills"]
        )
        (less_paid,) = cache.keep_together([BillInputs(less, money.tariff, calendar, zone)], bill_together)
        bills = (
            cache.keep(BillWithoutPlantInputs(used, without, calendar, zone), bill_without_plant, lasting=True),
            now_paid,
            last_paid,
            less_paid,
        )
        worn = worn_paid[0] if worn_paid else None
    else:
        (metered,) = cache.keep_together([now], meter_together, True, None if company is None else company["first years"])
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
