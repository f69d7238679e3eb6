from django.apps import AppConfig


class JobsConfig(AppConfig):
    name = "morphe.web.jobs"
