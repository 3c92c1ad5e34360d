"""A file that is made of a scheme, as an answer."""

from django.http import HttpResponse

from noontide.server.projects.models import Scheme


def scheme_file(content: str | bytes, content_type: str, scheme: Scheme, name: str, ending: str) -> HttpResponse:
    """A file to be kept, named for the scheme and its revision."""
    answer = HttpResponse(content, content_type=content_type)
    answer.headers["Content-Disposition"] = (
        f'attachment; filename="{name}-scheme-{scheme.letter}-revision-{scheme.head.number}.{ending}"'
    )
    return answer
