"""Load the demo outing at a first start."""

from typing import Any

from django.core.management.base import BaseCommand

from morphe.web.today.services.demo import is_wanted, load_demo


class Command(BaseCommand):
    help = "Load the demo outing if there is no outing, and nobody threw it away."

    def handle(self, *args: Any, **options: Any) -> None:
        if is_wanted():
            outing = load_demo()
            self.stdout.write(f"Demo outing loaded: {outing.clips.count()} clips, to be read by the worker.")
