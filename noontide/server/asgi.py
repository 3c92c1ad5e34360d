"""Entry point of the ASGI server."""

import os

import django

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "noontide.server.settings")
django.setup(set_prefix=False)

from noontide.server.request_threads import Requests  # noqa: E402  Django must be set up first.

application = Requests()
