from typing import Any

from django.apps import AppConfig


class ClipsConfig(AppConfig):
    name = "morphe.web.clips"

    def ready(self) -> None:
        from morphe.web.clips import models, signals
        from morphe.web.clips.jobs import register
        from morphe.web.clips.services.grades.habits import learn_habits
        from morphe.web.clips.services.intake.uploads import forget_stale, names_of_parts
        from morphe.web.jobs.services.ask import watched
        from morphe.web.jobs.services.sweep import KEEPING
        from morphe.web.outings.models import Camera, Outing
        from morphe.web.shell.changes import PIECES, steps, work

        def tidy(**rest: Any) -> None:
            forget_stale()

        def learn(clip: Any, **rest: Any) -> None:
            learn_habits(clip)

        register()
        signals.decided.connect(learn, weak=False, dispatch_uid="clips-habits")
        table = models.Clip._meta.db_table
        judged = ("read", "judge", "sort", "stand", "decide")
        shown = (models.LightGroup, models.Decision, Outing, Camera)
        PIECES["cards"] = (table, *(m._meta.db_table for m in shown), *map(work, judged))
        PIECES["preparing"] = (table, work("play"))
        PIECES["imports"] = (models.CardImport._meta.db_table, work("import"), steps("import"))
        KEEPING.append(names_of_parts)
        watched.connect(tidy, weak=False, dispatch_uid="clips")
