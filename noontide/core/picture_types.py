"""Pictures told by their first bytes."""

PICTURES = {b"\x89PNG\r\n\x1a\n": "image/png", b"\xff\xd8\xff": "image/jpeg"}


def picture_type(content: bytes) -> str | None:
    """The media type of a picture by its first bytes: PNG, JPEG or WebP."""
    if content[:4] == b"RIFF" and content[8:12] == b"WEBP":
        return "image/webp"
    return next((kind for start, kind in PICTURES.items() if content.startswith(start)), None)
