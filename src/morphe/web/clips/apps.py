from typing import Any

from django.apps import AppConfig


class ClipsConfig(AppConfig):
    name = "morphe.web.clips"

    def ready(self) -> None:
        from morphe.web.clips.jobs import register
        from morphe.web.clips.services.uploads import forget_stale
        from morphe.web.jobs.services.ask import watched

        def tidy(**rest: Any) -> None:
            forget_stale()

        register()
        watched.connect(tidy, weak=False, dispatch_uid="clips")
