"""What a dropped file is, before anything is done with it."""

from django.conf import settings
from drf_spectacular.utils import extend_schema
from pydantic import BaseModel, Field
from rest_framework.parsers import MultiPartParser
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from noontide.core.recognising import EXAMPLES, PLACES, FileKind, recognise_file
from noontide.server.list_of import list_of
from noontide.server.uploads import FILE_FORM, read_apart, uploaded


class FileGuessAnswer(BaseModel):
    """What a file is taken for."""

    kind: FileKind
    parts: str = Field(description="of a list of parts, their kind")
    words: str = Field(description="what it is, and where it goes")


class KindLine(BaseModel):
    """A kind of file that can be brought in."""

    kind: FileKind
    what: str
    place: str = Field(description="what becomes of it")


class RecogniseView(APIView):
    parser_classes = [MultiPartParser]

    @extend_schema(responses=list_of(KindLine), operation_id="file_kinds")
    def get(self, request: Request) -> Response:
        """What can be brought in."""
        return Response([KindLine(kind=kind, what=what, place=PLACES[kind]).model_dump() for kind, what in EXAMPLES.items()])

    @extend_schema(request=FILE_FORM, responses=FileGuessAnswer, operation_id="recognise_file")
    def post(self, request: Request) -> Response:
        """What a file is by its content, and where it would go; nothing is kept."""
        given = uploaded(request, settings.UPLOAD_LIMIT)
        found = read_apart(recognise_file, given.read(), (given.name or "")[:120])
        return Response(FileGuessAnswer(kind=found.kind, parts=found.parts, words=found.words).model_dump())
