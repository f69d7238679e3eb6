from django.apps import AppConfig


class OutingsConfig(AppConfig):
    name = "morphe.web.outings"
