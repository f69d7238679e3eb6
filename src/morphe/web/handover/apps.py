from django.apps import AppConfig


class HandoverConfig(AppConfig):
    name = "morphe.web.handover"

    def ready(self) -> None:
        from morphe.web.handover.models import Dropped, HandOver
        from morphe.web.handover.services import drop_in
        from morphe.web.handover.services.run import keep_failure, work
        from morphe.web.jobs.kinds import KINDS, Kind
        from morphe.web.jobs.services.ask import watched
        from morphe.web.shell.changes import PIECES, steps
        from morphe.web.shell.changes import work as news_of

        if drop_in.KIND not in KINDS:
            sentence = "The clip could not be handed back; nothing was changed. Put it there again."
            KINDS.register(drop_in.KIND)(
                Kind(key=drop_in.KIND, work=drop_in.work, failed=drop_in.keep_failure, sentence=sentence)
            )
            watched.connect(drop_in.look, weak=False, dispatch_uid="drop-in")
        if "hand-over" not in KINDS:
            sentence = "The clip could not be rendered; nothing was changed. Try again."
            KINDS.register("hand-over")(
                Kind(key="hand-over", work=work, failed=keep_failure, sentence=sentence)
            )
        PIECES["dropped"] = (Dropped._meta.db_table, news_of(drop_in.KIND))
        PIECES["queue"] = (HandOver._meta.db_table, news_of("hand-over"))
        PIECES["rendering"] = (news_of("hand-over"), steps("hand-over"))
