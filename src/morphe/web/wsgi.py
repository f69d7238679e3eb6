"""WSGI entry point."""

import gc
import os

from django.core.wsgi import get_wsgi_application
from django.urls import get_resolver

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "morphe.web.settings.base")
application = get_wsgi_application()
get_resolver().url_patterns  # noqa: B018  # all views are loaded now, not at the first request
# What was loaded stays for good: looking through all of it for rubbish would hold a page up for a third of a
# second now and then.
gc.collect()
gc.freeze()
