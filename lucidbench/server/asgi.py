"""The application as the server runs it."""

import os

from django.core.asgi import get_asgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "lucidbench.server.settings")
application = get_asgi_application()
