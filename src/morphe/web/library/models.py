"""What a person keeps beside cameras: profiles, LUTs, looks, and series filmed to find a profile."""

from __future__ import annotations

from django.db import models

from morphe.core.signal.own_profile import OwnProfile

__all__ = [
    "Incoming",
    "KeptLook",
    "KeptLut",
    "KeptPreset",
    "KeptProfile",
    "KeptRecipe",
    "LabSeries",
    "LabTake",
]


class Kept(models.Model):
    """Something of the person's own, under a name of its own."""

    name = models.CharField(max_length=60, unique=True)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        abstract = True
        ordering = ("name",)

    def __str__(self) -> str:
        return self.name


class KeptProfile(Kept):
    """A profile of the person's own: a curve as plain values, or a LUT by its digest on the shelf."""

    kind = models.CharField(max_length=10)
    data = models.JSONField(default=dict)  # of a curve; empty for a LUT
    digest = models.CharField(max_length=64, blank=True)
    about = models.CharField(max_length=200, blank=True)

    @property
    def key(self) -> str:
        """The key that a clip's `profile_choice` holds."""
        return f"own-{self.pk}"

    @property
    def is_table(self) -> bool:
        return bool(self.digest)

    @property
    def own(self) -> OwnProfile:
        """The curve as the core knows it."""
        return OwnProfile.from_json(self.data)


class KeptLut(Kept):
    """A LUT kept as a style, by its digest on the shelf, with what it expects."""

    digest = models.CharField(max_length=64)
    role = models.CharField(max_length=10)
    judged = models.JSONField(default=dict)  # role, confidence and evidence, as they were judged
    about = models.CharField(max_length=200, blank=True)

    @property
    def key(self) -> str:
        """The key by which the Bench puts it on."""
        return f"lut-{self.pk}"


class KeptLook(Kept):
    """A look of the person's own, or one taken in: layers of style and finish as plain values."""

    words = models.CharField(max_length=300, blank=True)
    layers = models.JSONField(default=list)
    picture = models.FileField(upload_to="looks/", max_length=400, blank=True)

    @property
    def key(self) -> str:
        """The key by which the Bench puts it on."""
        return f"own-{self.pk}"


class KeptPreset(Kept):
    """A preset of the person's own, by which clips go out."""

    values = models.JSONField(default=dict)

    @property
    def key(self) -> str:
        """The key by which a form chooses it."""
        return f"preset-{self.pk}"


class KeptRecipe(Kept):
    """A correction kept under a name, with what it was made for."""

    given = models.JSONField(default=dict)  # the correction, as it is passed on
    tags = models.JSONField(default=dict)  # camera, profile, light and water, in words
    used = models.PositiveIntegerField(default=0)  # on how many clips

    @property
    def words(self) -> str:
        """What it was made for, in a line."""
        return ", ".join(str(v) for v in self.tags.values() if v)


class LabSeries(models.Model):
    """A grey card in steps of exposure, and perhaps a target, filmed with one camera in one setting."""

    name = models.CharField(max_length=60)
    region = models.JSONField(default=list)  # left, top, right, bottom as shares
    corners = models.JSONField(default=list)  # of the target: four (x, y) as shares
    reference = models.JSONField(default=dict)  # names and CIELAB; empty means the made-up one
    fit = models.JSONField(default=dict)
    colour = models.JSONField(default=dict)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("-id",)

    def __str__(self) -> str:
        return self.name


class LabTake(models.Model):
    """One take of a series: a clip or a still, at a step in stops from metered grey; None is the target."""

    series = models.ForeignKey(LabSeries, on_delete=models.CASCADE, related_name="takes")
    title = models.CharField(max_length=200)
    stops = models.FloatField(null=True, blank=True)
    frames = models.FileField(upload_to="lab/", max_length=400)  # (n, h, w, 3) encoded, half floats
    thumbnail = models.FileField(upload_to="lab/", max_length=400)

    class Meta:
        ordering = ("stops", "id")

    def __str__(self) -> str:
        return self.title


class Incoming(models.Model):
    """A file on its way into the Library: the worker reads it, the next page tells what came of it."""

    title = models.CharField(max_length=200)
    file = models.FileField(upload_to="incoming/", max_length=400)
    series = models.ForeignKey(LabSeries, on_delete=models.CASCADE, null=True, related_name="incoming")
    given = models.JSONField(default=dict)  # what the form said of a profile
    made = models.CharField(max_length=40, blank=True)  # the key of the profile it became
    problem = models.TextField(blank=True)
    is_done = models.BooleanField(default=False)

    class Meta:
        ordering = ("id",)

    def __str__(self) -> str:
        return self.title
