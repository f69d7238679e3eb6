"""Give work that a dead worker left back to the queue, and forget uploads that nobody goes on with."""

import time
from typing import Any

from django.core.management.base import BaseCommand, CommandParser

from morphe.web.clips.services.uploads import forget_stale
from morphe.web.handover.services.queue import rescue


class Command(BaseCommand):
    help = "Give work whose worker died back to the queue."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--every", type=float, default=0, help="seconds between rounds; 0 is one round")

    def handle(self, *args: Any, every: float, **options: Any) -> None:
        while True:
            rescue()
            forget_stale()
            if not every:
                return
            time.sleep(every)
