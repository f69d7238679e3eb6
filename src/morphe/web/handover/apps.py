from django.apps import AppConfig


class HandoverConfig(AppConfig):
    name = "morphe.web.handover"

    def ready(self) -> None:
        from morphe.web.handover.models import HandOver
        from morphe.web.handover.services.run import keep_failure, work
        from morphe.web.jobs.kinds import KINDS, Kind
        from morphe.web.shell.changes import PIECES, steps
        from morphe.web.shell.changes import work as news_of

        if "hand-over" not in KINDS:
            sentence = "The clip could not be rendered; nothing was changed. Try again."
            KINDS.register("hand-over")(
                Kind(key="hand-over", work=work, failed=keep_failure, sentence=sentence)
            )
        PIECES["queue"] = (HandOver._meta.db_table, news_of("hand-over"))
        PIECES["rendering"] = (news_of("hand-over"), steps("hand-over"))
