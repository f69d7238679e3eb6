"""WSGI entry point."""

import gc
import logging
import os
import signal
from collections.abc import Iterable
from typing import Any

from django.conf import settings
from django.core.wsgi import get_wsgi_application
from django.urls import get_resolver

from morphe.web.serve import die_with_parent

die_with_parent(signal.SIGKILL)  # one that outlives whoever began it would hold its port
os.environ.setdefault("DJANGO_SETTINGS_MODULE", "morphe.web.settings.base")
_answered = get_wsgi_application()
get_resolver().url_patterns  # noqa: B018  # all views are loaded now, not at the first request
# What was loaded stays for good: looking through all of it for rubbish would hold a page up for a third of a
# second now and then.
gc.collect()
gc.freeze()


def application(environ: dict[str, Any], start_response: Any) -> Iterable[bytes]:
    """Answer. Whoever sends or takes nothing for a while is let go: few phones that sleep would stop all."""
    if (line := environ.get("gunicorn.socket")) is not None:
        line.settimeout(settings.STALL_S)
    return _answered(environ, start_response)


def _is_worth_a_word(record: logging.LogRecord) -> bool:
    return not (record.exc_info and isinstance(record.exc_info[1], TimeoutError))


logging.getLogger("gunicorn.error").addFilter(_is_worth_a_word)
