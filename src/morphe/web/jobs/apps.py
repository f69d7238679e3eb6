from django.apps import AppConfig


class JobsConfig(AppConfig):
    name = "morphe.web.jobs"

    def ready(self) -> None:
        from morphe.web.jobs.kinds import BEFORE_THE_CAGE
        from morphe.web.jobs.services.machines import connect

        if connect not in BEFORE_THE_CAGE:
            BEFORE_THE_CAGE.append(connect)
