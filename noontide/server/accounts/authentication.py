"""Who asks: without a login, the local user."""

from drf_spectacular.extensions import OpenApiAuthenticationExtension
from rest_framework.authentication import BaseAuthentication
from rest_framework.request import Request

from noontide.server.accounts.models import User, local_user


class LocalUser(BaseAuthentication):
    """Every request is the local user's. That it comes from our own pages is checked before, in `guard`."""

    def authenticate(self, request: Request) -> tuple[User, None]:
        return local_user(), None


class LocalUserScheme(OpenApiAuthenticationExtension):
    """How the API schema describes the token of writing requests."""

    target_class = "noontide.server.accounts.authentication.LocalUser"
    name = "csrfToken"

    def get_security_definition(self, auto_schema: object) -> dict:
        return {
            "type": "apiKey",
            "in": "header",
            "name": "X-CSRFToken",
            "description": "Value of the csrftoken cookie, for writing requests.",
        }
