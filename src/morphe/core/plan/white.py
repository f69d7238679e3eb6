"""White balance: the number to lock, how far it may be off, and what happens if it is."""

from __future__ import annotations

from morphe.core.plan.answer import Answer
from morphe.core.plan.kit import Kit
from morphe.core.plan.scene import Scene
from morphe.core.plan.wording import kelvin
from morphe.core.signal.profiles import Kind, Profile

__all__ = ["fixable_mired", "mired", "white_balance"]


def mired(kelvin_value: float) -> float:
    """Reciprocal megakelvin: equal steps look about equal."""
    return 1e6 / kelvin_value


def fixable_mired(profile: Profile, bit_depth: int) -> float:
    """How far a white can be off and still be put right later, rule of thumb.

    A shift takes about 0.015 stop of red against blue per mired; beyond 60 mired plain gains no longer do.
    """
    if bit_depth >= 10:
        return 60.0
    return 25.0 if profile.kind is Kind.STANDARD else 30.0


def white_balance(
    scene: Scene, kit: Kit, profile: Profile, bit_depth: int, *, filtered: bool = False
) -> Answer:
    """Choose the white to lock, within what the camera can be set to; `filtered` by a filter for water."""
    wanted, reason = _wanted(scene)
    value = min(max(wanted, kit.kelvin_lowest), kit.kelvin_highest)
    tolerance = fixable_mired(profile, bit_depth)
    low, high = 1e6 / (mired(value) + tolerance), 1e6 / max(mired(value) - tolerance, 20)
    warning = ""
    if value != wanted:
        off = abs(mired(value) - mired(wanted))
        fixable = "which can be put right later" if off <= tolerance else "more than can be put right later"
        warning = f"The light is nearer {kelvin(wanted)}; the camera ends {off:.0f} mired away, {fixable}."
    other = scene.kelvin_high if wanted <= scene.kelvin else scene.kelvin_low
    return Answer(
        key="white-balance",
        label="White balance",
        value=f"{kelvin(value)}, locked",
        reason=f"{reason} Automatic white drifts during a take and makes clips differ.",
        runner_up=_runner_up(scene, value, other, tolerance),
        warning=warning or _preset_warning(scene, filtered),
        numbers={
            "kelvin": round(value),
            "tolerance_mired": tolerance,
            "fixable_from_kelvin": round(low),
            "fixable_to_kelvin": round(high),
        },
    )


def _preset_warning(scene: Scene, filtered: bool) -> str:
    """Why a camera's preset for water would harm, where something else brings the red."""
    if scene.water is None or not (filtered or scene.water.has_lamp):
        return ""
    by = "the lamp brings its own" if scene.water.has_lamp else "the filter has done its work"
    return f"Leave the camera's preset for water off: {by}, and red would be raised twice."


def _runner_up(scene: Scene, value: float, other: float, tolerance: float) -> str:
    if scene.water is not None:
        slate = "Measured on a white slate at depth, if the camera can; then again at every other depth."
        if scene.water.has_lamp:
            return slate
        return (
            f"{slate} The camera's preset for water only where clips go out as they are: how far it raises "
            "red is its secret, and it moves with the picture."
        )
    off = abs(mired(value) - mired(other))
    fixable = "fixable" if off <= tolerance else "too far to fix"
    return (
        f"{kelvin(other)} if the light turns out that way; staying at {kelvin(value)} would be "
        f"{off:.0f} mired off, {fixable} later."
    )


def _wanted(scene: Scene) -> tuple[float, str]:
    if scene.water is None:
        span = f"{scene.kelvin_low:.0f} to {kelvin(scene.kelvin_high)}"
        return scene.kelvin, f"This light is usually {span}."
    if scene.water.has_lamp:
        return 5500, "Set it for the lamp; the water behind may stay blue."
    return (
        5500,
        "No colour temperature brings red back; a fixed daylight white can be corrected the same way in "
        "every clip.",
    )
