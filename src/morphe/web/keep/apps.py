from django.apps import AppConfig


class KeepConfig(AppConfig):
    name = "morphe.web.keep"

    def ready(self) -> None:
        from morphe.web.jobs.kinds import KINDS, Kind
        from morphe.web.keep.models import Backup
        from morphe.web.keep.services import backup
        from morphe.web.shell.changes import PIECES, steps, work

        if backup.KIND not in KINDS:
            kind = Kind(
                key=backup.KIND, work=backup.work, failed=backup.keep_failure, patience=4,
                sentence="The backup could not be written; look at the room on the disk and try again.",
            )  # fmt: skip
            KINDS.register(kind.key)(kind)
        PIECES["backups"] = (Backup._meta.db_table, work(backup.KIND), steps(backup.KIND))
