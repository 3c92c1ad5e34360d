"""The house's typeface on paper: its files, and how wide a text is in it."""

import unicodedata
from functools import cache, lru_cache
from importlib.resources import as_file, files

PLAIN, BOLD = "Inter", "Inter-Bold"


@cache
def registered() -> tuple[str, str]:
    """Names by which the PDF writer knows the plain and the bold face, after it was told of them."""
    from reportlab.pdfbase.pdfmetrics import registerFont
    from reportlab.pdfbase.ttfonts import TTFont

    here = files("noontide.core.drawing") / "fonts"
    for name, file in ((PLAIN, "inter-400.ttf"), (BOLD, "inter-600.ttf")):
        with as_file(here / file) as path:
            registerFont(TTFont(name, str(path)))
    return PLAIN, BOLD


@lru_cache(maxsize=8192)
def width_of(text: str, size: float, is_bold: bool = False) -> float:
    """Width of a text, in the unit of its size."""
    from reportlab.pdfbase.pdfmetrics import stringWidth

    return float(stringWidth(text, registered()[int(is_bold)], size))


def printable(text: str) -> str:
    """The text without what no file may hold: control characters, lone surrogates, and code points that are no characters."""
    if text.isascii() and text.isprintable():
        return text
    return "".join(ch for ch in text if ch in "\t\n" or not _is_unprintable(ch))


def _is_unprintable(ch: str) -> bool:
    code = ord(ch)
    return unicodedata.category(ch) in ("Cc", "Cs") or 0xFDD0 <= code <= 0xFDEF or code & 0xFFFE == 0xFFFE


def lines_of(text: str, size: float, most: float, is_bold: bool = False) -> list[str]:
    """A text broken at its blanks into lines of at most a width; a word that is wider than a line is broken inside."""
    lines: list[str] = []
    line = ""
    for word in text.split():
        while width_of(word, size, is_bold) > most:
            fits = next((n for n in range(len(word) - 1, 1, -1) if width_of(word[:n], size, is_bold) <= most), 1)
            lines += [line] if line else []
            lines.append(word[:fits])
            line, word = "", word[fits:]
        longer = f"{line} {word}".strip()
        if line and width_of(longer, size, is_bold) > most:
            lines.append(line)
            line = word
        else:
            line = longer
    return [*lines, line] if line or not lines else lines
