"""Pictures of the user's own that lie on the map, kept by the hash of their content.

A picture belongs to the design that names its hash; whoever has the design has the picture.
"""

import hashlib
from pathlib import Path

from django.conf import settings
from django.http import FileResponse
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from pydantic import BaseModel
from rest_framework.parsers import MultiPartParser
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from noontide.core.picture_types import picture_type
from noontide.server.files import write_whole
from noontide.server.problems import Problem
from noontide.server.uploads import FILE_FORM, uploaded

LARGEST = 24 * 1024 * 1024  # bytes


class PictureAnswer(BaseModel):
    """A picture that is kept."""

    digest: str
    kind: str


def path_of(digest: str) -> Path:
    """Where a picture is kept."""
    return settings.DATA / "pictures" / digest[:2] / digest


def kept_pictures() -> list[Path]:
    """All pictures that are kept."""
    return sorted(path for path in (settings.DATA / "pictures").glob("??/*") if path.is_file() and len(path.name) == 64)


class PicturesView(APIView):
    parser_classes = [MultiPartParser]

    @extend_schema(
        request=FILE_FORM,
        responses={201: PictureAnswer},
        operation_id="store_picture",
    )
    def post(self, request: Request) -> Response:
        """Keep a picture: PNG, JPEG or WebP."""
        content = uploaded(request, LARGEST, "The picture is too large").read()
        if (kind := picture_type(content)) is None:
            raise Problem(422, "no-picture", "The file is no picture", "Use PNG, JPEG or WebP.")
        digest = hashlib.sha256(content).hexdigest()
        if not path_of(digest).exists():
            write_whole(path_of(digest), content)
        return Response(PictureAnswer(digest=digest, kind=kind).model_dump(), status=201)


class PictureView(APIView):
    @extend_schema(
        responses={(200, kind): OpenApiTypes.BINARY for kind in ("image/png", "image/jpeg", "image/webp")},
        operation_id="picture",
    )
    def get(self, request: Request, digest: str) -> FileResponse:
        """A picture that was kept."""
        path = path_of(digest)
        if len(digest) != 64 or not path.is_file():
            raise Problem(404, "not-found", "No such picture", "Load it again.")
        with path.open("rb") as file:
            kind = picture_type(file.read(16))
        return FileResponse(path.open("rb"), content_type=kind, headers={"Cache-Control": "private, max-age=31536000, immutable"})
