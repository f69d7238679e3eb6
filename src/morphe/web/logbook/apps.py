from django.apps import AppConfig


class LogbookConfig(AppConfig):
    name = "morphe.web.logbook"
