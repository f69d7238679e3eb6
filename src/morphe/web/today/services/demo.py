"""The demo outing: brought in at the first start, thrown away and brought back as a person likes."""

import json
import os
import shutil
from datetime import UTC, datetime, time
from pathlib import Path
from typing import Any

from django.conf import settings

from morphe.core.standins.demo import DEMO_CLIPS, DEMO_DAY
from morphe.core.standins.demo_card import CARD_CLIPS
from morphe.core.standins.kits import KITS
from morphe.web.clips.services.intake.bring_in import bring_in_path
from morphe.web.clips.services.space.remove import remove_clip
from morphe.web.library.models import LabSeries
from morphe.web.library.services.lab import demo_series
from morphe.web.match.services.pins import unpin
from morphe.web.outings.models import Camera, Outing
from morphe.web.plan.models import PlannedCamera, TakeCheck
from morphe.web.plan.services.checks import forget_check
from morphe.web.plan.services.current import add_camera, card_of, plan_of, save_answers
from morphe.web.plan.services.takes import add_take

__all__ = ["is_wanted", "load_demo", "throw_away"]

SERIES = "Unknown camera, log menu"
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


def load_demo() -> Outing:
    """Bring the demo outing in: three cameras, their plan, slated takes, ten clips for the worker to read."""
    _away().unlink(missing_ok=True)
    outing = Outing.objects.create(
        name="Volunteer day",
        place="Wrenfleet estuary",
        date=DEMO_DAY,
        is_demo=True,
        notes="Salt marsh and old sluice from the air, talks at the jetty, seagrass under water.",
    )
    cameras = {kit.name: _camera(kit) for kit in KITS.values()}
    for name, camera in cameras.items():
        _plan(outing, camera, name)
    folder = Path(settings.PACKAGE) / "demo"
    for clip in DEMO_CLIPS:
        bring_in_path(outing, folder / clip.name, camera=cameras[clip.camera], filmed_at=_at(clip.filmed))
    _card(folder)
    if not LabSeries.objects.filter(name=SERIES).exists():
        demo_series()
    return outing


def is_wanted() -> bool:
    """Whether a start brings the demo in: nothing else is there, and nobody threw it away."""
    return not Outing.objects.exists() and not _away().exists()


def throw_away(outing: Outing) -> None:
    """Remove the demo outing with its clips, its card, and those of its cameras that nobody else uses."""
    for clip in outing.clips.all():
        remove_clip(clip)
    for check in TakeCheck.objects.filter(take__planned__plan__outing=outing):
        forget_check(check)
    for pin in outing.pinned.all():
        unpin(pin)
    outing.delete()
    for kit in KITS.values():
        Camera.objects.filter(name=kit.name, clips=None, planned=None).delete()
    LabSeries.objects.filter(name=SERIES).delete()
    shutil.rmtree(settings.CARD_FOLDERS[0], ignore_errors=True)
    _away().touch()


def _away() -> Path:
    """The file that remembers that the demo was thrown away."""
    return Path(settings.HOME) / "demo-away"


def _card(folder: Path) -> None:
    """A simulated card: three new clips in its folders, and one that has been brought in already."""
    card = Path(settings.CARD_FOLDERS[0])
    for clip in CARD_CLIPS:
        target = card / clip.path
        target.parent.mkdir(parents=True, exist_ok=True)
        shutil.copyfile(folder / "card" / clip.path, target)
        os.utime(target, (_at(clip.filmed).timestamp(),) * 2)
    shutil.copy2(folder / DEMO_CLIPS[0].name, card / "DCIM" / "100SAND" / DEMO_CLIPS[0].name)


def _camera(kit: Any) -> Camera:
    values = {"about": kit.kind.word, "kit": json.loads(json.dumps(kit.as_json()))}
    return Camera.objects.update_or_create(name=kit.name, defaults=values)[0]


def _plan(outing: Outing, camera: Camera, name: str) -> PlannedCamera:
    planned = add_camera(plan_of(outing), camera)
    save_answers(planned, {**PLANNED[name], "grading_hours": 3})
    card_of(planned)
    for number, clock, note in TAKES.get(name, ()):
        add_take(planned, note, number=str(number), time=_at(clock))
    return planned
