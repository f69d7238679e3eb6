"""Settings for tests: a home of their own, tasks run by hand or by a worker the test starts."""

from __future__ import annotations

import os
import tempfile

if (
    "MORPHE_HOME" not in os.environ or "PYTEST_XDIST_WORKER" in os.environ
):  # each worker has a home of its own
    os.environ["MORPHE_HOME"] = tempfile.mkdtemp(prefix="morphe-test-")
os.environ.setdefault("DJANGO_ALLOW_ASYNC_UNSAFE", "true")  # Playwright's loop runs in the test's thread

from morphe.web.settings.base import *  # noqa: F403
from morphe.web.settings.base import ALLOWED_HOSTS, DATABASES, HOME, HUEY, STORAGES

PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
STORAGES["staticfiles"] = {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"}
DATABASES["default"]["TEST"] = {"NAME": str(HOME / "test.sqlite3")}
HUEY["immediate"] = False
if "MORPHE_JOB_STALE_S" not in os.environ:
    JOB_BEAT_S = 600  # a test's transaction holds the database; a heart beating beside it would wait for it
ALLOWED_HOSTS = [*ALLOWED_HOSTS, "testserver"]
WHITENOISE_AUTOREFRESH = True
