"""A logo as a report can print it, and whether a colour can be read on paper."""

import io
import warnings

MOST_PIXELS = 60_000_000
WIDEST, HIGHEST = 1400, 600  # pixels that are kept: more than a printer shows on so few centimetres
LEAST_CONTRAST = 4.5  # WCAG 2.2, success criterion 1.4.3


class NoLogo(ValueError):
    """A file that cannot be a logo."""


def read_logo(content: bytes) -> tuple[bytes, float]:
    """A picture as PNG, as large as paper can show it, and its width over its height.

    Raises
    ------
    NoLogo
        If it is no PNG, JPEG or WebP, or too large.
    """
    from PIL import Image

    if content.lstrip()[:5].lower() in (b"<?xml", b"<svg ", b"<!doc"):
        raise NoLogo("An SVG can carry scripts and links, and is not taken. Save the logo as PNG.")
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            opened = Image.open(io.BytesIO(content), formats=("PNG", "JPEG", "WEBP"))
            if opened.width * opened.height > MOST_PIXELS:
                raise NoLogo(f"It has {opened.width:,} by {opened.height:,} pixels; {MOST_PIXELS / 1e6:.0f} million are read.")
            opened.thumbnail((WIDEST, HIGHEST))
            picture = opened.convert("RGBA")
    except NoLogo:
        raise
    except Exception as error:  # of a damaged picture the package raises whatever it stumbles over
        raise NoLogo(f"It is no picture in PNG, JPEG or WebP, or damaged ({type(error).__name__}).") from None
    out = io.BytesIO()
    picture.save(out, "PNG", optimize=True)
    return out.getvalue(), picture.width / picture.height


def contrast_on_paper(colour: str) -> float:
    """Contrast of a colour, as #RRGGBB, on white.

    References
    ----------
    W3C (2023), Web Content Accessibility Guidelines 2.2, relative luminance and contrast ratio.
    """
    shares = [int(colour[i : i + 2], 16) / 255 for i in (1, 3, 5)]
    linear = [s / 12.92 if s <= 0.04045 else ((s + 0.055) / 1.055) ** 2.4 for s in shares]
    luminance = 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]
    return 1.05 / (luminance + 0.05)
