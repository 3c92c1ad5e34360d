"""A sheet as SVG 1.1, with colours of its own, so that it looks the same wherever it is opened."""

import base64
from xml.sax.saxutils import escape, quoteattr

from noontide.core.drawing.sheet import Cells, Circle, Mark, Picture, Polyline, Sheet, runs_of
from noontide.core.drawing.typeface import printable

# The house's own, by the names that it has in a page and in a file of its own.
FONTS = "Inter, 'Inter Variable', Helvetica, Arial, sans-serif"


def as_svg(sheet: Sheet) -> str:
    """The sheet as the text of an SVG file, in millimetres."""
    marks = "\n".join(_mark(mark, sheet) for mark in sheet.marks)
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{sheet.width:g}mm" height="{sheet.height:g}mm" '
        f'viewBox="0 0 {sheet.width:g} {sheet.height:g}" font-family="{FONTS}" text-rendering="geometricPrecision">\n'
        f"<title>{escape(printable(sheet.title))}</title>\n"
        f'<rect width="{sheet.width:g}" height="{sheet.height:g}" fill="#FFFFFF"/>\n{marks}\n</svg>\n'
    )


def _mark(mark: Mark, sheet: Sheet) -> str:
    if isinstance(mark, Picture):
        data = base64.b64encode(mark.png).decode()
        return f'<image x="{mark.x:.3f}" y="{mark.y:.3f}" width="{mark.width:.3f}" height="{mark.height:.3f}" href="data:image/png;base64,{data}"/>'
    if isinstance(mark, Cells):
        cells = "".join(
            f'<rect x="{x:.3f}" y="{y:.3f}" width="{width:.3f}" height="{mark.height:.3f}" fill="{colour}"/>\n'
            for x, y, width, colour in runs_of(mark)
        )
        # With soft edges the ground would show between cells that touch.
        return f'<g shape-rendering="crispEdges">\n{cells}</g>'
    colour = sheet.colour(mark.tone)
    if isinstance(mark, Polyline):
        points = " ".join(f"{x:.3f},{y:.3f}" for x, y in mark.points)
        name = "polygon" if mark.is_closed else "polyline"
        return f'<{name} points="{points}" {_inked(colour, mark.weight, mark.is_filled, mark.fill)}/>'
    if isinstance(mark, Circle):
        return (
            f'<circle cx="{mark.x:.3f}" cy="{mark.y:.3f}" r="{mark.radius:.3f}" {_inked(colour, mark.weight, mark.is_filled)}/>'
        )
    weight = ' font-weight="600"' if mark.is_bold else ""
    return (
        f'<text x="{mark.x:.3f}" y="{mark.y:.3f}" font-size="{mark.size:.2f}" text-anchor={quoteattr(mark.anchor)}{weight} '
        f'style="fill:{colour}">{escape(mark.text)}</text>'
    )


def _inked(colour: str, weight: float, is_filled: bool, fill: str = "") -> str:
    return (
        f'fill="{fill or (colour if is_filled else "none")}" stroke="{colour}" stroke-width="{weight:g}" stroke-linejoin="round"'
    )
