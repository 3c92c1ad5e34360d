"""Sheets as the pages of a PDF, with the house's typeface in it."""

import io
from collections.abc import Sequence
from dataclasses import dataclass

from noontide.core.drawing.sheet import Cells, Circle, Mark, Picture, Polyline, Sheet, runs_of
from noontide.core.drawing.typeface import printable, registered

MILLIMETRE = 72 / 25.4  # points


@dataclass(frozen=True)
class Bookmark:
    """A place in a PDF that its outline leads to."""

    title: str
    sheet: int  # from 0
    level: int = 0


def as_pdf(sheets: Sequence[Sheet], title: str = "", outline: Sequence[Bookmark] = (), subject: str = "") -> bytes:
    """The sheets as one PDF, with bookmarks where an outline is given; the same sheets make the same bytes.

    Raises
    ------
    ValueError
        If there is no sheet.
    """
    from reportlab.lib.colors import HexColor
    from reportlab.lib.utils import ImageReader
    from reportlab.pdfgen.canvas import Canvas

    if not sheets:
        raise ValueError("a PDF needs one sheet or more")
    plain, bold = registered()
    out = io.BytesIO()
    canvas = Canvas(out, pageCompression=1, invariant=1)
    canvas.setTitle(printable(title or sheets[0].title))
    canvas.setCreator("Noontide")
    canvas.setSubject(printable(subject))

    def draw(mark: Mark, sheet: Sheet) -> None:
        height = sheet.height
        if isinstance(mark, Picture):
            image = ImageReader(io.BytesIO(mark.png))
            canvas.drawImage(image, mark.x, height - mark.y - mark.height, mark.width, mark.height, mask="auto")
            return
        if isinstance(mark, Cells):
            for x, y, width, colour in runs_of(mark):
                canvas.setFillColor(HexColor(colour))
                canvas.rect(x, height - y - mark.height, width, mark.height, stroke=0, fill=1)
            return
        colour = HexColor(sheet.colour(mark.tone))
        canvas.setStrokeColor(colour)
        canvas.setFillColor(colour)
        if isinstance(mark, Polyline):
            canvas.setLineWidth(mark.weight)
            path = canvas.beginPath()
            for i, (x, y) in enumerate(mark.points):
                (path.lineTo if i else path.moveTo)(x, height - y)
            if mark.is_closed:
                path.close()
            if mark.fill:
                canvas.setFillColor(HexColor(mark.fill))
            canvas.drawPath(path, stroke=1, fill=int(mark.is_filled or bool(mark.fill)))
        elif isinstance(mark, Circle):
            canvas.setLineWidth(mark.weight)
            canvas.circle(mark.x, height - mark.y, mark.radius, stroke=1, fill=int(mark.is_filled))
        else:
            canvas.setFont(bold if mark.is_bold else plain, mark.size)
            write = {"start": canvas.drawString, "middle": canvas.drawCentredString, "end": canvas.drawRightString}[mark.anchor]
            write(mark.x, height - mark.y, mark.text)

    for number, sheet in enumerate(sheets):
        for place, line in enumerate(outline):
            if line.sheet == number:
                canvas.bookmarkPage(f"place-{place}")
                canvas.addOutlineEntry(printable(line.title), f"place-{place}", line.level)
        canvas.setPageSize((sheet.width * MILLIMETRE, sheet.height * MILLIMETRE))
        canvas.scale(MILLIMETRE, MILLIMETRE)
        canvas.setLineJoin(1)
        for mark in sheet.marks:
            draw(mark, sheet)
        canvas.showPage()
    canvas.save()
    return out.getvalue()
