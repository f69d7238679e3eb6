"""Clips, what was found in them, their judging frames, and the history of their grades."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import Any

from django.db import models
from django.db.models.functions import Coalesce
from django.utils.functional import cached_property

from morphe.core.footage.info import SignalInfo
from morphe.core.footage.shots import Shot, Shots
from morphe.web.jobs.models import Job
from morphe.web.outings.models import Camera, Outing

__all__ = [
    "CardImport",
    "Clip",
    "Decision",
    "GivenAnswer",
    "GradeVersion",
    "Habit",
    "JudgingFrame",
    "LightGroup",
    "SharedLayer",
    "Upload",
]


class ClipQuerySet(models.QuerySet["Clip"]):
    def for_listing(self) -> ClipQuerySet:
        """Clips with all that a card shows, in a constant number of queries."""
        found = self.with_grades().select_related("camera", "take", "whole")
        return found.prefetch_related("frames", "hand_overs__job")

    def with_grades(self) -> ClipQuerySet:
        """Clips with all that their grades are put together from."""
        return self.select_related("version", "outing__layer__version", "group__layer__version")

    def ready(self) -> ClipQuerySet:
        return self.filter(state=Clip.State.READY)

    def preparing(self) -> ClipQuerySet:
        """Clips that have been read but cannot be played yet, or whose light has not been followed."""
        return self.ready().filter(over_time="").exclude(drift__has_key="failed")

    def being_followed(self) -> ClipQuerySet:
        """Those in preparation, and those whose followed light has still to be judged."""
        return self.ready().exclude(drift__has_any_keys=("failed", "track"))

    def usable(self) -> ClipQuerySet:
        return self.exclude(state=Clip.State.FAILED)

    def decided(self) -> ClipQuerySet:
        """Ready clips that wait for nothing; see `Clip.is_decided`."""
        return self.ready().filter(models.Q(version__parent__isnull=False) | models.Q(proposals=0))

    def undecided(self) -> ClipQuerySet:
        return self.ready().filter(version__parent=None, proposals__gt=0)

    def open_to_judgement(self) -> ClipQuerySet:
        """Ready clips for which nothing was decided, or only what was proposed for many at once."""
        return self.ready().filter(models.Q(version__parent=None) | models.Q(version__decision__given={}))

    def untouched(self) -> ClipQuerySet:
        """Ready clips for which a person has decided nothing."""
        return self.ready().filter(version__parent=None)

    def matching(self, words: str) -> ClipQuerySet:
        """Clips whose title or camera holds the words."""
        return self.filter(models.Q(title__icontains=words) | models.Q(camera__name__icontains=words))


class Shown(models.Manager.from_queryset(ClipQuerySet)):  # type: ignore[misc]
    """Clips that are worked on: no file that is split into shots, no shot of a file that was joined again."""

    def get_queryset(self) -> ClipQuerySet:
        found: ClipQuerySet = super().get_queryset().filter(aside=False)
        return found


class LightGroup(models.Model):
    """Clips of an outing that were filmed in one light."""

    outing = models.ForeignKey(Outing, on_delete=models.CASCADE, related_name="light_groups")
    number = models.PositiveSmallIntegerField()
    words = models.CharField(max_length=80, blank=True)  # the light as a person would call it
    aims = models.JSONField(default=dict)  # where it differs from the outing: the hour that is meant

    class Meta:
        ordering = ("number",)
        constraints = (models.UniqueConstraint(fields=("outing", "number"), name="one_group_per_number"),)

    def __str__(self) -> str:
        return f"Light {self.number}"


class Clip(models.Model):
    """One clip: its untouched file, its facts, readings and advice as values.

    A shot is a clip of its own that shares the file, the proxy and the light over time of a `whole`; times
    are seconds of the file in both.
    """

    class State(models.TextChoices):
        WAITING = "waiting", "Waiting"
        READING = "reading", "Being read"
        READY = "ready", "Ready"
        FAILED = "failed", "Cannot be used"

    outing = models.ForeignKey(Outing, on_delete=models.CASCADE, related_name="clips")
    camera = models.ForeignKey(Camera, on_delete=models.SET_NULL, null=True, blank=True, related_name="clips")
    title = models.CharField(max_length=200)
    file = models.FileField(upload_to="clips/", max_length=400)
    sha256 = models.CharField(max_length=64, db_index=True)
    size_bytes = models.BigIntegerField()
    state = models.CharField(max_length=10, choices=State.choices, default=State.WAITING)
    problem = models.TextField(blank=True)
    profile_choice = models.CharField(max_length=40, default="auto")
    info = models.JSONField(default=dict)
    profile = models.JSONField(default=dict)
    readings = models.JSONField(default=dict)
    findings = models.JSONField(default=dict)  # numbers of what was found; pictures are judging frames
    over_time = models.FileField(upload_to="over-time/", max_length=300, blank=True)
    advice_version = models.PositiveSmallIntegerField(default=0)  # by which the rungs were judged
    rungs = models.JSONField(default=list)
    proposal = models.JSONField(default=dict)  # the grade of "accept all", as recipe JSON
    proposals = models.PositiveSmallIntegerField(default=0)  # how many rungs propose something
    states = models.JSONField(default=dict)  # of the rungs, by key
    trim = models.JSONField(default=dict)  # beyond the proposals, so that it sits with its light
    stand = models.JSONField(default=dict)  # how it stands as corrected; `under` says by which grade
    water = models.JSONField(default=dict)  # what a person said of it: wet or not, depth, distance, …
    water_found = models.JSONField(default=dict)  # how likely it is wet, and how much red can come back
    parts = models.JSONField(default=list)  # what alone is delivered: pairs of seconds; empty for all
    skin_at = models.JSONField(default=dict)  # where a person pointed to skin: frame, x, y
    light_is_meant = models.BooleanField(default=False)  # a person said so; another balance is not offered
    lost = models.JSONField(default=list)
    outside_nominal = models.BooleanField(default=False)
    folder = models.CharField(max_length=200, blank=True)  # on the card it came from
    light = models.JSONField(default=dict)
    group = models.ForeignKey(
        LightGroup, on_delete=models.SET_NULL, null=True, blank=True, related_name="clips"
    )
    group_is_chosen = models.BooleanField(default=False)  # by the person: grouping anew leaves it there
    headroom = models.JSONField(default=dict)
    drift = models.JSONField(default=dict)
    proxy = models.FileField(upload_to="proxies/", max_length=400, blank=True)
    proxy_chroma = models.FloatField(default=1.0)  # the gain by which the proxy's colour is spread
    filmed_at = models.DateTimeField(null=True, blank=True)  # by the file's tag, else its time on the card
    tags = models.JSONField(default=dict)  # the file's own text tags
    planned = models.ForeignKey(
        "plan.PlannedCamera", on_delete=models.SET_NULL, null=True, blank=True, related_name="clips"
    )
    take = models.ForeignKey(
        "plan.Take", on_delete=models.SET_NULL, null=True, blank=True, related_name="clips"
    )
    checks = models.JSONField(default=list)  # the plan against what was filmed
    version = models.ForeignKey(
        "GradeVersion", on_delete=models.SET_NULL, null=True, blank=True, related_name="+"
    )
    whole = models.ForeignKey("self", on_delete=models.CASCADE, null=True, blank=True, related_name="shots")
    stretch = models.JSONField(default=dict)  # of a shot: from where to where, and what in it shows nothing
    begin_s = models.FloatField(default=0.0)  # of a shot, for its place among the others
    number = models.PositiveSmallIntegerField(default=0)  # of a shot, from 1
    cuts = models.JSONField(default=dict)  # of a file: shots as `found`, as they are `now`, and `before` that
    aside = models.BooleanField(default=False)  # kept, but not worked on
    created = models.DateTimeField(auto_now_add=True)

    objects = Shown()
    everything = ClipQuerySet.as_manager()

    class Meta:
        ordering = (Coalesce("whole", "id"), "begin_s", "id")
        constraints = (
            models.CheckConstraint(condition=models.Q(size_bytes__gte=0), name="clip_size_not_negative"),
        )

    def __str__(self) -> str:
        return self.title

    @property
    def path(self) -> Path:
        return Path(self.file.path)

    @property
    def is_ready(self) -> bool:
        return self.state == self.State.READY

    @property
    def present_group(self) -> LightGroup | None:
        """The light it is in; none where lights are grouped anew at this very moment."""
        try:
            return self.group
        except LightGroup.DoesNotExist:
            return None

    @property
    def signal(self) -> SignalInfo:
        """The clip's facts, as they were found; the file is not opened."""
        found = SignalInfo.from_json(self.info, self.path)
        return replace(found, metadata=dict(self.tags), shot=self.shot or found.shot)

    @property
    def shot(self) -> Shot | None:
        """Where a shot lies in its file; None for a whole file."""
        return Shot.from_json(self.stretch) if self.stretch else None

    @property
    def shots_now(self) -> Shots | None:
        """The shots of a whole file, as found or as set by hand; None while they are not known."""
        known = self.cuts.get("now") or self.cuts.get("found")
        return Shots.from_json(known) if known else None

    @property
    def end_s(self) -> float:
        """Where the clip ends, in seconds of its file."""
        return float(self.stretch["end_s"] if self.stretch else self.info.get("duration_s", 0.0))

    @property
    def length_s(self) -> float:
        return self.end_s - self.begin_s

    @property
    def is_decided(self) -> bool:
        """Whether the person has set something, or nothing was proposed."""
        return self.is_corrected or not self.proposals

    @property
    def is_corrected(self) -> bool:
        return self.version is not None and self.version.parent_id is not None

    @property
    def is_busy(self) -> bool:
        return self.state in (self.State.WAITING, self.State.READING)

    @property
    def is_stale(self) -> bool:
        """Whether a shot was cut otherwise since it was read."""
        return bool(self.stretch) and self.info.get("shot") != self.stretch

    @property
    def poster(self) -> JudgingFrame | None:
        frames: list[Any] = list(self.frames.all())
        return frames[len(frames) // 2] if frames else None


class SharedLayer(models.Model):
    """What is set for all clips of an outing, or of a light, that have not been split off from it."""

    outing = models.OneToOneField(
        Outing, on_delete=models.CASCADE, null=True, blank=True, related_name="layer"
    )
    group = models.OneToOneField(
        LightGroup, on_delete=models.CASCADE, null=True, blank=True, related_name="layer"
    )
    version = models.ForeignKey(
        "GradeVersion", on_delete=models.SET_NULL, null=True, blank=True, related_name="+"
    )

    class Meta:
        constraints = (
            models.CheckConstraint(
                condition=models.Q(outing=None) ^ models.Q(group=None), name="layer_of_outing_or_light"
            ),
        )

    def __str__(self) -> str:
        return f"Layer of {self.group or self.outing}"

    @property
    def label(self) -> str:
        """Where it reaches, as a person says it."""
        return str(self.group) if self.group is not None else "Whole outing"


class Decision(models.Model):
    """One step of work on several clips at once, taken back as a whole."""

    outing = models.ForeignKey(Outing, on_delete=models.CASCADE, related_name="decisions")
    change = models.CharField(max_length=200)
    asked = models.JSONField(default=list)  # numbers of the clips it is meant for
    given = models.JSONField(default=dict)  # the correction passed on; empty where proposals are taken
    sentences = models.JSONField(default=list)  # what was done, and what was left to a person
    done = models.BooleanField(default=False)
    taken_back = models.BooleanField(default=False)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("-id",)

    @cached_property
    def job(self) -> Job | None:
        """The work that does it."""
        return Job.objects.of("decide", self.pk).first()

    def __str__(self) -> str:
        return self.change


class GradeVersion(models.Model):
    """One state of what is a clip's own in its grade, or of a shared layer; only ever added: undo and history
    fall out of it.

    `parent` is the version it was made from. Where one change was both on a clip and on a layer it shares,
    the clip's version stands `beside` the layer's, and both are undone as one.
    """

    clip = models.ForeignKey(Clip, on_delete=models.CASCADE, null=True, blank=True, related_name="versions")
    layer = models.ForeignKey(
        SharedLayer, on_delete=models.CASCADE, null=True, blank=True, related_name="versions"
    )
    parent = models.ForeignKey(
        "self", on_delete=models.CASCADE, null=True, blank=True, related_name="children"
    )
    beside = models.ForeignKey(
        "self", on_delete=models.SET_NULL, null=True, blank=True, related_name="besides"
    )
    decision = models.ForeignKey(
        Decision, on_delete=models.SET_NULL, null=True, blank=True, related_name="versions"
    )
    grade = models.JSONField()
    change = models.CharField(max_length=200)
    name = models.CharField(max_length=60, blank=True)  # given by the person
    by = models.CharField(max_length=60, blank=True)  # the device; empty for the computer itself
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("id",)
        db_table = "bench_gradeversion"  # where it was kept first
        constraints = (
            models.CheckConstraint(
                condition=models.Q(clip=None) ^ models.Q(layer=None), name="version_of_clip_or_layer"
            ),
        )

    def __str__(self) -> str:
        return f"{self.clip or self.layer}: {self.change}"


class Habit(models.Model):
    """What a person usually keeps of a rung's proposal: shares by clip, the latest last."""

    step = models.CharField(max_length=20, unique=True)
    kept = models.JSONField(default=list)  # [clip, share]

    class Meta:
        ordering = ("step",)

    def __str__(self) -> str:
        return f"{self.step}: {len(self.kept)} clips"


class JudgingFrame(models.Model):
    """One moment by which the clip is judged; `picture` holds encoded R'G'B' at measuring size."""

    clip = models.ForeignKey(Clip, on_delete=models.CASCADE, related_name="frames")
    number = models.PositiveSmallIntegerField()
    role = models.CharField(max_length=20)
    time_s = models.FloatField()
    picture = models.FileField(upload_to="frames/", max_length=300)
    thumbnail = models.FileField(upload_to="thumbnails/", max_length=300)
    grain = models.FileField(upload_to="grain/", max_length=300, blank=True)  # a part of it at full size

    class Meta:
        ordering = ("number",)
        constraints = (models.UniqueConstraint(fields=("clip", "number"), name="one_frame_per_number"),)

    def __str__(self) -> str:
        return f"{self.clip} at {self.time_s:.1f} s"


class GivenAnswer(models.Model):
    """What a person answered about clips of a camera from one folder; the next are judged by it."""

    question = models.CharField(max_length=20)
    camera = models.ForeignKey(Camera, on_delete=models.CASCADE, null=True, blank=True, related_name="+")
    folder = models.CharField(max_length=200, blank=True)
    key = models.CharField(max_length=40)
    label = models.CharField(max_length=80)
    changed = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ("-changed",)
        constraints = (
            models.UniqueConstraint(fields=("question", "camera", "folder"), name="one_answer_per_folder"),
            models.UniqueConstraint(
                fields=("question", "folder"), condition=models.Q(camera=None),
                name="one_answer_without_camera",
            ),
        )  # fmt: skip

    def __str__(self) -> str:
        return f"{self.camera or 'Any camera'} {self.folder}, {self.question}: {self.label}"


class Upload(models.Model):
    """A file on its way here; what has arrived stays when the line is lost, and how it ended for a week."""

    outing = models.ForeignKey(Outing, on_delete=models.CASCADE, related_name="uploads")
    token = models.CharField(max_length=32, unique=True)
    name = models.CharField(max_length=200)
    size_bytes = models.BigIntegerField()
    modified_ms = models.BigIntegerField(default=0)
    received = models.BigIntegerField(default=0)  # for lists; how far it has come, its file says
    changed = models.DateTimeField(auto_now=True)
    settled = models.BooleanField(default=False)  # it has become a clip, or was found to be here
    clip = models.ForeignKey("Clip", on_delete=models.SET_NULL, null=True, related_name="+")
    problem = models.CharField(max_length=300, blank=True)

    class Meta:
        ordering = ("-changed",)
        constraints = (
            models.CheckConstraint(
                condition=models.Q(received__gte=0) & models.Q(received__lte=models.F("size_bytes")),
                name="upload_received_within_size",
            ),
        )

    def __str__(self) -> str:
        return f"{self.name}: {self.received} of {self.size_bytes} bytes"

    @property
    def percent(self) -> int:
        """How much of it has arrived."""
        return 100 * self.received // max(self.size_bytes, 1)


class CardImport(models.Model):
    """Files of a card, or any folder of this computer, being copied in by the worker."""

    outing = models.ForeignKey(Outing, on_delete=models.CASCADE, related_name="imports")
    folder = models.CharField(max_length=1000)
    files = models.JSONField(default=list)  # paths below the folder
    done = models.PositiveIntegerField(default=0)
    brought = models.PositiveIntegerField(default=0)
    known = models.PositiveIntegerField(default=0)
    problems = models.JSONField(default=list)
    job = models.OneToOneField(Job, on_delete=models.SET_NULL, null=True, related_name="+")
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("-id",)

    def __str__(self) -> str:
        return f"{self.folder}: {self.done} of {len(self.files)}"

    @property
    def is_busy(self) -> bool:
        return self.job is not None and self.job.is_live
