"""Entry point of the ASGI server."""

import os

from django.core.asgi import get_asgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "noontide.server.settings")
application = get_asgi_application()
