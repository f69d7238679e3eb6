from typing import Any

from django.apps import AppConfig


class ClipsConfig(AppConfig):
    name = "morphe.web.clips"

    def ready(self) -> None:
        from morphe.web.clips.jobs import register
        from morphe.web.clips.services.uploads import forget_stale, names_of_parts
        from morphe.web.jobs.services.ask import watched
        from morphe.web.jobs.services.sweep import KEEPING

        def tidy(**rest: Any) -> None:
            forget_stale()

        register()
        KEEPING.append(names_of_parts)
        watched.connect(tidy, weak=False, dispatch_uid="clips")
