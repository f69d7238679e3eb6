from django.apps import AppConfig


class ClipsConfig(AppConfig):
    name = "morphe.web.clips"
