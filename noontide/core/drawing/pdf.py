"""Sheets as the pages of a PDF, with the house's typeface in it."""

import io
from collections.abc import Sequence

from noontide.core.drawing.sheet import COLOURS, Circle, Mark, Polyline, Sheet
from noontide.core.drawing.typeface import printable, registered

MILLIMETRE = 72 / 25.4  # points


def as_pdf(sheets: Sequence[Sheet], title: str = "") -> bytes:
    """The sheets as one PDF.

    Raises
    ------
    ValueError
        If there is no sheet.
    """
    from reportlab.lib.colors import HexColor
    from reportlab.pdfgen.canvas import Canvas

    if not sheets:
        raise ValueError("a PDF needs one sheet or more")
    plain, bold = registered()
    out = io.BytesIO()
    canvas = Canvas(out, pageCompression=1, invariant=1)
    canvas.setTitle(printable(title or sheets[0].title))
    canvas.setCreator("Noontide")

    def draw(mark: Mark, height: float) -> None:
        colour = HexColor(COLOURS[mark.tone])
        canvas.setStrokeColor(colour)
        canvas.setFillColor(colour)
        if isinstance(mark, Polyline):
            canvas.setLineWidth(mark.weight)
            path = canvas.beginPath()
            for i, (x, y) in enumerate(mark.points):
                (path.lineTo if i else path.moveTo)(x, height - y)
            if mark.is_closed:
                path.close()
            canvas.drawPath(path, stroke=1, fill=int(mark.is_filled))
        elif isinstance(mark, Circle):
            canvas.setLineWidth(mark.weight)
            canvas.circle(mark.x, height - mark.y, mark.radius, stroke=1, fill=int(mark.is_filled))
        else:
            canvas.setFont(bold if mark.is_bold else plain, mark.size)
            write = {"start": canvas.drawString, "middle": canvas.drawCentredString, "end": canvas.drawRightString}[mark.anchor]
            write(mark.x, height - mark.y, mark.text)

    for sheet in sheets:
        canvas.setPageSize((sheet.width * MILLIMETRE, sheet.height * MILLIMETRE))
        canvas.scale(MILLIMETRE, MILLIMETRE)
        canvas.setLineJoin(1)
        for mark in sheet.marks:
            draw(mark, sheet.height)
        canvas.showPage()
    canvas.save()
    return out.getvalue()
