from django.apps import AppConfig


class BenchConfig(AppConfig):
    name = "morphe.web.bench"

    def ready(self) -> None:
        from morphe.web.bench.services.follow import work
        from morphe.web.clips.models import Clip, GradeVersion
        from morphe.web.jobs.kinds import KINDS, Kind
        from morphe.web.shell import changes

        if "track" not in KINDS:
            sentence = "The region could not be followed; move it by hand."
            KINDS.register("track")(Kind(key="track", work=work, priority=2, sentence=sentence))
        changes.PIECES["grade"] = (GradeVersion._meta.db_table, Clip._meta.db_table)
        changes.PIECES["drift"] = (Clip._meta.db_table, changes.work("play"))
        changes.PIECES["following"] = (changes.work("track"), changes.steps("track"))
