from pathlib import Path

from django.apps import AppConfig
from django.conf import settings

from morphe.core.grade.table import SHELF


class LibraryConfig(AppConfig):
    name = "morphe.web.library"

    def ready(self) -> None:
        SHELF.folder = Path(settings.MEDIA_ROOT) / "tables"
