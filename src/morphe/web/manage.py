"""Django's commands: `python -m morphe.web.manage …`."""

import os
import sys

from django.core.management import execute_from_command_line

if __name__ == "__main__":
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "morphe.web.settings.base")
    execute_from_command_line(sys.argv)
