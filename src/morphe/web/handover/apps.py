from django.apps import AppConfig


class HandoverConfig(AppConfig):
    name = "morphe.web.handover"
