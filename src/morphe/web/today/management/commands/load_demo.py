"""Load the demo outing if there is no outing yet: three cameras, their plan, slated takes, ten clips."""

import json
import os
import shutil
from datetime import UTC, datetime, time
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand

from morphe.core.standins.demo import DEMO_CLIPS, DEMO_DAY
from morphe.core.standins.demo_card import CARD_CLIPS
from morphe.core.standins.kits import KITS
from morphe.web.clips.services.bring_in import bring_in_path
from morphe.web.library.services.lab import demo_series
from morphe.web.outings.models import Camera, Outing
from morphe.web.plan.models import PlannedCamera
from morphe.web.plan.services.current import add_camera, card_of, plan_of, save_answers
from morphe.web.plan.services.takes import add_take

# What each camera was planned for, and what was said on its slate: (number, UTC, note).
PLANNED: dict[str, dict[str, Any]] = {
    "Sandpiper": {"shot": "flight", "light": "sky", "hour": 10, "school": "bright"},
    "Cuttle": {"shot": "dive", "light": "sky", "hour": 12, "depth_m": 5, "lamp": "no", "water": "1C"},
    "Fern": {"shot": "talk", "light": "overcast", "hour": 11.5},
}
TAKES = {
    "Sandpiper": (
        (1, "09:12", "1/50 ISO 100 ND32 5500K log, round the sluice"),
        (2, "09:30", "1/50 ISO 100 ND32 flat by mistake"),
        (3, "09:44", "1/400 ISO 100 no ND, standard, filter left ashore"),
    ),
    "Fern": ((1, "10:40", "1/50 ISO 50 ND16, keeper at the jetty"), (2, "10:52", "HLG, diver at the jetty")),
}


def _at(clock: str) -> datetime:
    return datetime.combine(DEMO_DAY, time.fromisoformat(clock), tzinfo=UTC)


class Command(BaseCommand):
    help = "Load the demo outing if the database is empty."

    def handle(self, *args: Any, **options: Any) -> None:
        if Outing.objects.exists():
            return
        outing = Outing.objects.create(
            name="Volunteer day",
            place="Wrenfleet estuary",
            date=DEMO_DAY,
            notes="Salt marsh and old sluice from the air, talks at the jetty, seagrass under water.",
        )
        cameras = {kit.name: self._camera(kit) for kit in KITS.values()}
        for name, camera in cameras.items():
            self._plan(outing, camera, name)
        folder = Path(settings.PACKAGE) / "demo"
        for clip in DEMO_CLIPS:
            bring_in_path(outing, folder / clip.name, camera=cameras[clip.camera], filmed_at=_at(clip.filmed))
        self._card(folder)
        demo_series()
        self.stdout.write(f"Demo outing loaded: {len(DEMO_CLIPS)} clips, to be read by the worker.")

    def _card(self, folder: Path) -> None:
        """A simulated card: three new clips in its folders, and one that has been brought in already."""
        card = Path(settings.CARD_FOLDERS[0])
        for clip in CARD_CLIPS:
            target = card / clip.path
            target.parent.mkdir(parents=True, exist_ok=True)
            shutil.copyfile(folder / "card" / clip.path, target)
            os.utime(target, (_at(clip.filmed).timestamp(),) * 2)
        shutil.copy2(folder / DEMO_CLIPS[0].name, card / "DCIM" / "100SAND" / DEMO_CLIPS[0].name)

    def _camera(self, kit: Any) -> Camera:
        values = {"about": kit.kind.word, "kit": json.loads(json.dumps(kit.as_json()))}
        return Camera.objects.update_or_create(name=kit.name, defaults=values)[0]

    def _plan(self, outing: Outing, camera: Camera, name: str) -> PlannedCamera:
        planned = add_camera(plan_of(outing), camera)
        save_answers(planned, {**PLANNED[name], "grading_hours": 3})
        card_of(planned)
        for number, clock, note in TAKES.get(name, ()):
            add_take(planned, note, number=str(number), time=_at(clock))
        return planned
