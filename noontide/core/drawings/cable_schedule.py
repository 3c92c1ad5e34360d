"""The schedule of the cables under a one-line diagram."""

from collections.abc import Sequence
from dataclasses import dataclass

from noontide.core.behind_meter.bus_circuits import bus_circuits
from noontide.core.drawing import Sheet
from noontide.core.drawing.sheet import Tone
from noontide.core.drawing.typeface import lines_of
from noontide.core.drawings.measures import LETTER, MARGIN, SCHEDULE_LINE
from noontide.core.simulation.results import Results


def schedule_of(r: Results) -> list[tuple[str, ...]]:
    """Cables as lines of a table, identical ones in one line."""
    folded: dict[tuple[str, ...], tuple[list[str], int]] = {}
    for run in r.cables.runs:
        key = (
            run.title, f"{run.choice.section:g} mm² {run.route.material}, {run.route.method}", f"{run.route.length:g} m",
            f"{run.route.current:.1f} of {run.choice.ampacity:.0f} A", f"{run.choice.drop:.2f} %",
        )  # fmt: skip
        owners, count = folded.get(key, ([], 0))
        folded[key] = [*owners, *([run.serves] if run.serves else [])], count + run.count
    for circuit in bus_circuits(r):
        if (cable := circuit.cable) is not None and circuit.fuse is not None:
            key = (
                circuit.cable_title, f"{cable.section:g} mm² copper, on a surface", f"{circuit.length:g} m", f"{circuit.fuse:.1f} of {cable.ampacity:.0f} A", f"{cable.drop:.2f} %",
            )  # fmt: skip
            owners, count = folded.get(key, ([], 0))
            folded[key] = [*owners, circuit.place], count + circuit.count
    return [(key[0], ", ".join(owners), f"{count} ×", *key[1:]) for key, (owners, count) in folded.items()]


@dataclass(frozen=True)
class _Block:
    """One line of the schedule of cables, or a note under it, with its cells broken into lines."""

    cells: tuple[tuple[float, list[str]], ...]
    height: float
    is_head: bool = False


HEADS = ("Cable", "of", "", "Section and laying", "Length", "Current, ampacity", "Drop")


SMALL = LETTER * 0.85


def blocks_of(lines: Sequence[tuple[str, ...]], width: float) -> list[_Block]:
    """The heading, the lines of the schedule and the notes; the heading first, which is repeated on every sheet."""
    inner = width - 2 * MARGIN - 8
    columns = [MARGIN + 4 + share * inner for share in (0, 0.13, 0.40, 0.46, 0.68, 0.77, 0.92)]
    ends = [*columns[1:], width - MARGIN - 4]
    found = [_Block(tuple((x, [head]) for x, head in zip(columns, HEADS, strict=True)), SCHEDULE_LINE, is_head=True)]
    for line in lines:
        if len(line) == 2:
            note = MARGIN + 12
            cells: list[tuple[float, list[str]]] = [
                (MARGIN + 4, [line[0]]),
                (note, lines_of(line[1], SMALL, width - MARGIN - 4 - note)),
            ]
        else:
            cells = [(x, lines_of(text, SMALL, end - x - 2)) for x, end, text in zip(columns, ends, line, strict=True)]
        found.append(_Block(tuple(cells), SCHEDULE_LINE * 0.75 * (max(len(part) for _, part in cells) - 1) + SCHEDULE_LINE))
    return found


def write_blocks(sheet: Sheet, blocks: Sequence[_Block], top: float) -> float:
    """Blocks below one another; the place after them."""
    for block in blocks:
        for x, part in block.cells:
            for k, text in enumerate(part):
                tone: Tone = "soft" if block.is_head else "ink"
                sheet.text(x, top + 0.75 * k * SCHEDULE_LINE, text, SMALL, is_bold=block.is_head, tone=tone)
        if block.is_head:
            sheet.line((MARGIN + 4, top + 1.4), (sheet.width - MARGIN - 4, top + 1.4), weight=0.18, tone="soft")
        top += block.height
    return top
