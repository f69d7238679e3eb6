"""Write a backup: `python -m morphe.web.manage backup FILE [--media]`."""

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from morphe.core.errors import MorpheError
from morphe.web.keep.services.backup import write_backup


class Command(BaseCommand):
    help = "Write everything that was decided and brought in into one file."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file", type=Path, help="where to; it must not be there yet")
        parser.add_argument("--media", action="store_true", help="with the clips and what was handed over")

    def handle(self, *args: Any, file: Path, media: bool, **options: Any) -> None:
        try:
            write_backup(file.resolve(), with_media=media)
        except MorpheError as error:
            raise CommandError(str(error)) from error
        except OSError as error:
            sentence = f"{file} cannot be written ({error.strerror}); choose another place."
            raise CommandError(sentence) from error
        self.stdout.write(f"{file} is written, {file.stat().st_size / 1e6:.1f} MB.")
