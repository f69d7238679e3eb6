"""Bring a backup back: `python -m morphe.web.manage restore FILE`, while Morphe is not running."""

from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand, CommandError, CommandParser

from morphe.core.errors import MorpheError
from morphe.web.keep.services.restore import restore
from morphe.web.serve import locked


class Command(BaseCommand):
    help = "Put a backup in the place of the data that is there, which is kept beside it."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file", type=Path)
        parser.add_argument("--held", action="store_true", help="whoever calls holds the data folder already")

    def handle(self, *args: Any, file: Path, held: bool, **options: Any) -> None:
        lock = None if held else locked(settings.HOME)
        if lock is None and not held:
            raise CommandError(f"Morphe is running in {settings.HOME}; end it first, or restore on its page.")
        try:
            old = restore(file, settings.HOME, Path(settings.MEDIA_ROOT))
        except MorpheError as error:
            raise CommandError(str(error)) from error
        finally:
            if lock is not None:
                lock.close()
        self.stdout.write(f"{file.name} is brought back. What was there before lies in {old}.")
