"""The pages of a report: what each shows, and when there is something to show."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from noontide.core.access.solar_access import accesses_of
from noontide.core.brief.inputs import inputs_of, statement_of
from noontide.core.brief.prose import prose_of
from noontide.core.brief.runs import fixed, orientation_words
from noontide.core.calendar import MONTHS
from noontide.core.checks import find_checks
from noontide.core.checks.protection import protection_of
from noontide.core.costs.bill import bill_of
from noontide.core.costs.economics import cash_year_by_year
from noontide.core.design.kept_view import KeptView
from noontide.core.drawing.sheet import COLOURS, Picture, Text
from noontide.core.drawings.cable_schedule import HEADS, schedule_of
from noontide.core.drawings.off_grid_sheet import off_grid_sheet
from noontide.core.drawings.one_line import one_line
from noontide.core.drawings.string_sheet import string_sheet
from noontide.core.figures.catalogue import FIGURES
from noontide.core.figures.figure import Figure
from noontide.core.figures.meter_figures import DEMAND_FIGURES, OFF_GRID_FIGURES, STORAGE_FIGURES
from noontide.core.figures.money_figures import MONEY_FIGURES
from noontide.core.figures.months import table_of_months
from noontide.core.figures.workings import working
from noontide.core.plan.exports import plan_sheet
from noontide.core.plan.layouts import plans_of
from noontide.core.report.pictures import balance_bars, month_bars, running_line, sun_picture, year_band
from noontide.core.report.scene_views import (
    SEASONS,
    colours_of_access,
    colours_of_view,
    intervals_of,
    least_access,
    scale_of,
    scene_view,
    usual_eye,
    words_of,
)
from noontide.core.report.setting import MARGIN, SMALL, TOP, Column, Flow
from noontide.core.report.terms import TERMS
from noontide.core.report.trial_page import TrialsShown, trial_page
from noontide.core.simulation.cache import StageCache
from noontide.core.simulation.results import Results
from noontide.core.units import METRE

KEY_FIGURES = 20  # on the first page
LOGO_HIGH, LOGO_WIDE = 12.0, 60.0  # at most [mm]
# Of which a customer sees the first four that the design has.
MAIN_FIGURES = ("energy", "saving", "payback", "lost_load", "self_sufficiency", "specific_yield", "performance_ratio")
MOST_SCHEMES = 4  # beside one's own
FOLD_NAMES = 4  # that stand in one cell
FOLD_FROM = 60  # lines of a table of surfaces, from which only the first are listed


@dataclass(frozen=True)
class About:
    """Of what a report is: one stated revision of a scheme."""

    project: str
    customer: str = ""
    scheme: str = ""  # letter and name
    revision: str = ""  # such as "revision 12, 1 December 2026"
    digest: str = ""  # of the design
    address: str = ""  # that opens it
    sender: str = ""  # whose report it is
    contact: str = ""
    closing: str = ""  # words under the figures of the first page
    accent: str = COLOURS["accent"]  # of the headings
    logo: bytes = b""  # PNG
    logo_shape: float = 1.0  # width over height

    @property
    def footnote(self) -> str:
        return ", ".join(part for part in (self.scheme, self.revision) if part)


@dataclass(frozen=True)
class Other:
    """Another scheme of the project, with its figures by key."""

    title: str
    figures: Mapping[str, float | None]
    differs: tuple[tuple[str, str, str], ...] = ()  # in what, how it is here, how there; see `differences`


@dataclass(frozen=True)
class Record:
    """The scheme over the years of a record: `runs` are year, energy [kWh], specific yield [kWh/kW] and performance ratio."""

    runs: tuple[tuple[int, float, float, float], ...]
    mean: float  # [kWh]
    spread: float  # between the years, as a share of the mean
    p50: float  # [kWh]
    p90: float


@dataclass(frozen=True)
class Subject:
    """What a page is set from."""

    r: Results
    about: About
    stages: StageCache
    others: tuple[Other, ...] = ()
    record: Record | None = None
    trials: tuple[TrialsShown, ...] = ()


@dataclass(frozen=True)
class Page:
    """A page that a report can have."""

    key: str
    title: str
    says: str  # what it shows, for those who choose
    fill: Callable[[Flow, Subject], None]
    is_there: Callable[[Subject], bool] = lambda _: True
    without: str = ""  # why it is not there


def value_of(figure: Figure, r: Results) -> str:
    """A figure as the Headline writes it, with its unit."""
    return _written(figure, figure.value(r), figure.unit_of(r))


def _written(figure: Figure, value: float | None, unit: str) -> str:
    if value is None:
        return figure.without or "none"
    if figure.is_percentage:
        return f"{fixed(100 * value, figure.decimals)} %".replace("-", "−")
    return f"{fixed(value, figure.decimals)} {unit}".strip().replace("-", "−")


def headline(r: Results) -> list[Figure]:
    return [figure for figure in FIGURES if figure.in_headline and figure.is_there(r)]


def _head(flow: Flow, s: Subject, key: str) -> None:
    """The head of a first page: whose report it is, and of what."""
    flow.begin(key, s.about.project or "Design")
    right = MARGIN + flow.width
    if s.about.logo:
        high = min(LOGO_HIGH, LOGO_WIDE / s.about.logo_shape)
        flow.sheet.marks.append(Picture(MARGIN, TOP - 6 - high, high * s.about.logo_shape, high, s.about.logo))
    for k, text in enumerate(t for t in (s.about.sender, s.about.contact) if t):
        flow.sheet.text(
            right, 12 + k * 4.2, text, 3.0, "end", is_bold=k == 0 and bool(s.about.sender), tone="soft", most=flow.width
        )
    place = s.r.design.site
    where = f"{abs(place.latitude):.2f}° {'N' if place.latitude >= 0 else 'S'}, {abs(place.longitude):.2f}° {'E' if place.longitude >= 0 else 'W'}"
    customer = "" if s.about.customer == s.about.project else s.about.customer
    for line in (customer, ", ".join(p for p in (place.name, where) if p), s.about.footnote):
        if line:
            flow.prose(line, tone="soft", after=0.6)
    flow.y += 5


def _cover(flow: Flow, s: Subject) -> None:
    _head(flow, s, "cover")
    flow.picture(
        46,
        lambda *at: year_band(s.r, *at),
        "The year as a band: a column a day, midnight below; the power at the meter from dark to light.",
    )
    figures = headline(s.r)[:KEY_FIGURES]
    flow.table([Column("", 0.62, "start"), Column("", 0.38)], [[f.title, value_of(f, s.r)] for f in figures], size=3.2)
    if s.about.closing:
        flow.y += 2
        flow.prose(s.about.closing)


def _built(flow: Flow, s: Subject) -> None:
    """What a customer reads first: the year, four figures, and the design in words."""
    _head(flow, s, "built")
    flow.picture(
        38,
        lambda *at: year_band(s.r, *at),
        "The year as a band: a column a day, midnight below; the power at the meter from dark to light.",
    )
    main = [figure for figure in headline(s.r) if figure.key in MAIN_FIGURES][:4]
    wide = flow.width / max(len(main), 1)
    for k, figure in enumerate(main):
        flow.sheet.text(MARGIN + k * wide, flow.y + 3, flow.wording.say(figure.title), 2.6, tone="soft", most=wide - 3)
        flow.sheet.text(
            MARGIN + k * wide, flow.y + 9.5, flow.wording.say(value_of(figure, s.r)), 5.4, is_bold=True, most=wide - 3
        )
    flow.y += 15
    for paragraph in prose_of(s.r):
        flow.prose([(f"{paragraph.title}: ", True), *paragraph.runs], 2.9, after=1.4)
    if s.about.closing:
        flow.prose(s.about.closing, 2.9)


def _glossary(flow: Flow, s: Subject) -> None:
    flow.begin("glossary", "Terms")
    on_paper = " ".join(m.text for sheet in flow.sheets for m in sheet.marks if isinstance(m, Text)).lower()
    rows = [
        [term, meaning]
        for term, meaning in TERMS.items()
        if term.lower() in on_paper or flow.wording.say(term).lower() in on_paper
    ]
    flow.table([Column("Term", 0.26, "start"), Column("What it says", 0.74, "start")], sorted(rows) or [["", ""]])


def _brief(flow: Flow, s: Subject) -> None:
    flow.begin("brief", "The design in words")
    for paragraph in prose_of(s.r):
        flow.heading(paragraph.title, 8)
        flow.prose(list(paragraph.runs))


def _surfaces(flow: Flow, s: Subject) -> None:
    flow.begin("surfaces", "Surfaces")
    r, rows = s.r, []
    for key, surface in r.design.surfaces.items():
        mine = [k for k, one in enumerate(r.plant.surface_of) if r.plant.surface_ids[one] == key]
        if not mine:
            continue
        modules = sum(int(r.plant.module_counts[k]) for k in mine)
        power = sum(float(r.plant.module_counts[k] * r.plant.module_powers[k]) for k in mine) / 1000
        energy = r.energy_by_surface.get(key, 0.0)
        moves = surface.tracking is not None or surface.two_axis_tracking is not None
        stance = "turns" if moves else f"{surface.tilt:.1f}°"
        rows.append([surface.name or key, stance, orientation_words(round(surface.azimuth, 1)), surface.mounting, f"{modules:,}", f"{power:,.2f}", f"{energy:,.0f}", f"{energy / power:,.0f}" if power else ""])  # fmt: skip
    folded = len(rows) - FOLD_FROM
    if folded > 0:
        rows = [*rows[:FOLD_FROM], [f"and {folded} more", *[""] * 7]]
    flow.table(
        [Column("Surface", 0.26, "start"), Column("Tilt", 0.09), Column("Azimuth", 0.12), Column("Mounting", 0.17, "start"), Column("Modules", 0.09),
         Column("kW", 0.09), Column("kWh a year", 0.1), Column("kWh/kW", 0.08)], rows,
    )  # fmt: skip


def _sky(flow: Flow, s: Subject) -> None:
    flow.begin("sky", "Sun and horizon")
    site = s.r.design.site
    flow.picture(
        92, lambda *at: sun_picture(s.r, *at), "The sun's paths by azimuth and elevation; what is filled is the horizon."
    )
    taken = -s.r.cascade["horizon"].share if s.r.cascade["horizon"].before else 0.0
    flow.prose(
        [
            ("Horizon and obstacles take ", False),
            (f"{100 * max(taken, 0.0):.1f} %", True),
            (" of the light on the planes.", False),
        ]
    )
    if site.horizon:
        rows = [[f"{p.azimuth:.1f}", orientation_words(round(p.azimuth, 1)), f"{p.elevation:.1f}"] for p in site.horizon]
        if len(rows) > FOLD_FROM:
            step = -(-len(rows) // FOLD_FROM)
            rows = rows[::step]
            flow.prose(f"Every {step}th of its {len(site.horizon)} points:", SMALL, "soft", 1)
        flow.table([Column("Azimuth [°]", 0.3), Column("", 0.4), Column("Elevation [°]", 0.3)], rows)
    if site.obstacles:
        flow.heading("Obstacles")
        flow.table(
            [Column("Obstacle", 0.7, "start"), Column("Distance [m]", 0.3)],
            [
                [one.name or key, f"{one.distance:,.1f}" if one.distance is not None else ""]
                for key, one in site.obstacles.items()
            ],
        )


def _access(flow: Flow, s: Subject) -> None:
    flow.begin("access", "Solar access")
    found = accesses_of(s.r.design, s.r.library, s.r.joined, s.stages)
    flow.prose(
        "Irradiation with the shade of the scene and of the horizon over irradiation without, mean of the modules of each surface."
    )
    rows = []
    for one in found[:FOLD_FROM]:
        got = one.access.received.mean(axis=1)
        months = [f"{100 * a / b:.0f}" if b > 1e-9 else "" for a, b in zip(got, one.access.free, strict=True)]
        rows.append(
            [
                one.name,
                *months,
                f"{100 * one.mean:.1f}",
                f"{100 * one.orientation:.1f}",
                f"{100 * one.mean * one.orientation:.1f}",
            ]
        )
    if len(found) > FOLD_FROM:
        rows.append([f"and {len(found) - FOLD_FROM} more", *[""] * 15])
    flow.table(
        [Column("Surface", 0.22, "start"), *(Column(m[:3], 0.046) for m in MONTHS), Column("Year", 0.064), Column("Orientation", 0.09), Column("Product", 0.074)],
        rows, size=2.3,
    )  # fmt: skip
    flow.prose(
        "All in percent. Orientation: this plane without shade over the best fixed plane there; the product is the solar resource.",
        SMALL,
        "soft",
    )


def _views(flow: Flow, s: Subject) -> None:
    """The scene as its kept views show it; where none is kept, what its modules receive in the year and its darkest and brightest quarter."""
    flow.begin("views", "The building and its shade")
    if s.r.design.views:
        for view in s.r.design.views.values():
            _kept_view(flow, s, view)
        return
    design, library = s.r.design, s.r.library
    found = accesses_of(design, library, s.r.joined, s.stages)
    low = least_access(found)
    eye = usual_eye(design.site.latitude)
    for season, months in SEASONS.items():
        flow.need(78)
        flow.heading(season, 64)
        colours = colours_of_access(found, months, low)
        flow.picture(60, lambda *at, colours=colours: scene_view(design, library, colours, eye, *at))
    flow.need(14)
    scale_of(colours, flow.sheet, MARGIN, flow.y, 60)
    flow.y += 9
    flow.prose(
        "Irradiation of each module with all its shade over irradiation without, seen from the side of the equator.",
        SMALL,
        "soft",
    )


def _kept_view(flow: Flow, s: Subject, view: KeptView) -> None:
    """One view: the scene from where it is seen, the scale of its colours, and what they show."""
    design, library, calendar = s.r.design, s.r.library, s.r.weather.calendar
    span = None if view.span is None else intervals_of(view.span, calendar)
    found = accesses_of(design, library, s.r.joined, s.stages, span=span)
    colours = colours_of_view(found, view)
    flow.need(100)
    flow.heading(view.name or "View", 86)
    flow.picture(72, lambda *at: scene_view(design, library, colours, (view.azimuth, view.elevation), *at))
    if colours.ends:
        scale_of(colours, flow.sheet, MARGIN, flow.y, 60)
        flow.y += 9
    flow.prose(words_of(view, calendar), SMALL, "soft")


def _plan(flow: Flow, s: Subject) -> None:
    flow.put(
        "plan", "Plan", [plan_sheet(s.r.design, plans_of(s.r.design, s.r.library), "a4", flow.wording.units.get("m", METRE))]
    )


def _yield(flow: Flow, s: Subject) -> None:
    flow.begin("yield", "Energy by month")
    r, table = s.r, table_of_months(s.r)
    flow.picture(
        58,
        lambda *at: month_bars(r.annual.monthly_energy, "kWh", *at),
        f"Energy delivered by month; {value_of(FIGURES[0], r)} in the year.",
    )
    rows = [
        [month if k < 12 else "Year", f"{row.horizontal:.2f}", f"{row.plane:.2f}", f"{row.temperature:.1f}".replace("-", "−"), f"{row.energy:,.0f}", f"{row.specific_yield:.2f}", ratio]
        for k, (month, row, ratio) in enumerate(
            zip([*MONTHS, ""], [*table.months, table.year], [*(f"{100 * p:.1f}" for p in r.annual.monthly_performance_ratio), f"{100 * r.annual.performance_ratio:.1f}"], strict=True)
        )
    ]  # fmt: skip
    flow.table(
        [Column("", 0.18, "start"), Column("Horizontal [kWh/m² a day]", 0.16), Column("On the planes [kWh/m² a day]", 0.16), Column("Air [°C]", 0.11),
         Column("Energy [kWh]", 0.14), Column("Yield [kWh/kW a day]", 0.14), Column("Performance ratio [%]", 0.11)], rows, last_is_sum=True,
    )  # fmt: skip
    flow.prose(f"Least light on the planes in {MONTHS[table.worst]}, most in {MONTHS[table.best]}.", tone="soft")


def _balance(flow: Flow, s: Subject) -> None:
    flow.begin("balance", "Where the energy goes")
    r = s.r
    flow.picture(120, lambda *at: balance_bars(r, *at), "Each line in percent of what was left before it.")
    rows = [["Horizontal irradiation on the module area", "", f"{r.cascade.start:,.0f}"]]
    rows += [
        [e.title, f"{100 * e.share:+.2f}".replace("-", "−"), f"{e.energy:,.0f}".replace("-", "−")]
        for e in r.cascade.entries
        if abs(e.energy) >= 0.5
    ]
    rows.append(["Energy delivered", "", f"{r.cascade.delivered:,.0f}"])
    flow.table([Column("Line", 0.6, "start"), Column("[%]", 0.18), Column("[kWh]", 0.22)], rows, last_is_sum=True)


def _strings(flow: Flow, s: Subject) -> None:
    flow.put("strings", "Strings and their limits", string_sheet(s.r, s.about.project or "Design", s.about.footnote))


def _diagram(flow: Flow, s: Subject) -> None:
    flow.put("diagram", "One-line diagram", one_line(s.r, "a4", s.about.project or "Design", s.about.footnote))


def _cables(flow: Flow, s: Subject) -> None:
    flow.begin("cables", "Cables and protection")
    lines = schedule_of(s.r)
    if lines:
        flow.heading("Cables")
        shares = (0.15, 0.2, 0.05, 0.25, 0.1, 0.15, 0.1)
        flow.table([Column(head, share, "start") for head, share in zip(HEADS, shares, strict=True)], [[str(cell) for cell in line] for line in lines], size=2.3)  # fmt: skip
    else:
        flow.prose("No cable lengths are given; the losses of cables are the percentages under Losses.", tone="soft")
    flow.heading("Protection")
    # What is chosen for the same reason at many places is one line.
    places: dict[tuple[str, ...], list[str]] = {}
    for p in protection_of(s.r):
        chosen = p.chosen + (f" × {p.count}" if p.count > 1 else "")
        places.setdefault((p.title, chosen, p.detail, p.source), []).append(p.place)
    rows = [[f"{title}, {_folded(where)}", chosen, detail, source] for (title, chosen, detail, source), where in places.items()]
    flow.table([Column("Device", 0.24, "start"), Column("Chosen", 0.18, "start"), Column("Why", 0.4, "start"), Column("Source", 0.18, "start")], rows, size=2.3)  # fmt: skip


def _folded(names: list[str]) -> str:
    """Names, of which a long list is said by its first ones and their number."""
    return (
        ", ".join(names)
        if len(names) <= FOLD_NAMES
        else f"{', '.join(names[: FOLD_NAMES - 1])} and {len(names) - FOLD_NAMES + 1} more"
    )


def _materials(flow: Flow, s: Subject) -> None:
    flow.begin("materials", "Bill of materials")
    bill = bill_of(s.r, s.r.library)
    rows = [
        [line.kind, f"{line.maker} {line.name}".strip(), line.use, f"{line.count:,.6g} {line.unit}", "" if line.mass is None else f"{line.mass:,.1f}", "" if line.price is None else f"{line.price:,.2f}"]
        for line in bill.lines
    ]  # fmt: skip
    missing = f"{bill.without_price} without price" if bill.without_price else ""
    rows.append(["Sum", "", missing, "", f"{bill.mass:,.1f}", f"{bill.price:,.2f}"])
    flow.table(
        [Column("Kind", 0.14, "start"), Column("Part", 0.24, "start"), Column("Used for", 0.3, "start"), Column("Count", 0.11), Column("kg", 0.09), Column(bill.currency, 0.12)],
        rows, last_is_sum=True,
    )  # fmt: skip


def _use(flow: Flow, s: Subject) -> None:
    flow.begin("use", "Use and storage")
    of_use = {figure.key for figure in (*DEMAND_FIGURES, *STORAGE_FIGURES, *OFF_GRID_FIGURES)}
    shown = [figure for figure in headline(s.r) if figure.key in of_use]
    if s.r.after.used is not None:
        demand = s.r.calendar.monthly_sums(s.r.after.metered.demand) * s.r.calendar.hours_per_interval
        flow.picture(50, lambda p, x, y, w, h: month_bars(demand.tolist(), "kWh", p, x, y, w, h, "current"), "Use by month.")
    flow.table([Column("", 0.62, "start"), Column("", 0.38)], [[f.title, value_of(f, s.r)] for f in shown], size=SMALL)


def _place(flow: Flow, s: Subject) -> None:
    flow.put("place", "Place without a grid", [off_grid_sheet(s.r, s.about.project or "Design", s.about.footnote)])


def _worth(flow: Flow, s: Subject) -> None:
    flow.begin("worth", "What it is worth")
    r, money = s.r, s.r.design.money
    of_money = {figure.key for figure in MONEY_FIGURES}
    shown = [figure for figure in headline(r) if figure.key in of_money]
    if shown:
        flow.table([Column("", 0.62, "start"), Column("", 0.38)], [[f.title, value_of(f, r)] for f in shown], size=SMALL)
    before, after = r.after.bill_before, r.after.bill
    if before is not None and after is not None:
        flow.heading("Bill of the first year")
        rows = [
            [
                f"{MONTHS[m]}",
                f"{before.total_of(m):,.2f}",
                f"{after.total_of(m):,.2f}",
                f"{before.total_of(m) - after.total_of(m):,.2f}",
            ]
            for m in range(12)
        ]
        rows.append(["Year", f"{before.total:,.2f}", f"{after.total:,.2f}", f"{before.total - after.total:,.2f}"])
        flow.table(
            [Column(f"[{money.currency}]", 0.31, "start"), Column("without the plant", 0.23), Column("with it", 0.23), Column("saved", 0.23)],
            [[cell.replace("-", "−") for cell in row] for row in rows], last_is_sum=True,
        )  # fmt: skip
    if money.is_counted:
        cash = cash_year_by_year(r)
        flow.heading("Cash by year", 60)
        running = cash.running.tolist()
        flow.picture(
            52,
            lambda *at: running_line(running, money.currency, *at),
            f"Sum of all flows over {len(running) - 1} years, not discounted.",
        )
        rows = [[line.title, f"{line.quantity:,.6g} {line.unit}".strip(), f"{line.amount:,.2f}"] for line in cash.purchase.lines]
        rows.append(["Purchase", "" if cash.purchase.own is None else "own figure", f"{cash.purchase.total:,.2f}"])
        flow.table(
            [Column("Purchase", 0.5, "start"), Column("Quantity", 0.25), Column(money.currency, 0.25)], rows, last_is_sum=True
        )


def _schemes(flow: Flow, s: Subject) -> None:
    flow.begin("schemes", "Schemes side by side")
    shown = s.others[:MOST_SCHEMES]
    own = s.about.scheme.partition(",")[0] or "This one"
    share = 0.7 / (len(shown) + 1)
    rows = []
    for figure in headline(s.r):
        unit = figure.unit_of(s.r)
        theirs = [_written(figure, one.figures[figure.key], unit) if figure.key in one.figures else "" for one in shown]
        rows.append([figure.title, value_of(figure, s.r), *theirs])
    flow.table([Column("", 0.3, "start"), Column(own, share), *(Column(one.title, share) for one in shown)], rows, size=2.4)
    if len(s.others) > len(shown):
        flow.prose(f"{len(s.others) - len(shown)} more schemes are not shown.", SMALL, "soft")
    for one in shown:
        if one.differs:
            flow.heading(one.title, 8)
            flow.prose("Against this scheme it has:", SMALL, "soft", 1)
            flow.table(
                [Column("", 0.4, "start"), Column(own, 0.3, "start"), Column(one.title, 0.3, "start")],
                [list(line) for line in one.differs],
                size=2.4,
            )


def _years(flow: Flow, s: Subject) -> None:
    flow.begin("years", "Over the years")
    record = s.record
    assert record is not None, "the page is there where a record is"
    flow.prose(
        [
            ("Exceeded in one year of two: ", False), (f"{fixed(record.p50, 0)} kWh", True),
            ("; in nine years of ten: ", False), (f"{fixed(record.p90, 0)} kWh", True), (".", False),
        ]
    )  # fmt: skip
    flow.prose("From the spread between the years alone; how well weather and model are known is not in it.", SMALL, "soft")
    rows = [
        [str(year), f"{energy:,.0f}", f"{specific:,.0f}", f"{100 * ratio:.1f}"] for year, energy, specific, ratio in record.runs
    ]
    rows.append(["Mean", f"{record.mean:,.0f}", "", f"±{100 * record.spread:.1f} %"])
    flow.table(
        [Column("Year", 0.3, "start"), Column("Energy [kWh]", 0.25), Column("Yield [kWh/kW]", 0.2), Column("Performance ratio [%]", 0.25)],
        rows, last_is_sum=True,
    )  # fmt: skip


def _checks(flow: Flow, s: Subject) -> None:
    flow.begin("checks", "Checks")
    found = find_checks(s.r)
    still_open, accepted = [c for c in found if not c.accepted], [c for c in found if c.accepted]
    words = "No check is open." if not still_open else f"{len(still_open)} open."
    flow.prose(f"{words} {len(accepted)} accepted." if accepted else words)
    for title, some in (("Open", still_open), ("Accepted", accepted)):
        if some:
            flow.heading(title)
            flow.table(
                [Column("Finding", 0.28, "start"), Column("Figure, limit and cure", 0.5, "start"), Column("Reason" if some is accepted else "Source", 0.22, "start")],
                [[c.title, c.detail, c.accepted or c.source] for c in some], size=2.4,
            )  # fmt: skip


def _inputs(flow: Flow, s: Subject) -> None:
    flow.begin("inputs", "What it rests on")
    r, design = s.r, s.r.design
    flow.prose(statement_of(design))
    flow.table(
        [Column("Input", 0.2, "start"), Column("Rests on", 0.8, "start")], [[b.subject, b.words] for b in inputs_of(design)]
    )
    flow.heading("Weather")
    reference = design.weather
    rows = [
        ["Title", r.weather.title],
        ["Year", "typical" if r.weather.is_typical else str(r.calendar.year)],
        ["Step", f"{r.calendar.step} min"],
    ]
    rows.append(
        ["Horizontal irradiation", f"{float(r.weather.ghi.sum()) * r.calendar.hours_per_interval / 1000:,.0f} kWh/m² a year"]
    )
    if reference is not None and reference.digest:
        rows.append(["Digest", reference.digest])
    flow.table([Column("", 0.24, "start"), Column("", 0.76, "start")], rows)
    flow.heading("Parts")
    kinds = ("modules", "inverters", "optimisers", "transformers", "cables", "devices", "batteries", "controllers")
    parts = [part for kind in kinds for part in getattr(design.parts, kind, {}).values()]
    flow.table(
        [Column("Part", 0.28, "start"), Column("Source of the datasheet", 0.36, "start"), Column("Year", 0.1), Column("Digest", 0.26, "start")],
        [[f"{p.maker} {p.name}", ", ".join(t for t in (p.source, p.date) if t), str(p.year), p.digest[:16]] for p in parts],
    )  # fmt: skip
    flow.heading("Models")
    rows = [[e.title, working(r, f"loss_{e.key}").source] for e in r.cascade.entries if abs(e.energy) >= 0.5]
    flow.table([Column("Line", 0.32, "start"), Column("Model and source", 0.68, "start")], rows, size=2.2)
    if s.about.digest:
        flow.prose(f"Digest of the design: {s.about.digest}.", SMALL, "soft", 1)
    if s.about.address:
        flow.prose(f"This revision opens at {s.about.address}.", SMALL, "soft")


def _workings(flow: Flow, s: Subject) -> None:
    flow.begin("workings", "How the figures came about")
    for figure in headline(s.r):
        one = working(s.r, figure.key)
        flow.heading(f"{figure.title}: {value_of(figure, s.r)}", 16)
        flow.prose(one.source, SMALL, "soft", 1)
        rows = [[i.name, _as_text(i.value), i.unit, i.origin] for i in (*one.inputs, *one.steps)]
        if rows:
            flow.table(
                [Column("", 0.36, "start"), Column("", 0.2), Column("", 0.12, "start"), Column("", 0.32, "start")], rows, size=2.4
            )


def _as_text(value: float | str) -> str:
    return value if isinstance(value, str) else f"{value:,.6g}".replace("-", "−")


PAGES: dict[str, Page] = {
    page.key: page
    for page in (
        Page("cover", "Cover", "Project, place, the year as a band, and the figures of the Headline", _cover),
        Page("built", "What is built", "The year as a band, four figures, and the design in words on one page", _built),
        Page("brief", "The design in words", "The Brief, with every value", _brief),
        Page("sky", "Sun and horizon", "The sun's paths, and what stands before them", _sky),
        Page("surfaces", "Surfaces", "Tilt, azimuth, modules and energy of each", _surfaces),
        Page("plan", "Plan", "Roofs with dimensions, modules with their numbers", _plan, lambda s: any(x.face for x in s.r.design.surfaces.values()), "No surface lies on a face of the scene."),
        Page("views", "The building and its shade", "Views of the scene that are kept; of the year and its seasons where none is", _views, lambda s: bool(s.r.design.views) or any(x.face for x in s.r.design.surfaces.values()), "No surface lies on a face of the scene, and no view of it is kept."),
        Page("access", "Solar access", "By month and surface, with orientation", _access, lambda s: any(x.face for x in s.r.design.surfaces.values()), "No surface lies on a face of the scene."),
        Page("yield", "Energy by month", "Picture and table of months", _yield),
        Page("balance", "Where the energy goes", "The Cascade as picture and table", _balance),
        Page("use", "Use and storage", "What is used, stored and bought", _use, lambda s: s.r.after.used is not None, "The design has no demand."),
        Page("place", "Place without a grid", "Worksheet beside proof, diagram, costs", _place, lambda s: s.r.after.serves_alone, "The design has a grid, or no demand."),
        Page("worth", "What it is worth", "Bill before and after, purchase, cash by year", _worth, lambda s: s.r.design.money.is_counted or s.r.after.bill is not None, "The design has neither a tariff nor costs."),
        Page("schemes", "Schemes side by side", "The figures of all schemes of the project", _schemes, lambda s: bool(s.others), "The project has no other scheme with figures."),
        Page("years", "Over the years", "Each year of a record, P50 and P90", _years, lambda s: s.record is not None, "The scheme has not been run over the years of a record."),
        Page("trials", "Trials", "What was let loose, the best, those as good, and what each value does", lambda flow, s: trial_page(flow, s.r, s.trials), lambda s: bool(s.trials), "The scheme has no trials that have been run."),
        Page("diagram", "One-line diagram", "From the strings to the meter", _diagram),
        Page("strings", "Strings and their limits", "Every figure against its limit", _strings),
        Page("cables", "Cables and protection", "Sections, lengths, drops; fuses, switches, breakers", _cables),
        Page("materials", "Bill of materials", "Parts with counts, weights and prices", _materials),
        Page("checks", "Checks", "What is open, and what was accepted and why", _checks),
        Page("inputs", "What it rests on", "Weather, datasheets, models, what was measured and what was estimated", _inputs),
        Page("glossary", "Terms", "Terms that the pages before it use", _glossary),
        Page("workings", "How the figures came about", "Inputs, sources and steps of every figure", _workings),
    )
}  # fmt: skip
