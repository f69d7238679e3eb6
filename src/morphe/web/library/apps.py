from pathlib import Path

from django.apps import AppConfig
from django.conf import settings

from morphe.core.grade.table import SHELF


class LibraryConfig(AppConfig):
    name = "morphe.web.library"

    def ready(self) -> None:
        from morphe.web.clips.services.questions.filmed import OWN_PROFILES
        from morphe.web.jobs.kinds import KINDS, Kind
        from morphe.web.library.models import Incoming
        from morphe.web.library.services import incoming
        from morphe.web.library.services.profiles import filmed_as_kept
        from morphe.web.shell.changes import PIECES, steps, work

        SHELF.folder = Path(settings.MEDIA_ROOT) / "tables"
        if filmed_as_kept not in OWN_PROFILES:
            OWN_PROFILES.append(filmed_as_kept)
        if incoming.KIND not in KINDS:
            kind = Kind(
                key=incoming.KIND, work=incoming.work, failed=incoming.keep_failure, owed=incoming.owed,
                priority=7, patience=2, sentence="The file could not be read; choose another one.",
            )  # fmt: skip
            KINDS.register(kind.key)(kind)
        PIECES["incoming"] = (Incoming._meta.db_table, work(incoming.KIND), steps(incoming.KIND))
