from django.apps import AppConfig


class ShellConfig(AppConfig):
    name = "morphe.web.shell"
