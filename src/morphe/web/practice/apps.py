from django.apps import AppConfig


class PracticeConfig(AppConfig):
    name = "morphe.web.practice"

    def ready(self) -> None:
        from morphe.web.bench.services.aside import ASIDES
        from morphe.web.clips.services.wall.tolerance import OWN_TOLERANCES
        from morphe.web.jobs.kinds import KINDS, Kind
        from morphe.web.practice.services import mends, prepared
        from morphe.web.practice.services.eyes import own_tolerance

        if prepared.KIND in KINDS:
            return
        KINDS.register(prepared.KIND)(Kind(key=prepared.KIND, work=prepared.work, priority=-2))
        sentence = "The clip to mend could not be made; try another."
        KINDS.register(mends.KIND)(
            Kind(key=mends.KIND, work=mends.work, failed=mends.keep_failure, sentence=sentence, priority=-2)
        )
        ASIDES.append(mends.aside_of)
        OWN_TOLERANCES.append(own_tolerance)
