from django.apps import AppConfig


class TodayConfig(AppConfig):
    name = "morphe.web.today"
