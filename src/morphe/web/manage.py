"""Django's commands: `python -m morphe.web.manage …`."""

import os
import sys

INTERRUPTED = 130  # as a shell says it


def main() -> int:
    """Run one; an interrupt ends it without a word, even while it is still being loaded."""
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "morphe.web.settings.base")
    try:
        from django.core.management import execute_from_command_line

        execute_from_command_line(sys.argv)
    except KeyboardInterrupt:
        return INTERRUPTED
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
