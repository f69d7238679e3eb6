"""Load the demo outing if there is no outing yet."""

from datetime import date
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand

from morphe.core.standins.demo import DEMO_CLIPS
from morphe.web.clips.services.bring_in import bring_in_path
from morphe.web.outings.models import Camera, Outing

ABOUT = {
    "Sandpiper": "Drone",
    "Cuttle": "Action camera",
    "Fern": "Phone",
}


class Command(BaseCommand):
    help = "Load the demo outing if the database is empty."

    def handle(self, *args: Any, **options: Any) -> None:
        if Outing.objects.exists():
            return
        outing = Outing.objects.create(
            name="Volunteer day",
            place="Wrenfleet estuary",
            date=date(2026, 9, 12),
            notes="Salt marsh and old sluice from the air, talks at the jetty.",
        )
        cameras = {
            name: Camera.objects.get_or_create(name=name, about=about)[0] for name, about in ABOUT.items()
        }
        folder = Path(settings.PACKAGE) / "demo"
        for clip in DEMO_CLIPS:
            bring_in_path(outing, folder / clip.name, camera=cameras[clip.camera])
        self.stdout.write(f"Demo outing loaded: {len(DEMO_CLIPS)} clips, to be read by the worker.")
