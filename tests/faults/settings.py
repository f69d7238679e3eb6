"""The settings of a Morphe whose decoder has faults."""

import os

from morphe.web.settings.base import *  # noqa: F403
from morphe.web.settings.base import INSTALLED_APPS

INSTALLED_APPS = [*INSTALLED_APPS, "tests.faults.apps.FaultsConfig"]
JOB_STALL_S = float(os.environ.get("MORPHE_JOB_STALL_S", 5))
CAGE_MEMORY_BYTES = 10**9
