"""A report as one HTML file: its sheets as vector pictures with text that can be searched and copied, and the typeface in it."""

import base64
from functools import cache
from html import escape
from importlib.resources import files

from noontide.core.drawing import as_svg
from noontide.core.drawing.typeface import printable
from noontide.core.report.making import Report

MEDIA = {"pdf": "application/pdf", "html": "text/html; charset=utf-8"}  # that a report can be written as
STYLE = """
body { margin: 0; background: #F6F2E9; color: #1B2A3A; font-family: Inter, sans-serif; }
nav { max-width: 210mm; margin: 0 auto; padding: 6mm 0 0; font-size: 13px; line-height: 1.7; }
nav a { color: #2F5D8C; margin-right: 1.2em; }
section { margin: 6mm auto; width: fit-content; max-width: 96vw; background: #fff; box-shadow: 0 2px 14px #0002; }
section svg { display: block; max-width: 100%; height: auto; }
@media print { nav { display: none } body { background: none } section { margin: 0; box-shadow: none; break-after: page } }
"""


def as_html(report: Report) -> str:
    """The whole report as the text of an HTML file that needs nothing beside it."""
    links = "".join(
        f'<a href="#sheet-{mark.sheet + 1}">{escape(printable(mark.title))}</a>' for mark in report.outline if mark.level == 0
    )
    sheets = "\n".join(
        f'<section id="sheet-{number}" aria-label="Page {number}">{as_svg(sheet)}</section>'
        for number, sheet in enumerate(report.sheets, start=1)
    )
    return (
        f'<!doctype html>\n<html lang="{report.language}">\n<head><meta charset="utf-8"><title>{escape(printable(report.title))}</title>\n'
        f'<meta name="viewport" content="width=device-width, initial-scale=1">\n<style>{_faces()}{STYLE}</style></head>\n'
        f'<body>\n<nav aria-label="Contents">{links}</nav>\n{sheets}\n</body>\n</html>\n'
    )


def as_file(report: Report, kind: str) -> bytes:
    """The report as a file of a kind of `MEDIA`."""
    return report.as_pdf() if kind == "pdf" else as_html(report).encode()


@cache
def _faces() -> str:
    here = files("noontide.core.drawing") / "fonts"
    faces = []
    for weight, name in ((400, "inter-400.ttf"), (600, "inter-600.ttf")):
        data = base64.b64encode((here / name).read_bytes()).decode()
        faces.append(f"@font-face {{ font-family: Inter; font-weight: {weight}; src: url(data:font/ttf;base64,{data}) }}\n")
    return "".join(faces)
