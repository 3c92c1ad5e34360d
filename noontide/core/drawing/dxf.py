"""Sheets as a DXF drawing (R2010), in millimetres, one beside the other; a layer for each ink."""

import io
from collections.abc import Sequence

from noontide.core.drawing.sheet import COLOURS, Cells, Circle, Mark, Picture, Polyline, Sheet

GAP = 20.0  # between sheets [mm]


def as_dxf(sheets: Sequence[Sheet]) -> str:
    """The sheets as the text of a DXF file."""
    import ezdxf
    from ezdxf.colors import RGB
    from ezdxf.enums import TextEntityAlignment

    document = ezdxf.new("R2010", units=4)
    document.styles.add("INTER", font="Inter.ttf")
    for tone, colour in COLOURS.items():
        layer = document.layers.add(tone.upper())
        layer.rgb = RGB.from_hex(colour)
    space = document.modelspace()
    align = {
        "start": TextEntityAlignment.LEFT,
        "middle": TextEntityAlignment.CENTER,
        "end": TextEntityAlignment.RIGHT,
    }

    def draw(mark: Mark, left: float, height: float) -> None:
        if isinstance(mark, Cells | Picture):
            return  # a picture is no drawing
        attributes = {"layer": mark.tone.upper()}
        if isinstance(mark, Polyline):
            points = [(left + x, height - y) for x, y in mark.points]
            space.add_lwpolyline(points, close=mark.is_closed, dxfattribs=attributes | {"const_width": mark.weight})
            if mark.is_filled:
                space.add_hatch(dxfattribs=attributes).paths.add_polyline_path(points, is_closed=True)
        elif isinstance(mark, Circle):
            space.add_circle((left + mark.x, height - mark.y), mark.radius, dxfattribs=attributes)
        else:
            # The height of DXF text is that of a capital.
            text = space.add_text(mark.text, height=mark.size * 0.73, dxfattribs=attributes | {"style": "INTER"})
            text.set_placement((left + mark.x, height - mark.y), align=align[mark.anchor])

    left = 0.0
    for sheet in sheets:
        for mark in sheet.marks:
            draw(mark, left, sheet.height)
        left += sheet.width + GAP
    out = io.StringIO()
    document.write(out)
    return out.getvalue()
