from typing import Any

from django.apps import AppConfig


class PlanConfig(AppConfig):
    name = "morphe.web.plan"

    def ready(self) -> None:
        from morphe.web.clips import signals
        from morphe.web.jobs.kinds import KINDS, Kind
        from morphe.web.plan.models import TakeCheck
        from morphe.web.plan.services import checks
        from morphe.web.plan.services.lessons import learn
        from morphe.web.plan.services.meet import meet, meet_take, work
        from morphe.web.shell.changes import PIECES

        def take(clip: Any, **rest: Any) -> None:
            meet_take(clip)

        def against_plan(clip: Any, **rest: Any) -> None:
            meet(clip)

        def lesson(clip: Any, **rest: Any) -> None:
            learn(clip)

        signals.origin_found.connect(take, weak=False, dispatch_uid="plan-take")
        signals.judged.connect(against_plan, weak=False, dispatch_uid="plan-meet")
        signals.decided.connect(lesson, weak=False, dispatch_uid="plan-learn")
        if "meet" not in KINDS:
            KINDS.register("meet")(Kind(key="meet", work=work, priority=5))
            sentence = "This could not be looked at; film a few seconds again, or choose another."
            KINDS.register(checks.KIND)(
                Kind(
                    key=checks.KIND, work=checks.work, failed=checks.keep_failure, priority=20,
                    sentence=sentence,
                )
            )  # fmt: skip
        PIECES["takecheck"] = (TakeCheck._meta.db_table,)
