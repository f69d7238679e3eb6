"""Camera decisions: a scene and a kit; what is chosen is filmed by the made-up camera and brought back."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from morphe.core.errors import ColourError
from morphe.core.plan.profile_choice import Circumstances, score_profile
from morphe.core.plan.questions import Delivery, Device
from morphe.core.plan.shutter import angle_of
from morphe.core.plan.white import fixable_mired, mired
from morphe.core.practice.mending import distance
from morphe.core.practice.scenes import Shot
from morphe.core.signal.arrays import Encoded, Linear
from morphe.core.signal.light import light_rgb
from morphe.core.signal.primaries import LUMINANCE_709
from morphe.core.signal.profiles import PROFILES
from morphe.core.standins.cameras import Exposure, film, truth

__all__ = ["BALANCES", "FILTERS", "PROFILES_OFFERED", "SHUTTERS", "Chosen", "Decision", "Verdict", "decision"]

F_NUMBER, BITS, ISO = 2.8, 8, 100
SHUTTERS = (30, 50, 60, 100, 120, 200, 400, 800, 1600, 3200)  # one part of a second
FILTERS = {0: "none", 2: "ND4", 3: "ND8", 4: "ND16", 5: "ND32", 6: "ND64"}  # stops
BALANCES = (2800, 3400, 4200, 5000, 5600, 6500, 7500, 9000)  # kelvin
PROFILES_OFFERED = {"std-709": "Plain", "flat-a": "Flat", "log-wide": "Log"}
EXPOSED, ANGLES = 0.5, (140.0, 230.0)  # stops that nobody minds; degrees that move as usual
NEARLY = 0.5  # points by which a profile may be worse than the best


@dataclass(frozen=True, slots=True, kw_only=True)
class _Place:
    words: str
    scene: str
    ev100: float
    kelvin: float
    contrast_stops: float


PLACES = (
    _Place(words="The marsh from the air at noon, sun and deep ditches", scene="sluice-round", ev100=14.7,
           kelvin=5600, contrast_stops=11.5),
    _Place(words="The sluice under an even grey sky", scene="sluice-approach", ev100=12.3, kelvin=6500,
           contrast_stops=6.0),
    _Place(words="A friend at the jetty, thin cloud", scene="jetty-tan", ev100=13.2, kelvin=6100,
           contrast_stops=7.5),
    _Place(words="The jetty in blue shade, late", scene="jetty-deep", ev100=9.8, kelvin=7500,
           contrast_stops=6.5),
    _Place(words="A beach in low sun, into the light", scene="beach", ev100=13.8, kelvin=4200,
           contrast_stops=12.0),
)  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class Chosen:
    """What somebody set the camera to: `shutter` as one part of a second, `nd_stops` of filter."""

    profile: str
    shutter: int
    nd_stops: int
    kelvin: int

    @property
    def words(self) -> str:
        """The settings, as a person says them."""
        filtered = f", {FILTERS[self.nd_stops]}" if self.nd_stops else ", no filter"
        return f"{PROFILES_OFFERED[self.profile].lower()}, 1/{self.shutter} s{filtered}, {self.kelvin} K"

    def check(self) -> None:
        """Refuse what the camera does not have.

        Raises
        ------
        ColourError
            With one sentence.
        """
        fits = (
            self.profile in PROFILES_OFFERED, self.shutter in SHUTTERS, self.nd_stops in FILTERS,
            self.kelvin in BALANCES,
        )  # fmt: skip
        if not all(fits):
            raise ColourError("Choose profile, shutter, filter and balance from what the camera has.")


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Verdict:
    """What came of a choice: findings, each with whether it is right; pictures filmed, brought back, true."""

    findings: tuple[tuple[bool, str], ...]
    filmed: Encoded
    brought_back: Encoded
    truth: Encoded
    left: float  # mean CIEDE2000 between what was brought back and the truth

    @property
    def is_right(self) -> bool:
        return all(right for right, _ in self.findings)


@dataclass(frozen=True, slots=True, kw_only=True)
class Decision:
    """A scene and a rate to film it at."""

    seed: int
    place: int
    fps: int

    @property
    def question(self) -> str:
        return (
            f"{PLACES[self.place].words}; {self.fps} frames a second, f/{F_NUMBER}, ISO {ISO}, {BITS}-bit. "
            f"A meter would read EV {PLACES[self.place].ev100:.1f} and {PLACES[self.place].kelvin:.0f} K."
        )

    @property
    def best(self) -> Chosen:
        """A choice that is right: the profile that scores best, half the frame's time, light taken off."""
        place = PLACES[self.place]
        shutter = min(SHUTTERS, key=lambda s: abs(math.log2(angle_of(1 / s, self.fps) / 180)))
        nd = min(FILTERS, key=lambda stops: abs(self._stops(shutter, stops)))
        kelvin = min(BALANCES, key=lambda k: abs(mired(k) - mired(place.kelvin)))
        profile = max(PROFILES_OFFERED, key=self._points)
        return Chosen(profile=profile, shutter=shutter, nd_stops=nd, kelvin=kelvin)

    def _stops(self, shutter: int, nd_stops: float) -> float:
        """How much too bright, by the exposure equation (ISO 2720): 2^EV = N²/t at ISO 100."""
        return PLACES[self.place].ev100 - nd_stops - math.log2(F_NUMBER**2 * shutter)

    def _points(self, profile: str) -> float:
        about = Circumstances(
            contrast_stops=PLACES[self.place].contrast_stops, iso_stops=0, grading_hours=4,
            delivery=Delivery.WEB_SDR, device=Device.LAPTOP, skin="jetty" in PLACES[self.place].scene,
            is_under_water=False, fps=self.fps, wanted_minutes=10, usable_gb=60,
        )  # fmt: skip
        return sum(f.points for f in score_profile(PROFILES.get(profile), BITS, about))

    def judge(self, chosen: Chosen) -> Verdict:
        """Film it so, bring it back, and say what was right.

        Raises
        ------
        ColourError
            If the camera has no such setting.
        """
        chosen.check()
        place = PLACES[self.place]
        stops = self._stops(chosen.shutter, chosen.nd_stops)
        warm = mired(place.kelvin) - mired(chosen.kelvin)  # set to a cooler light than it is: too warm
        light = _contrasty(Shot(scene=place.scene, time_s=1.0).light, place.contrast_stops)
        exposure = Exposure(profile=chosen.profile, exposure_stops=stops, warm_mired=warm)
        filmed = np.round(film(light, exposure, np.random.default_rng(self.seed)) * 255) / np.float32(255)
        back, right = _brought_back(filmed, exposure), truth(light)
        return Verdict(
            findings=(
                _exposed(stops), _shuttered(chosen.shutter, self.fps), _balanced(warm, chosen.profile),
                self._profiled(chosen.profile),
            ),
            filmed=filmed, brought_back=back, truth=right, left=distance(back, right),
        )  # fmt: skip

    def _profiled(self, profile: str) -> tuple[bool, str]:
        best = max(PROFILES_OFFERED, key=self._points)
        name, span = PROFILES_OFFERED[profile], PLACES[self.place].contrast_stops
        if self._points(profile) >= self._points(best) - NEARLY:
            return True, f"{name} holds these {span:.0f} stops and bends as little as it must."
        if profile == "std-709":
            return False, f"{PROFILES_OFFERED[best]} would hold more of these {span:.0f} stops."
        return False, f"{PROFILES_OFFERED[best]} suffices for {span:.0f} stops and costs fewer of the 8 bits."


def decision(seed: int) -> Decision:
    """The scene of a seed."""
    generator = np.random.default_rng((seed, 11))
    return Decision(
        seed=seed, place=int(generator.integers(0, len(PLACES))), fps=int(generator.choice([25, 30, 50]))
    )


def _contrasty(light: Linear, stops: float) -> Linear:
    """A scene with its deep tones as far down as its contrast says."""
    bright = np.maximum(light, 1e-5)
    pivot = np.float32(0.18)
    made: Linear = (pivot * (bright / pivot) ** np.float32(0.6 + stops / 20)).astype(np.float32)
    return made


def _brought_back(filmed: Encoded, exposure: Exposure) -> Encoded:
    """The best that plain arithmetic makes of it: decoded, exposure and balance taken back."""
    cast = light_rgb(exposure.warm_mired, exposure.green_duv)
    cast = cast / (cast @ LUMINANCE_709) * 2.0**exposure.exposure_stops
    return truth((PROFILES.get(exposure.profile).decode(filmed) / cast).astype(np.float32))


def _exposed(stops: float) -> tuple[bool, str]:
    if abs(stops) <= EXPOSED:
        return True, "Exposed as the meter says."
    way = "over: what clips is gone" if stops > 0 else "under: noise is lifted with the tones"
    return False, f"{abs(stops):.1f} stops {way}."


def _shuttered(shutter: int, fps: int) -> tuple[bool, str]:
    if 1 / shutter > 1 / fps:
        return False, f"1/{shutter} s is longer than a frame at {fps} frames a second lasts."
    angle = angle_of(1 / shutter, fps)
    if ANGLES[0] <= angle <= ANGLES[1]:
        return True, f"1/{shutter} s is {angle:.0f}°: motion as eyes are used to."
    return False, f"1/{shutter} s is {angle:.0f}°: motion {'stutters' if angle < ANGLES[0] else 'smears'}."


def _balanced(warm: float, profile: str) -> tuple[bool, str]:
    fixable = fixable_mired(PROFILES.get(profile), BITS)
    if abs(warm) <= fixable:
        return True, f"{abs(warm):.0f} mired off, which is put right later."
    return (
        False,
        f"{abs(warm):.0f} mired too {'warm' if warm > 0 else 'cool'}; {fixable:.0f} could be mended.",
    )
