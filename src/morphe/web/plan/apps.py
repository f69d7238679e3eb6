from typing import Any

from django.apps import AppConfig


class PlanConfig(AppConfig):
    name = "morphe.web.plan"

    def ready(self) -> None:
        from morphe.web.clips import signals
        from morphe.web.jobs.kinds import KINDS, Kind
        from morphe.web.plan.services.lessons import learn
        from morphe.web.plan.services.meet import meet, meet_take, work

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
