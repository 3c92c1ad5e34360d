"""What can be done to the tariff of a design: take another one, paint hours of its week with a price, divide its year."""

from collections.abc import Iterable
from typing import Any, Literal

from pydantic import Field

from noontide.core.calendar import MONTHS
from noontide.core.civil_time import DAY_KINDS
from noontide.core.design import Design, difference
from noontide.core.design.naming import fresh
from noontide.core.fields import Document, Id
from noontide.core.hours import DAY, clock, read_hours
from noontide.core.money.price_table import PerUnit, read_price_table
from noontide.core.money.tariff import DayKind, EnergyPrice, Tariff, Tier
from noontide.core.verbs.shared import MOST_TEXT, ImpossibleAct

Which = Literal["tariff", "tariff_before"]
Side = Literal["energy", "export"]
STANDARD = "standard"
FIRST_TIER = 200.0  # kWh a month, where a single price is divided
# A term that is added begins with a value that anybody sees is to be set.
NEW_TERMS: dict[str, tuple[str, dict[str, Any]]] = {
    "demand": ("demand charge", {"price": 8.0}),
    "fixed": ("standing charge", {"amount": 10.0}),
    "taxes": ("tax", {"share": 10.0}),
    "export": ("price of exported energy", {"price": 0.08}),
}


class TakeTariff(Document):
    tariff: Tariff | None
    which: Which = "tariff"


class PaintWeek(Document):
    which: Which = "tariff"
    side: Side = "energy"
    season: Id
    days: tuple[DayKind, ...] = Field(min_length=1, max_length=4)
    start: int = Field(ge=0, lt=DAY)  # minute of the day
    end: int = Field(gt=0, le=DAY)
    period: Id


class DivideYear(Document):
    which: Which = "tariff"
    side: Side = "energy"
    months: tuple[int, ...] = Field(min_length=1, max_length=11)
    name: str = Field("", max_length=60)


class TakePrices(Document):
    which: Which = "tariff"
    side: Side = "energy"
    text: str = Field(max_length=MOST_TEXT)
    per: PerUnit = "kWh"


class SetTiers(Document):
    which: Which = "tariff"
    tiers: tuple[Tier, ...] = Field((), max_length=12)
    divide_last: bool = False  # one tier more, at the price of the last


class AddTerm(Document):
    which: Which = "tariff"
    term: Literal["demand", "fixed", "taxes", "export"]


def take_tariff(design: Design, given: TakeTariff) -> tuple[dict[str, Any], str]:
    """Another tariff in place of the present one, whole, with its currency where no other tariff has one."""
    money = design.as_kept().get("money", {})
    after = {key: value for key, value in money.items() if key != given.which}
    if given.tariff is None:
        if given.which == "tariff":
            after.pop("tariff_before", None)
        return {"money": difference(money, after) or {given.which: None}}, "The tariff is removed."
    after[given.which] = given.tariff.model_dump(mode="json", exclude_unset=True)
    other = "tariff_before" if given.which == "tariff" else "tariff"
    if other not in after and given.tariff.currency != design.money.currency:
        after["currency"] = given.tariff.currency
    return {"money": difference(money, after)}, f"{given.tariff.name}."


def paint_week(design: Design, given: PaintWeek) -> tuple[dict[str, Any], str]:
    """Hours of some kinds of day in a season get the price of a period; every hour keeps one price.

    Raises
    ------
    ImpossibleAct
        If there is no such tariff, season or period, or the hours end before they begin.
    """
    if given.end <= given.start:
        raise ImpossibleAct(f"The hours must end after they begin; they are {clock(given.start)} to {clock(given.end)}.")
    _, price = _priced(design, given.which, given.side)
    seasons, periods = _with_seasons(price)
    if given.season not in seasons:
        raise ImpossibleAct(f"The tariff has no season '{given.season}'; it has {', '.join(seasons)}.")
    if given.period not in periods:
        raise ImpossibleAct(f"The tariff has no period '{given.period}'; it has {', '.join(periods)}.")
    season = seasons[given.season]
    # Every kind of day on its own, so that what follows a painted one stays as it was.
    season |= {kind: _hours_on(season, kind) for kind in DAY_KINDS}
    for kind in given.days:
        season[kind] = _painted(_hours_on(season, kind), given.start, given.end, given.period)
    _shorten(season)
    after = {"periods": periods, "seasons": seasons}
    words = f"{clock(given.start)} to {clock(given.end)}: {periods[given.period].get('name') or given.period}."
    return _patch(design, given.which, given.side, after), words


def divide_year(design: Design, given: DivideYear) -> tuple[dict[str, Any], str]:
    """Some months become a season of their own, with the hours of the season that most of them were in.

    Raises
    ------
    ImpossibleAct
        If a month does not exist, or the months are all that a season has and no new one comes of it.
    """
    if not all(1 <= month <= 12 for month in given.months):
        raise ImpossibleAct("Months go from 1 to 12.")
    _, price = _priced(design, given.which, given.side)
    seasons, periods = _with_seasons(price)
    asked = set(given.months)
    source = max(seasons, key=lambda key: len(asked & set(_months(seasons[key]))))
    if asked == set(_months(seasons[source])):
        raise ImpossibleAct("These months are a season already.")
    left: dict[str, Any] = {}
    for key, season in seasons.items():
        if rest := [month for month in _months(season) if month not in asked]:
            left[key] = season | {"months": rest}
    new = fresh("season", [*seasons])
    name = given.name or _span(sorted(asked))
    left[new] = seasons[source] | {"months": sorted(asked), "name": name}
    return _patch(design, given.which, given.side, {"periods": periods, "seasons": left}), f"{name} is a season of its own."


def take_prices(design: Design, given: TakePrices) -> tuple[dict[str, Any], str]:
    """Prices by hour from pasted cells, in place of what energy cost or earned.

    Raises
    ------
    ImpossibleAct
        If there is no tariff, or the cells are no table of prices.
    """
    _tariff_of(design, given.which)
    try:
        prices = read_price_table(given.text, given.per)
    except ValueError as error:
        raise ImpossibleAct(str(error)) from None
    span = f"{min(prices):,.4g} to {max(prices):,.4g} {design.money.currency} a kWh"
    if len(prices) > 288:
        span += ", on the clock of the weather year, without daylight saving time"
    return _patch(design, given.which, given.side, {"table": list(prices)}), f"{len(prices):,} prices by hour, {span}."


def set_tiers(design: Design, given: SetTiers) -> tuple[dict[str, Any], str]:
    """Prices that rise with the energy of the month; without tiers the one price is divided in two, alike until one is changed.

    Raises
    ------
    ImpossibleAct
        If there is no tariff, or no tiers are given and there is not one price to divide.
    """
    energy = _tariff_of(design, given.which).energy
    tiers = [tier.model_dump(mode="json", exclude_unset=True) for tier in given.tiers]
    if not tiers:
        if energy.price is None:
            raise ImpossibleAct("Only a tariff of one price is divided into tiers. Choose one, or give the tiers.")
        tiers = [{"up_to": FIRST_TIER, "price": energy.price}, {"price": energy.price}]
    elif given.divide_last:
        last = given.tiers[-1].price
        end = FIRST_TIER if len(tiers) == 1 else 2 * (given.tiers[-2].up_to or FIRST_TIER)
        tiers[-1:] = [{"up_to": end, "price": last}, {"price": last}]
    words = "one price" if len(tiers) == 1 else f"{len(tiers)} tiers"
    return _patch(design, given.which, "energy", {"tiers": tiers}), f"Energy from the grid has {words}."


def add_term(design: Design, given: AddTerm) -> tuple[dict[str, Any], str]:
    """A demand charge, standing charge, tax or price of exported energy more.

    Raises
    ------
    ImpossibleAct
        If there is no tariff, or exported energy is accounted for already.
    """
    tariff = _tariff_of(design, given.which)
    title, value = NEW_TERMS[given.term]
    words = f"A {title} of {next(iter(value.values())):g} is added."
    if given.term == "export":
        if tariff.export is not None or tariff.net_metering is not None:
            raise ImpossibleAct("Exported energy has its price already, or is metered net.")
        return _patch(design, given.which, "export", value), words
    taken = getattr(tariff, given.term)
    key = fresh(title.replace(" ", "-"), taken)
    return {"money": {given.which: {given.term: {key: value}}}}, words


def _tariff_of(design: Design, which: Which) -> Tariff:
    tariff: Tariff | None = getattr(design.money, which)
    if tariff is None:
        raise ImpossibleAct("The design has no tariff yet. Choose one first.")
    return tariff


def _priced(design: Design, which: Which, side: Side) -> tuple[Tariff, EnergyPrice]:
    tariff = _tariff_of(design, which)
    price: EnergyPrice | None = getattr(tariff, side)
    if price is None:
        raise ImpossibleAct("The tariff pays nothing for exported energy. Give it a price first.")
    if price.tiers or price.table:
        raise ImpossibleAct("Prices by tier or by table have no week to paint. Choose a tariff of periods.")
    return tariff, price


def _with_seasons(price: EnergyPrice) -> tuple[dict[str, Any], dict[str, Any]]:
    """Seasons and periods as plain values; one price for all hours becomes a period."""
    kept = price.model_dump(mode="json", exclude_unset=True)
    if price.price is not None:
        return {"year": {"name": "all year", "weekday": {STANDARD: "0-24"}}}, {
            STANDARD: {"name": "standard", "price": price.price}
        }
    return kept["seasons"], kept["periods"]


def _months(season: dict[str, Any]) -> list[int]:
    return list(season.get("months") or range(1, 13))


def _hours_on(season: dict[str, Any], kind: DayKind) -> dict[str, str]:
    before = {"weekday": ("weekday",), "saturday": ("saturday", "weekday"), "sunday": ("sunday", "saturday", "weekday"),
              "holiday": ("holiday", "sunday", "saturday", "weekday")}[kind]  # fmt: skip
    return dict(next(season[name] for name in before if season.get(name)))


def _painted(hours: dict[str, str], start: int, end: int, period: str) -> dict[str, str]:
    """The hours of a day with a part of them given to a period."""
    minutes = [""] * DAY
    for key, text in hours.items():
        for a, b in read_hours(text):
            minutes[a:b] = [key] * (b - a)
    minutes[start:end] = [period] * (end - start)
    found: dict[str, list[str]] = {}
    at = 0
    while at < DAY:
        stop = next((m for m in range(at, DAY) if minutes[m] != minutes[at]), DAY)
        found.setdefault(minutes[at], []).append(f"{_short(at)}-{_short(stop)}")
        at = stop
    return {key: " ".join(parts) for key, parts in found.items()}


def _short(minute: int) -> str:
    return f"{minute // 60}" if minute % 60 == 0 else f"{minute // 60}:{minute % 60:02d}"


def _shorten(season: dict[str, Any]) -> None:
    """Leave out the kinds of day that are as the kind before them."""
    for kind, before in (("holiday", "sunday"), ("sunday", "saturday"), ("saturday", "weekday")):
        if season.get(kind) and season[kind] == _hours_on(season, before):  # type: ignore[arg-type]
            del season[kind]


def _patch(design: Design, which: Which, side: Side, after: dict[str, Any]) -> dict[str, Any]:
    money = design.as_kept()["money"]
    changed = money | {which: money[which] | {side: after}}
    return {"money": difference(money, changed)}


def _span(months: Iterable[int]) -> str:
    some = list(months)
    if some == list(range(some[0], some[-1] + 1)) and len(some) > 1:
        return f"{MONTHS[some[0] - 1]} to {MONTHS[some[-1] - 1]}"
    return ", ".join(MONTHS[month - 1][:3] for month in some)
