"""Trials on paper: what was let loose, the best, those as good, what they have in common, and what each value does to the aim."""

from collections.abc import Sequence
from dataclasses import dataclass
from math import ceil, floor, log10

import numpy as np

from noontide.core.brief.runs import fixed
from noontide.core.drawing.sheet import Sheet
from noontide.core.figures.catalogue import FIGURE_OF
from noontide.core.report.setting import SMALL, Column, Flow
from noontide.core.simulation.results import Results
from noontide.core.trials.comparing import shared_by, short_names
from noontide.core.trials.runs_table import Cell, RunsTable, is_words
from noontide.core.trials.study import WAY_TITLES, Aim, Loose, Scalar, Study

GOOD = 0.02  # of the best, within which others are as good
MOST_ROWS = 12
MOST_EFFECTS = 3  # pictures beside one another
BESIDE = ("energy", "purchase", "payback", "self_sufficiency")  # figures that stand beside the aims
HIGH = 46.0  # of a picture [mm]


@dataclass(frozen=True)
class TrialsShown:
    """A set of trials that a report shows."""

    title: str
    table: RunsTable
    changed: tuple[str, ...] = ()  # rooms of the design that were changed since


def trial_page(flow: Flow, r: Results, sets: Sequence[TrialsShown]) -> None:
    """The page of the trials of a scheme."""
    flow.begin("trials", "Trials")
    for one in sets:
        if len(sets) > 1 or one.title:
            flow.heading(one.title or "Trials")
        _set(flow, r, one)


def _set(flow: Flow, r: Results, one: TrialsShown) -> None:
    table, study = one.table, one.table.study
    failed = int((~table.is_done).sum())
    flow.prose(f"{len(table):,} designs; {int(table.kept.sum()):,} keep every limit.")
    if failed:
        flow.prose(f"{failed:,} could not be computed.", SMALL, "soft", 1)
    if one.changed:
        flow.prose(f"The design has been changed since: {', '.join(one.changed)}.", SMALL, "soft", 1)
    names = short_names(study)
    flow.table(
        [Column("Let loose", 0.3, "start"), Column("Values", 0.7, "start")],
        [[names[key], _values(loose)] for key, loose in study.loose.items()],
    )
    flow.prose(WAY_TITLES[study.way], SMALL, "soft", 1)
    aim = study.aim if study.aim is not None else Aim(figure="energy", better="more")
    if aim.figure not in table.columns.keys:
        return
    good = table.good(aim, GOOD)
    if not len(good):
        flow.prose("No design keeps every limit.")
        return
    best = table.run(int(good[0]))
    figure = FIGURE_OF[aim.figure]
    value = _figure(aim.figure, best.figures, r)
    flow.prose(
        [
            ("The best: ", False),
            (f"run {best.number}", True),
            (", ", False),
            (figure.title, False),
            (": ", False),
            (value, True),
            (".", False),
        ]
    )
    flow.prose(f"{len(good):,} different designs are as good within {100 * GOOD:g} %.")
    for sentence in shared_by([table.run(int(place)) for place in good], study):
        flow.prose(sentence, SMALL, "ink", 1)
    _rows(flow, r, table, study, aim, [int(place) for place in good[:MOST_ROWS]])
    effects = [key for key, loose in study.loose.items() if not is_words(loose)][:MOST_EFFECTS]
    if effects:
        curves = [(names[key], study.loose[key].unit, table.effect(key, aim.figure, "best")) for key in effects]
        unit = figure.unit_of(r)
        caption = f"{figure.title}{f' [{unit}]' if unit else ''}: the best design at each value."
        flow.picture(HIGH, lambda *at: effect_curves(curves, 100.0 if figure.is_percentage else 1.0, *at), caption)


def _rows(flow: Flow, r: Results, table: RunsTable, study: Study, aim: Aim, places: Sequence[int]) -> None:
    names = short_names(study)
    keys = list(dict.fromkeys([aim.figure, *(one.figure for one in study.also), *BESIDE]))
    keys = [key for key in keys if key in table.columns.keys][:4]
    heads = ["Run", *(_with_unit(names[key], loose.unit) for key, loose in study.loose.items())]
    heads += [
        _with_unit(FIGURE_OF[key].title, "%" if FIGURE_OF[key].is_percentage else FIGURE_OF[key].unit_of(r)) for key in keys
    ]
    share = 0.92 / (len(heads) - 1)
    rows = []
    for place in places:
        one = table.run(place)
        rows.append(
            [
                str(one.number),
                *(_text(one.values[key]) for key in study.loose),
                *(_number(key, one.figures.get(key)) for key in keys),
            ]
        )
    flow.table([Column(heads[0], 0.08), *(Column(head, share) for head in heads[1:])], rows, size=2.4)


def _values(loose: Loose) -> str:
    """The values of a loose one in words."""
    unit = f" {loose.unit}" if loose.unit and loose.unit != "°" else loose.unit
    if loose.values is not None:
        shown = [_text(value) for value in loose.values[:MOST_ROWS]]
        more = f" and {len(loose.values) - MOST_ROWS} more" if len(loose.values) > MOST_ROWS else ""
        return f"{', '.join(shown)}{more}{unit}"
    step = f" by {loose.step:g}{unit}" if loose.step else ""
    return f"{loose.low:g} to {loose.high:g}{unit}{step}"


def _text(value: Scalar) -> str:
    if isinstance(value, bool) or value is None:
        return {True: "yes", False: "no", None: "none"}[value]
    return f"{value:.6g}" if isinstance(value, int | float) else str(value)


def _with_unit(title: str, unit: str) -> str:
    return f"{title} [{unit}]" if unit else title


def _number(key: str, value: float | None) -> str:
    figure = FIGURE_OF[key]
    if value is None:
        return figure.without or "none"
    return fixed(100 * value if figure.is_percentage else value, figure.decimals).replace("-", "−")


def _figure(key: str, figures: object, r: Results) -> str:
    figure = FIGURE_OF[key]
    value = figures.get(key)  # type: ignore[attr-defined]
    return f"{_number(key, value)} {'%' if figure.is_percentage else figure.unit_of(r)}".strip()


def effect_curves(
    curves: Sequence[tuple[str, str, Sequence[Cell]]], times: float, sheet: Sheet, x: float, y: float, width: float, height: float
) -> None:
    """A figure over each of some loose values, side by side with one scale."""
    every = [cell.value * times for _, _, cells in curves for cell in cells if cell.value is not None]
    if not every:
        return
    low, high, step = _even(min(every), max(every))
    base, deep, wide = y + height - 9, height - 13, (width - 16) / len(curves)
    for value in np.arange(low, high + step / 2, step).tolist():
        line = base - (value - low) / (high - low) * deep
        sheet.line((x + 16, line), (x + width, line), weight=0.1, tone="soft")
        sheet.text(x + 14.5, line + 0.9, fixed(value, 0 if step >= 1 else 2).replace("-", "−"), 2.4, "end", tone="soft", most=14)
    for k, (name, unit, cells) in enumerate(curves):
        left, right = x + 16 + k * wide + 3, x + 16 + (k + 1) * wide - 4
        along = np.array([float(cell.x) for cell in cells])  # type: ignore[arg-type]
        span = float(along.max() - along.min()) or 1.0
        points = [
            (
                left + (float(cell.x) - float(along.min())) / span * (right - left),
                base - (cell.value * times - low) / (high - low) * deep,
            )  # type: ignore[arg-type]
            for cell in cells
            if cell.value is not None
        ]
        if len(points) > 1:
            sheet.line(*points, weight=0.6, tone="yield")
        for at in points:
            sheet.line((at[0] - 0.4, at[1]), (at[0] + 0.4, at[1]), weight=1.2, tone="yield")
        for place, anchor, value in ((left, "start", along.min()), (right, "end", along.max())):
            sheet.text(place, base + 3.6, f"{value:g}".replace("-", "−"), 2.4, anchor, tone="soft")  # type: ignore[arg-type]
        sheet.text((left + right) / 2, base + 7.2, _with_unit(name, unit), 2.6, "middle", most=right - left)


def _even(low: float, high: float) -> tuple[float, float, float]:
    """Ends of a scale about some values, and its step: 1, 2 or 5 times a power of ten, up to five of them."""
    room = (high - low) or abs(high) or 1.0
    power = 10.0 ** floor(log10(room / 4))
    step = next(times * power for times in (1, 2, 5, 10) if room / (times * power) <= 4)
    return floor(low / step + 1e-9) * step, ceil(high / step - 1e-9) * step or step, step
