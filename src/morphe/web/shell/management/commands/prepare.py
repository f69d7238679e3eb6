"""What comes before the first page: database, static files, kernels and demo, in one process."""

from typing import Any

from django.core.management import call_command
from django.core.management.base import BaseCommand

from morphe.core.handover.warm_up import warm_up_once

STEPS = (
    ("Database", lambda: call_command("upgrade")),
    ("Static files", lambda: call_command("collectstatic", interactive=False, verbosity=0)),
    ("Kernels", warm_up_once),
    ("Demo outing", lambda: call_command("load_demo")),
)


class Command(BaseCommand):
    help = "Prepare a start, a line for each step; what was done before passes through quickly."

    def handle(self, *args: Any, **options: Any) -> None:
        for label, work in STEPS:
            self.stdout.write(f"  {label} …")
            self.stdout.flush()
            work()
