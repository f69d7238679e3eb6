"""A camera as its owner describes it: what it can be set to, and what is carried with it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, dataclass
from dataclasses import fields as dataclass_fields
from enum import StrEnum
from typing import Any

from morphe.core.errors import PlanError
from morphe.core.plan import fields
from morphe.core.signal.profiles import PROFILES, Profile

__all__ = [
    "Card",
    "Codec",
    "Cover",
    "Filter",
    "FilterKind",
    "Kit",
    "KitKind",
    "LensMode",
    "Recording",
    "School",
    "Steadying",
]


class KitKind(StrEnum):
    """What carries the camera."""

    DRONE = "drone"
    ACTION = "action"
    PHONE = "phone"
    OTHER = "other"

    @property
    def word(self) -> str:
        return {"drone": "Drone", "action": "Action camera", "phone": "Phone"}.get(self.value, "Camera")


class Codec(StrEnum):
    """Families of video compression."""

    H264 = "h264"
    HEVC = "hevc"
    INTRA = "intra"

    @property
    def word(self) -> str:
        return {"h264": "H.264", "hevc": "HEVC", "intra": "Intra"}[self.value]


class School(StrEnum):
    """Where the exposure is aimed at."""

    METER = "meter"
    UNDER = "under"
    BRIGHT = "bright"

    @property
    def word(self) -> str:
        return {"meter": "Meter at 0", "under": "Slightly under", "bright": "Bright for log"}[self.value]


class Steadying(StrEnum):
    """Ways of keeping the picture steady."""

    TRIPOD = "tripod"
    GIMBAL = "gimbal"
    MOTION_DATA = "motion-data"
    IN_CAMERA = "in-camera"
    GRIP = "grip"

    @property
    def word(self) -> str:
        return {
            "tripod": "Tripod",
            "gimbal": "Gimbal",
            "motion-data": "Recorded motion data, steadied later",
            "in-camera": "In-camera stabilisation",
            "grip": "Steady hands on a grip",
        }[self.value]


class FilterKind(StrEnum):
    """Kinds of filter on the lens."""

    ND = "nd"
    RED = "red"
    MAGENTA = "magenta"
    POLARISER = "polariser"

    @property
    def word(self) -> str:
        return {"nd": "Neutral density", "red": "Red, for blue water", "magenta": "Magenta, for green water",
                "polariser": "Polariser"}[self.value]  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class Recording:
    """One way the camera writes video."""

    codec: Codec
    bit_depth: int
    chroma: str
    width: int
    height: int
    fps: float
    mbit_s: float

    @property
    def label(self) -> str:
        return f"{self.codec.word} {self.bit_depth}-bit {self.chroma}, {self.size}, {self.fps:g} fps"

    @property
    def size(self) -> str:
        return f"{self.width}×{self.height}"

    @property
    def bits_per_pixel(self) -> float:
        return self.mbit_s * 1e6 / (self.width * self.height * self.fps)

    @classmethod
    def from_json(cls, data: Mapping[str, Any]) -> Recording:
        return cls(
            codec=Codec(fields.choice(data, "codec", "Codec", Codec)),
            bit_depth=int(fields.choice(data, "bit_depth", "Bit depth", ("8", "10"))),
            chroma=fields.choice(data, "chroma", "Chroma", ("4:2:0", "4:2:2", "4:4:4"), "4:2:0"),
            width=int(fields.number(data, "width", "Picture width", 16, 8192)),
            height=int(fields.number(data, "height", "Picture height", 16, 8192)),
            fps=fields.number(data, "fps", "Frame rate", 1, 1000),
            mbit_s=fields.number(data, "mbit_s", "Bitrate in Mb/s", 0.1, 10_000),
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class LensMode:
    """A field of view; `width_deg` is the horizontal angle of view."""

    name: str
    width_deg: float
    cost_stops: float = 0.0

    @classmethod
    def from_json(cls, data: Mapping[str, Any]) -> LensMode:
        return cls(
            name=fields.text(data, "name", "Name of the lens mode"),
            width_deg=fields.number(data, "width_deg", "Angle of view", 1, 220, 70),
            cost_stops=fields.number(data, "cost_stops", "Light cost of the lens mode", 0, 5, 0),
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class Cover:
    """A glass or housing port before the lens."""

    name: str
    cost_stops: float = 0.0

    @classmethod
    def from_json(cls, data: Mapping[str, Any]) -> Cover:
        return cls(
            name=fields.text(data, "name", "Name of the cover glass"),
            cost_stops=fields.number(data, "cost_stops", "Light cost of the cover glass", 0, 5, 0),
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class Filter:
    """A filter that is owned, with the stops of light it takes."""

    name: str
    kind: FilterKind
    stops: float

    @classmethod
    def from_json(cls, data: Mapping[str, Any]) -> Filter:
        return cls(
            name=fields.text(data, "name", "Name of the filter"),
            kind=FilterKind(fields.choice(data, "kind", "Kind of filter", FilterKind, "nd")),
            stops=fields.number(data, "stops", "Stops of the filter", 0.1, 20),
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class Card:
    """Storage; GB are 10⁹ bytes, speeds in MB/s."""

    name: str
    gb: float
    write_mb_s: float
    read_mb_s: float

    @classmethod
    def from_json(cls, data: Mapping[str, Any]) -> Card:
        return cls(
            name=fields.text(data, "name", "Name of the card"),
            gb=fields.number(data, "gb", "Size of the card in GB", 0.1, 100_000),
            write_mb_s=fields.number(data, "write_mb_s", "Writing speed in MB/s", 0.1, 20_000, 30),
            read_mb_s=fields.number(data, "read_mb_s", "Reading speed in MB/s", 0.1, 20_000, 90),
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class Kit:
    """Everything the plan needs to know of one camera.

    Apertures are f-numbers (equal ones mean a fixed aperture), shutter limits in seconds, `sharpness` and
    `noise_reduction` the camera's own settings from least to most (empty if it has none), `depth_limit_m`
    how deep camera and housing may go by their maker's word (0 = keep dry).
    """

    name: str
    kind: KitKind = KitKind.OTHER
    profiles: tuple[str, ...] = ("std-709",)
    recordings: tuple[Recording, ...]
    aperture_widest: float = 2.8
    aperture_narrowest: float = 2.8
    iso_base: float = 100
    iso_ceiling: float = 1600
    shutter_slowest_s: float = 1 / 25
    shutter_fastest_s: float = 1 / 8000
    steadying: tuple[Steadying, ...] = ()
    lens_modes: tuple[LensMode, ...] = (LensMode(name="Normal", width_deg=70),)
    covers: tuple[Cover, ...] = ()
    filters: tuple[Filter, ...] = ()
    cards: tuple[Card, ...] = ()
    kelvin_lowest: float = 2500
    kelvin_highest: float = 10000
    sharpness: tuple[str, ...] = ("low", "medium", "high")
    noise_reduction: tuple[str, ...] = ("low", "medium", "high")
    depth_limit_m: float = 0.0
    lamp: bool = False
    school: School = School.METER
    recognise: str = ""

    def __post_init__(self) -> None:
        if not self.recordings:
            raise PlanError(f"{self.name}: enter at least one way of recording (codec, size, frame rate).")
        if not self.profiles:
            raise PlanError(f"{self.name}: tick at least one profile.")
        for key in self.profiles:
            PROFILES.get(key)
        for low, high, label in (
            (self.aperture_widest, self.aperture_narrowest, "the widest aperture's f-number"),
            (self.iso_base, self.iso_ceiling, "base ISO"),
            (self.shutter_fastest_s, self.shutter_slowest_s, "the fastest shutter"),
            (self.kelvin_lowest, self.kelvin_highest, "the lowest colour temperature"),
        ):
            if low > high:
                raise PlanError(f"{self.name}: {label} must not lie above the other end of its range.")

    @property
    def has_fixed_aperture(self) -> bool:
        return self.aperture_widest == self.aperture_narrowest

    @property
    def densities(self) -> tuple[Filter, ...]:
        """The neutral density filters, weakest first."""
        return tuple(sorted((f for f in self.filters if f.kind is FilterKind.ND), key=lambda f: f.stops))

    @property
    def described_profiles(self) -> tuple[Profile, ...]:
        return tuple(PROFILES.get(key) for key in self.profiles)

    def filter_of(self, kind: FilterKind) -> Filter | None:
        """The first filter of a kind that is owned."""
        return next((f for f in self.filters if f.kind is kind), None)

    def as_json(self) -> dict[str, Any]:
        """Plain values that `from_json` reads back."""
        return asdict(self)

    @classmethod
    def from_json(cls, data: Any) -> Kit:
        """Read a camera from plain values.

        Raises
        ------
        PlanError
            With the field that is missing, unknown or out of range.
        """
        if not isinstance(data, Mapping):
            raise PlanError("This is no camera description; save one from the Library and change it.")
        name = fields.text(data, "name", "Name of the camera")
        if unknown := sorted(set(data) - {f.name for f in dataclass_fields(cls)}):
            raise PlanError(f"{name}: there is no field {', '.join(map(str, unknown))[:80]}.")
        try:
            return cls(name=name, **_ranges(data), **_lists(data))
        except PlanError as error:
            sentence = str(error)
            raise PlanError(sentence if sentence.startswith(name) else f"{name}: {sentence}") from error


def _ranges(data: Mapping[str, Any]) -> dict[str, Any]:
    read = fields.number
    widest = read(data, "aperture_widest", "Widest aperture", 0.7, 64, 2.8)
    base = read(data, "iso_base", "Base ISO", 6, 100_000, 100)
    return {
        "kind": KitKind(fields.choice(data, "kind", "Kind of camera", KitKind, "other")),
        "aperture_widest": widest,
        "aperture_narrowest": read(data, "aperture_narrowest", "Narrowest aperture", 0.7, 64, widest),
        "iso_base": base,
        "iso_ceiling": read(data, "iso_ceiling", "ISO ceiling", 6, 1_000_000, max(base, 1600)),
        "shutter_slowest_s": read(data, "shutter_slowest_s", "Slowest shutter in seconds", 1e-5, 60, 1 / 25),
        "shutter_fastest_s": read(data, "shutter_fastest_s", "Fastest shutter in seconds", 1e-6, 1, 1 / 8000),
        "kelvin_lowest": read(data, "kelvin_lowest", "Lowest colour temperature", 1000, 25_000, 2500),
        "kelvin_highest": read(data, "kelvin_highest", "Highest colour temperature", 1000, 25_000, 10_000),
        "depth_limit_m": read(data, "depth_limit_m", "Depth limit in metres", 0, 500, 0),
        "lamp": fields.flag(data, "lamp"),
        "school": School(fields.choice(data, "school", "School of exposure", School, "meter")),
        "recognise": fields.text(data, "recognise", "Words to recognise its files by", ""),
    }


def _lists(data: Mapping[str, Any]) -> dict[str, Any]:
    def entries(key: str, label: str, kind: Any) -> tuple[Any, ...]:
        found = fields.items(data, key, label)
        if not all(isinstance(entry, Mapping) for entry in found):
            raise PlanError(f"{label} must be a list of descriptions.")
        return tuple(kind.from_json(entry) for entry in found)

    def words(key: str, label: str) -> tuple[str, ...]:
        return tuple(fields.text({"": word}, "", label) for word in fields.items(data, key, label))

    steadying = words("steadying", "Ways of steadying")
    for word in steadying:
        fields.choice({"": word}, "", "Way of steadying", Steadying)
    levels = {
        key: words(key, label)
        for key, label in (("sharpness", "Sharpness settings"), ("noise_reduction", "Noise settings"))
        if key in data
    }
    return {
        "profiles": words("profiles", "Profiles"),
        "recordings": entries("recordings", "Ways of recording", Recording),
        "steadying": tuple(Steadying(word) for word in steadying),
        "lens_modes": entries("lens_modes", "Lens modes", LensMode)
        or (LensMode(name="Normal", width_deg=70),),
        "covers": entries("covers", "Cover glasses", Cover),
        "filters": entries("filters", "Filters", Filter),
        "cards": entries("cards", "Cards", Card),
        **levels,
    }
