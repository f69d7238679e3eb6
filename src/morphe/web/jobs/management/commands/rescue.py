"""Watch over long work: give back what a dead worker left, and ask for what is owed."""

import time
from typing import Any

from django.core.management.base import BaseCommand, CommandParser

from morphe.web.jobs.services.ask import rescue


class Command(BaseCommand):
    help = "Give work whose worker died back to the queue."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--every", type=float, default=0, help="seconds between rounds; 0 is one round")

    def handle(self, *args: Any, every: float, **options: Any) -> None:
        while True:
            rescue()
            if not every:
                return
            time.sleep(every)
