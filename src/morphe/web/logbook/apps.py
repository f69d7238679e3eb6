from typing import Any

from django.apps import AppConfig


class LogbookConfig(AppConfig):
    name = "morphe.web.logbook"

    def ready(self) -> None:
        from morphe.web.clips.models import Clip
        from morphe.web.logbook.services.record import record
        from morphe.web.shell.notes import noted

        def keep(
            sender: Any, about: Any, kind: str, sentence: str, numbers: dict[str, Any], **more: Any
        ) -> None:
            record(about, kind, sentence, **numbers)

        noted.connect(keep, sender=Clip, weak=False, dispatch_uid="logbook")
