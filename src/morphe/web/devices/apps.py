from django.apps import AppConfig


class DevicesConfig(AppConfig):
    name = "morphe.web.devices"
