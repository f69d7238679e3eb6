"""Watch over long work: give back what a dead worker left, ask for what is owed, sweep half files."""

import time
from typing import Any

from django.core.management.base import BaseCommand, CommandParser

from morphe.web.jobs.services.ask import rescue
from morphe.web.jobs.services.sweep import sweep

HOUR_S, QUIET_S = 3600.0, 60.0  # what is being written was written to a moment ago


class Command(BaseCommand):
    help = "Give work whose worker died back to the queue."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--every", type=float, default=0, help="seconds between rounds; 0 is one round")

    def handle(self, *args: Any, every: float, **options: Any) -> None:
        swept = time.time()
        sweep(before=swept - QUIET_S)  # whoever wrote these was killed: one Morphe works in a folder
        while True:
            rescue()
            if not every:
                return
            time.sleep(every)
            if time.time() - swept > HOUR_S:
                swept = time.time()
                sweep(before=swept - HOUR_S)
