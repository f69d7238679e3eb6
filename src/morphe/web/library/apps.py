from django.apps import AppConfig


class LibraryConfig(AppConfig):
    name = "morphe.web.library"
