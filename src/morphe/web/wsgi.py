"""WSGI entry point."""

import os

from django.core.wsgi import get_wsgi_application
from tzfpy import get_tz

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "morphe.web.settings.base")
application = get_wsgi_application()
get_tz(0.0, 0.0)  # its map of zones is read at the first question, which no person should wait for
