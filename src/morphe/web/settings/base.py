"""Every setting with what it is for. The environment is read here and nowhere else."""

from __future__ import annotations

import os
import secrets
from pathlib import Path

from morphe.web.network import addresses

PACKAGE = Path(__file__).resolve().parents[1]

# Everything the application writes lives under one folder.
HOME = Path(os.environ.get("MORPHE_HOME", "var")).resolve()
HOME.mkdir(parents=True, exist_ok=True)


def _secret_key() -> str:
    """The key made on first run and kept beside the data, readable by its owner alone."""
    path = HOME / "secret_key"
    if not path.exists():
        path.touch(mode=0o600)
        path.write_text(secrets.token_urlsafe(50))
    return path.read_text()


SECRET_KEY = os.environ.get("MORPHE_SECRET_KEY") or _secret_key()
DEBUG = os.environ.get("MORPHE_DEBUG") == "1"
# "own" answers on this computer alone; "network" answers paired devices, over TLS.
ENTRY = os.environ.get("MORPHE_ENTRY", "own")
PAPERS = HOME / "papers"  # the root that was made here, and this computer's certificate
RUN = os.environ.get("MORPHE_RUN", "")  # names the start that a server belongs to
PORT = int(os.environ.get("MORPHE_PORT", "8100"))
NETWORK_PORT = int(os.environ.get("MORPHE_NETWORK_PORT", PORT + 1))
ALLOWED_HOSTS = ["127.0.0.1", "localhost", "[::1]"] if ENTRY == "own" else list(addresses())
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = ENTRY == "network"

INSTALLED_APPS = [
    "whitenoise.runserver_nostatic",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.messages",
    "django.contrib.staticfiles",
    "django_htmx",
    "huey.contrib.djhuey",
    "morphe.web.shell",
    "morphe.web.jobs",
    "morphe.web.outings",
    "morphe.web.clips",
    "morphe.web.library",
    "morphe.web.plan",
    "morphe.web.bench",
    "morphe.web.match",
    "morphe.web.handover",
    "morphe.web.logbook",
    "morphe.web.practice",
    "morphe.web.keep",
    "morphe.web.devices",
    "morphe.web.today",
]

MIDDLEWARE = [
    "morphe.web.devices.middleware.Gate",  # before all that answers: statics are behind it too
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "morphe.web.shell.middleware.ContentSecurityPolicy",
    "morphe.web.shell.middleware.AskedAnew",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.messages.middleware.MessageMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "django_htmx.middleware.HtmxMiddleware",
    "morphe.web.shell.middleware.Told",
]

ROOT_URLCONF = "morphe.web.urls"
WSGI_APPLICATION = "morphe.web.wsgi.application"

TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "APP_DIRS": True,
        "OPTIONS": {
            "context_processors": [
                "django.template.context_processors.request",
                "django.contrib.messages.context_processors.messages",
                "morphe.web.shell.context.places",
            ],
        },
    }
]

DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.sqlite3",
        "NAME": HOME / "morphe.sqlite3",
        "CONN_MAX_AGE": None,  # to open it anew takes ten times as long as to ask it
        "OPTIONS": {
            # Readers and the writer do not block each other; a second writer waits.
            "init_command": "PRAGMA journal_mode=WAL; PRAGMA synchronous=NORMAL;",
            "transaction_mode": "IMMEDIATE",
            "timeout": 20,
        },
    }
}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"

# Other machines that work for this one share this folder, and take pieces from a Redis.
MEDIA_ROOT = Path(os.environ.get("MORPHE_MEDIA") or HOME / "media").resolve()
QUEUE_URL = os.environ.get("MORPHE_QUEUE", "")
JOBS_HERE = 2  # that this machine works on at once
JOBS_ELSEWHERE = 6 if QUEUE_URL else 0  # that may wait for other machines meanwhile
BACKUPS = HOME / "backups"
FILE_UPLOAD_TEMP_DIR = HOME / "uploads"
FILE_UPLOAD_TEMP_DIR.mkdir(exist_ok=True)
FILE_UPLOAD_MAX_MEMORY_SIZE = 1_000_000  # larger uploads go straight to disk
DATA_UPLOAD_MAX_MEMORY_SIZE = 5_000_000  # a grade, and other form data apart from files
DATA_UPLOAD_MAX_NUMBER_FIELDS = 4000  # a whole card of ticked clips
UPLOAD_MAX_BYTES = int(os.environ.get("MORPHE_UPLOAD_MAX_BYTES", 64 * 10**9))

# Folders that are cards, and folders below which cards are mounted; others can be typed from this computer.
CARD_FOLDERS = [
    HOME / "demo-card",
    *(Path(p) for p in os.environ.get("MORPHE_CARDS", "").split(os.pathsep) if p),
]
CARD_ROOTS = [Path("/media"), Path("/mnt"), Path("/run/media") / os.environ.get("USER", "")]
# Folders that clips may be brought in from, with all below them; Morphe's own is never among them.
IMPORT_ROOTS = [
    Path.home(),
    *CARD_ROOTS,
    *(Path(p) for p in os.environ.get("MORPHE_IMPORT_FROM", "").split(os.pathsep) if p),
]

STATIC_URL = "static/"
STATICFILES_DIRS = [("fonts", PACKAGE.parent / "core" / "typefaces")]  # titles are drawn in them too
STATIC_ROOT = HOME / "static"
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {"BACKEND": "whitenoise.storage.CompressedManifestStaticFilesStorage"},
}

HUEY = {
    "huey_class": "huey.SqliteHuey",
    "name": "morphe",
    "filename": str(HOME / "queue.sqlite3"),
    "immediate": False,
    "consumer": {"workers": JOBS_HERE + JOBS_ELSEWHERE, "worker_type": "thread", "periodic": False,
                 "initial_delay": 0.05, "max_delay": 0.5},
}  # fmt: skip

STALL_S = float(os.environ.get("MORPHE_STALL_S", 30))  # a browser that sends or takes nothing is let go
DISK_SPARE_BYTES = int(os.environ.get("MORPHE_DISK_SPARE", 100 * 10**6))  # with less left, work waits

# A running job whose heartbeat is older than this was left by a worker that died.
JOB_STALE_S = float(os.environ.get("MORPHE_JOB_STALE_S", 12))
JOB_BEAT_S = min(2.0, JOB_STALE_S / 4)
# A child of the worker that gives no sign of life for so long is ended; three times, and its job has failed.
JOB_STALL_S = float(os.environ.get("MORPHE_JOB_STALL_S", 15))
CAGE_MEMORY_BYTES = int(os.environ.get("MORPHE_CAGE_MEMORY", 4 * 10**9))  # what one child may take
CHILD_NICENESS = int(os.environ.get("MORPHE_NICENESS", 10))  # of 19: whoever waits for a page comes first
CHILD_KEEPS_BYTES = 200 * 10**6  # with more after a job, it makes room for a new one

USE_TZ = True
TIME_ZONE = os.environ.get("TZ") or "UTC"
LANGUAGE_CODE = "en-gb"

SESSION_COOKIE_SAMESITE = CSRF_COOKIE_SAMESITE = "Strict"
SECURE_CONTENT_TYPE_NOSNIFF = True
X_FRAME_OPTIONS = "DENY"
CONTENT_SECURITY_POLICY = (
    "default-src 'self'; img-src 'self' data: blob:; media-src 'self' blob:; "
    "style-src 'self'; script-src 'self'; object-src 'none'; base-uri 'none'; "
    "frame-ancestors 'none'; form-action 'self'"
)

LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "handlers": {"console": {"class": "logging.StreamHandler"}},
    "root": {"handlers": ["console"], "level": "WARNING"},
    "loggers": {"morphe": {"level": "INFO"}, "huey": {"level": "WARNING"}},
}
