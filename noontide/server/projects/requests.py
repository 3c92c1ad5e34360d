"""What the views of projects share: finding what is asked for, and reading headers."""

import re
import uuid

from django.shortcuts import get_object_or_404
from drf_spectacular.utils import OpenApiParameter
from rest_framework.request import Request

from noontide.server.problems import Problem
from noontide.server.projects.models import Project, Scheme

IF_MATCH = OpenApiParameter(
    "If-Match", str, OpenApiParameter.HEADER, required=True, description='the revision the edit is based on, such as "3"'
)
EDIT = OpenApiParameter(
    "Edit", str, OpenApiParameter.HEADER, description="a UUID: the edits that bear the same one are one revision and one undo"
)
_REVISION = re.compile(r'(?:W/)?"?([0-9]{1,15})"?', re.ASCII)


def project_of(request: Request, project_id: int) -> Project:
    """A project that is there and visible to the user."""
    return get_object_or_404(Project.objects.visible_to(request.user).select_related("pinned"), pk=project_id, deleted=None)


def scheme_of(request: Request, scheme_id: int) -> Scheme:
    """A scheme that is there and visible to the user."""
    living = Scheme.objects.visible_to(request.user).filter(deleted=None, project__deleted=None)
    return get_object_or_404(living, pk=scheme_id)


def if_match(request: Request) -> int:
    """The revision that an edit is based on."""
    given = request.headers.get("If-Match", "").strip()
    found = _REVISION.fullmatch(given)
    if not found:
        raise Problem(
            428,
            "precondition-required",
            "If-Match is needed",
            'Send the revision that the edit is based on, such as If-Match: "3".',
        )
    return int(found[1])


def gesture(request: Request) -> str:
    """The gesture that an edit belongs to, empty for one that stands alone."""
    given = request.headers.get("Edit", "").strip()
    if not given:
        return ""
    try:
        return str(uuid.UUID(given))
    except ValueError:
        raise Problem(400, "bad-header", "Edit must be a UUID", "Send a UUID, or leave the header out.") from None


def object_of(request: Request) -> dict:
    """The JSON object of a request's body."""
    if not isinstance(request.data, dict):
        raise Problem(422, "invalid-body", "A JSON object is needed")
    return request.data
