from django.apps import AppConfig


class MatchConfig(AppConfig):
    name = "morphe.web.match"

    def ready(self) -> None:
        from morphe.web.jobs.kinds import KINDS, Kind
        from morphe.web.match.models import Matching, PinnedFrame
        from morphe.web.match.services.matching import work
        from morphe.web.shell.changes import PIECES
        from morphe.web.shell.changes import work as news_of

        if "match" not in KINDS:
            sentence = "The clip could not be matched; choose another reference and try again."
            KINDS.register("match")(Kind(key="match", work=work, priority=7, sentence=sentence))
        PIECES["matching"] = (Matching._meta.db_table, PinnedFrame._meta.db_table, news_of("match"))
