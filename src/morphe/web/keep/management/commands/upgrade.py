"""Bring the database up to this version; what it was before is kept as a copy."""

from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management import call_command
from django.core.management.base import BaseCommand
from django.db import connection
from django.db.migrations.executor import MigrationExecutor
from django.utils import timezone

from morphe.web.keep.services.restore import take_back_half
from morphe.web.keep.services.snapshot import snapshot


class Command(BaseCommand):
    help = "Migrate the database, after a copy of it was laid aside if anything is to be changed."

    def handle(self, *args: Any, **options: Any) -> None:
        connection.close()
        if take_back_half(Path(settings.HOME), Path(settings.MEDIA_ROOT)):
            self.stdout.write("  A restore had not come to its end; everything is as it was before it.")
        executor = MigrationExecutor(connection)
        steps = executor.migration_plan(executor.loader.graph.leaf_nodes())
        if steps and executor.loader.applied_migrations:
            folder = Path(settings.HOME) / "before-upgrade"
            folder.mkdir(exist_ok=True)
            copy = folder / f"morphe-{timezone.localtime():%Y-%m-%d-%H%M%S}.sqlite3"
            snapshot(Path(str(settings.DATABASES["default"]["NAME"])), copy)
            self.stdout.write(f"  The database is brought up to date; as it was, it lies in {copy}.")
        call_command("migrate", verbosity=0)
