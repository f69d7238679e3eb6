from django.apps import AppConfig
from django.db.models.signals import post_migrate


class ShellConfig(AppConfig):
    name = "morphe.web.shell"

    def ready(self) -> None:
        from morphe.web.shell.changes import count_changes

        post_migrate.connect(count_changes, sender=self, dispatch_uid="count-changes")
