"""What every answer must carry so that other sites cannot reach in, static files and error pages included."""

import secrets
from collections.abc import Callable

from asgiref.sync import iscoroutinefunction, markcoroutinefunction
from django.http import HttpRequest, HttpResponse

# Styles come from this server, or with the page's own nonce; charts set style attributes on what they draw.
POLICY = (
    "default-src 'self'; style-src 'self' 'nonce-{nonce}'; style-src-attr 'unsafe-inline'; img-src 'self' data: blob:; font-src 'self' data:; "
    "object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'"
)
FIXED = {
    "Permissions-Policy": "camera=(), geolocation=(), microphone=(), payment=(), usb=()",
    "Cross-Origin-Resource-Policy": "same-origin",
    "Cross-Origin-Opener-Policy": "same-origin",
    "X-Frame-Options": "DENY",
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "same-origin",
}


class SecurityHeaders:
    """Middleware, the outermost: nothing leaves without these headers."""

    sync_capable = async_capable = True

    def __init__(self, get_response: Callable):
        self.get_response = get_response
        if iscoroutinefunction(get_response):
            markcoroutinefunction(self)

    def __call__(self, request: HttpRequest):
        request.style_nonce = secrets.token_urlsafe(12)
        if request.path_info == "/index.html":
            # The page is made for each request, with its nonce; the file beside the static ones is its pattern.
            request.path = request.path_info = "/"
        if iscoroutinefunction(self):
            return self._later(request)
        return self._with_headers(request, self.get_response(request))

    async def _later(self, request: HttpRequest) -> HttpResponse:
        return self._with_headers(request, await self.get_response(request))

    def _with_headers(self, request: HttpRequest, response: HttpResponse) -> HttpResponse:
        response.headers["Content-Security-Policy"] = POLICY.format(nonce=request.style_nonce)
        for name, value in FIXED.items():
            response.headers[name] = value
        if request.path.startswith("/api/"):
            response.headers.setdefault("Cache-Control", "no-store")
        return response
