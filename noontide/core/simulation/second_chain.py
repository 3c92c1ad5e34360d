"""The second chain, from the plant at the meter on: demand, storage, bills; each step kept by what it reads."""

from collections.abc import Mapping
from dataclasses import replace

from noontide.core.demand.series import DemandError, UseSeries
from noontide.core.design import Design
from noontide.core.electrical.datasheets import Battery
from noontide.core.simulation.after_meter import (
    LITTLE,
    AfterMeter,
    BillInputs,
    DemandInputs,
    MeterInputs,
    PlacingInputs,
    bill_year,
    find_demand,
    meter,
    place_demand,
)
from noontide.core.simulation.cache import Kept, StageCache
from noontide.core.simulation.connection import ConnectionInputs, ConnectionYear, connect
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
    datasheet: Battery | None,
) -> tuple[Kept[ConnectionYear], AfterMeter]:
    """Demand, storage and bills; and the plant at the meter, where an export limit leaves what is used or stored behind it alone."""
    calendar, zone, money = weather.calendar, design.site.time_zone, design.money
    used = None
    storage = _storage(design, datasheet)
    connected = cache.keep(connection, connect, lasting=True)
    unlimited = cache.keep(replace(connection, export_limit=None), connect, lasting=True)
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
    if connection.export_limit is not None and (used is not None or storage is not None):
        stored = None
        if storage is not None:
            stored = cache.keep(MeterInputs(sky, unlimited, used, calendar, 1.0, storage), meter, lasting=True)
        connected = cache.keep(replace(connection, demand=used, stored=stored), connect, lasting=True)
    metered = cache.keep(MeterInputs(sky, connected, used, calendar, 1.0, storage), meter, lasting=True)
    bills = worn = None
    # Where there is no grid nothing is bought from it, and nothing sold.
    if money.tariff is not None and (storage is None or not storage.is_off_grid):
        aged = max(1 - design.losses.degradation / 100 * (money.years - 1), 0.0)
        last, less = (
            cache.keep(MeterInputs(sky, connected, used, calendar, left, storage), meter) for left in (aged, 1 - LITTLE)
        )
        without = money.tariff_before or money.tariff
        bills = (
            cache.keep(BillInputs(metered, without, calendar, zone, without_plant=True), bill_year, lasting=True),
            cache.keep(BillInputs(metered, money.tariff, calendar, zone), bill_year, lasting=True),
            cache.keep(BillInputs(last, money.tariff, calendar, zone), bill_year, lasting=True),
            cache.keep(BillInputs(less, money.tariff, calendar, zone), bill_year),
        )
        if storage is not None and storage.storage.bank is not None:
            used_up = MeterInputs(sky, connected, used, calendar, 1.0, storage, storage.storage.bank.worn / 100)
            worn = cache.keep(BillInputs(cache.keep(used_up, meter), money.tariff, calendar, zone), bill_year, lasting=True)
    after = AfterMeter(
        calendar, zone, used is not None, used, metered, bills, money.carbon, money.carbon_by_hour, unlimited, storage, worn
    )
    return connected, after


def _storage(design: Design, datasheet: Battery | None) -> StorageSetting | None:
    """The battery with what its strategy reads; no more, so that a price which it does not follow changes nothing in it."""
    storage = design.storage
    if storage.bank is None:
        return None
    tariff = design.money.tariff if storage.serves == "dear hours" else None
    prices, holidays = (None, ()) if tariff is None else (tariff.energy, tariff.holidays)
    return StorageSetting(storage, datasheet, prices, holidays, design.site.time_zone, design.connection.export_limit)
