"""What the figures rest on: of roof, shade, weather and use, what was measured and what was computed or estimated."""

from dataclasses import dataclass
from typing import Literal

from noontide.core.brief.runs import listed
from noontide.core.design import Design

Subject = Literal["Roof", "Shade", "Weather", "Use"]


@dataclass(frozen=True)
class InputBasis:
    """One input, in words."""

    subject: Subject
    words: str


def inputs_of(design: Design) -> tuple[InputBasis, ...]:
    """Roof, shade, weather and use of a design, each with what it rests on."""
    return tuple(basis for basis in (_roof(design), _shade(design), _weather(design), _use(design)) if basis is not None)


def statement_of(design: Design) -> str:
    """The statement on the inputs: one's own, or what the design itself says of them."""
    return design.money.statement or " ".join(f"{basis.subject}: {basis.words}." for basis in inputs_of(design))


def _roof(design: Design) -> InputBasis | None:
    drawn = sum(surface.face is not None for surface in design.surfaces.values())
    if not design.surfaces:
        return None
    words = "drawn in the scene" if drawn == len(design.surfaces) else "tilt and azimuth as entered"
    if 0 < drawn < len(design.surfaces):
        words = f"drawn in the scene for {drawn} of {len(design.surfaces)} surfaces, tilt and azimuth as entered for the others"
    return InputBasis("Roof", words)


def _shade(design: Design) -> InputBasis:
    tables = [surface.shade_table for surface in design.surfaces.values() if surface.shade_table is not None]
    for by_hand, what in (
        (design.site.shade_table, "solar access by month and hour"),
        (design.site.shade_factor, "a shade factor"),
    ):
        if by_hand is not None:
            how = "measured" if by_hand.is_measured else "estimated"
            own = f" ({by_hand.statement.rstrip('.')})" if by_hand.statement else ""
            return InputBasis("Shade", f"{what}, {how}{own}")
    if tables:
        how = "measured" if all(table.is_measured for table in tables) else "estimated"
        return InputBasis("Shade", f"solar access of {len(tables)} of {len(design.surfaces)} surfaces {how}")
    found = [
        words
        for words, is_there in (
            ("the scene", not design.scene.is_empty),
            ("the horizon", bool(design.site.horizon)),
            ("obstacles in the sky", bool(design.site.obstacles)),
            ("rows in front of rows", any(surface.rows for surface in design.surfaces.values())),
        )
        if is_there
    ]
    return InputBasis("Shade", f"computed from {listed(found)}" if found else "none is assumed")


def _weather(design: Design) -> InputBasis | None:
    if design.weather is None:
        return None
    return InputBasis("Weather", design.weather.title or "a file of one's own")


def _use(design: Design) -> InputBasis | None:
    sources = [source for source in design.demand.sources.values() if source.is_on]
    if not sources:
        return None
    measured = [s.name or "a meter" for s in sources if s.kind == "interval"]
    billed = [s.name or "bills" for s in sources if s.kind == "monthly"]
    guessed = [s.name or "a source" for s in sources if s.kind not in ("interval", "monthly")]
    words = [
        f"{what} ({listed(names)})"
        for what, names in (("measured", measured), ("from bills", billed), ("estimated", guessed))
        if names
    ]
    return InputBasis("Use", ", ".join(words))
