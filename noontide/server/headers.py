"""What every answer and every request must carry so that other sites cannot reach in."""

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse
from drf_spectacular.extensions import OpenApiAuthenticationExtension
from rest_framework.authentication import SessionAuthentication
from rest_framework.request import Request

# Charts and the theme set styles on elements; scripts come from this server alone.
POLICY = "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; font-src 'self' data:; object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'"


def content_security_policy(get_response: Callable[[HttpRequest], HttpResponse]) -> Callable[[HttpRequest], HttpResponse]:
    """Middleware: allow nothing in a page but what this server sends."""

    def middleware(request: HttpRequest) -> HttpResponse:
        response = get_response(request)
        response.headers.setdefault("Content-Security-Policy", POLICY)
        return response

    return middleware


class CrossSiteGuard(SessionAuthentication):
    """No accounts yet, but every writing request must show the token that only our own pages can read."""

    def authenticate(self, request: Request) -> None:
        self.enforce_csrf(request)


class CrossSiteGuardScheme(OpenApiAuthenticationExtension):
    """How the API schema tells of the token."""

    target_class = "noontide.server.headers.CrossSiteGuard"
    name = "csrfToken"

    def get_security_definition(self, auto_schema: object) -> dict:
        return {
            "type": "apiKey",
            "in": "header",
            "name": "X-CSRFToken",
            "description": "Value of the csrftoken cookie, for writing requests.",
        }
