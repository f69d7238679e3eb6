"""Hand-overs on their way: each a row that any worker can pick up again."""

from __future__ import annotations

from django.db import models

from morphe.core.errors import MorpheError
from morphe.core.handover.delivery import Delivery
from morphe.core.handover.verdict import State
from morphe.web.clips.models import Clip, GradeVersion
from morphe.web.jobs.models import Job

__all__ = ["DropIn", "Dropped", "HandOver"]

ICONS = {State.GOOD: "check-circle", State.CAUTION: "exclamation-triangle", State.BAD: "exclamation-octagon"}


class HandOverQuerySet(models.QuerySet["HandOver"]):
    def live(self) -> HandOverQuerySet:
        return self.filter(job__state__in=(Job.State.WAITING, Job.State.RUNNING))

    def done(self) -> HandOverQuerySet:
        """Those with a whole file."""
        return self.exclude(result="")

    def timed(self) -> HandOverQuerySet:
        """Renders of clips by which this machine's speed is known."""
        return self.done().filter(what=HandOver.What.CLIP, seconds__gt=0)


class HandOver(models.Model):
    """One file that goes out. A result has its file only when whole."""

    class What(models.TextChoices):
        CLIP = "clip", "Clip"
        JOINED = "joined", "One joined file"
        STILL = "still", "Still"
        LINK = "link", "Page to send"
        REPORT = "report", "Report of the outing"

    clip = models.ForeignKey(Clip, on_delete=models.CASCADE, related_name="hand_overs")
    what = models.CharField(max_length=10, choices=What.choices, default=What.CLIP)
    title = models.CharField(max_length=200, blank=True)  # where it is not the clip's
    name = models.CharField(max_length=120, blank=True)  # of its files, without ending
    version = models.ForeignKey(GradeVersion, on_delete=models.PROTECT, null=True, blank=True)
    grade = models.JSONField()
    preset = models.CharField(max_length=40)  # its key; all of it is in `delivery`
    delivery = models.JSONField(default=dict)  # all that is wanted of the file, as it was when it was ordered
    others = models.JSONField(default=list)  # of several clips: number, grade and parts of each
    time_s = models.FloatField(null=True, blank=True)  # of a still
    paused = models.BooleanField(default=False)
    job = models.OneToOneField(Job, on_delete=models.SET_NULL, null=True, related_name="hand_over")
    result = models.FileField(upload_to="results/", max_length=400, blank=True)
    cube = models.FileField(upload_to="results/", max_length=400, blank=True)
    recipe = models.FileField(upload_to="results/", max_length=400, blank=True)
    picture = models.FileField(upload_to="results/", max_length=400, blank=True)  # what came out, small
    seconds = models.FloatField(null=True, blank=True)
    measured = models.JSONField(default=dict)  # banding, blocks and noise in the file, before and after
    verdicts = models.JSONField(default=list)  # of the file, decoded again
    created = models.DateTimeField(auto_now_add=True)

    objects = HandOverQuerySet.as_manager()

    class Meta:
        ordering = ("-id",)

    def __str__(self) -> str:
        return f"{self.shown_title} as {self.label}"

    @property
    def wanted(self) -> Delivery:
        """All that is wanted of the file; of one that was ordered by a preset that is gone, the usual."""
        try:
            return Delivery.from_json(self.delivery)
        except MorpheError:
            return Delivery()

    @property
    def shown_title(self) -> str:
        return self.title or self.clip.title

    @property
    def is_active(self) -> bool:
        return self.job is not None and self.job.is_live

    @property
    def is_done(self) -> bool:
        return bool(self.result)

    @property
    def label(self) -> str:
        """What it is delivered as."""
        if self.what == self.What.STILL:
            return f"Still, {self.preset}"
        if self.what in (self.What.LINK, self.What.REPORT):
            return self.get_what_display()
        preset = self.wanted.preset
        said = [preset.label, *(["before and after"] if self.wanted.wipe else [])]
        return ", ".join([*(["joined"] if self.what == self.What.JOINED else []), *said])

    @property
    def advice(self) -> str:
        """What to try if a device refuses the file."""
        return self.wanted.preset.advice if self.what in (self.What.CLIP, self.What.JOINED) else ""

    @property
    def judged(self) -> list[dict[str, str]]:
        """Its verdicts with their icons, those that ask for something first."""
        order = [State.BAD, State.CAUTION, State.GOOD]
        found = [{**v, "icon": ICONS[State(v["state"])]} for v in self.verdicts]
        return sorted(found, key=lambda v: order.index(State(v["state"])))

    @property
    def asks_for_more(self) -> list[dict[str, str]]:
        """Verdicts that are not good."""
        return [v for v in self.judged if v["state"] != State.GOOD]

    @property
    def state(self) -> str:
        """The state of its work, in the words that a page styles by."""
        if self.paused and not self.is_active:
            return "paused"
        return self.job.state if self.job is not None else Job.State.FAILED

    @property
    def state_word(self) -> str:
        return {"running": "Rendering", "paused": "Paused"}.get(self.state) or Job.State(self.state).label

    @property
    def percent(self) -> int:
        return self.job.percent if self.job is not None else 0

    @property
    def problem(self) -> str:
        return self.job.problem if self.job is not None else ""


class DropIn(models.Model):
    """A folder that is watched: what appears there is handed back. Off until somebody switches it on."""

    folder = models.CharField(max_length=400)
    is_on = models.BooleanField(default=False)
    profile = models.CharField(max_length=40, default="auto")
    film = models.BooleanField(default=False)  # whether corrected clips go back beside .cube and report
    preset = models.CharField(max_length=40, default="web")

    def __str__(self) -> str:
        return self.folder


class Dropped(models.Model):
    """A clip that lay in the folder, and what became of it."""

    path = models.CharField(max_length=600)
    stamp = models.CharField(max_length=60)  # size and time of change: another file of that name is anew
    made = models.JSONField(default=dict)
    problem = models.TextField(blank=True)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("-id",)
        constraints = (models.UniqueConstraint(fields=("path", "stamp"), name="dropped_once"),)

    def __str__(self) -> str:
        return self.path

    @property
    def name(self) -> str:
        return self.path.rsplit("/", 1)[-1]
