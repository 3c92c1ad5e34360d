"""A file that comes with a form: the one place that asks for it and holds it to its size."""

from django.core.files.uploadedfile import UploadedFile
from rest_framework.request import Request

from noontide.server.problems import Problem

FILE_FORM = {
    "multipart/form-data": {
        "type": "object",
        "properties": {"file": {"type": "string", "format": "binary"}},
        "required": ["file"],
    }
}


def uploaded(request: Request, largest: int, title: str = "The file is too large") -> UploadedFile:
    """The form's file.

    Raises
    ------
    Problem
        If there is none, or it has more bytes than `largest`.
    """
    given = request.FILES.get("file")
    if given is None:
        raise Problem(422, "no-file", "A file is needed", "Send it as the field 'file' of a form.")
    if given.size > largest:
        raise Problem(413, "too-large", title, f"The limit is {largest / 1e6:.0f} MB.")
    return given
