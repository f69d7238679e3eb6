"""The three made-up cameras of the demo outing, as their owner would describe them."""

from __future__ import annotations

from morphe.core.plan.kit import (
    Card,
    Codec,
    Cover,
    Filter,
    FilterKind,
    Kit,
    KitKind,
    LensMode,
    Recording,
    School,
    Steadying,
)
from morphe.core.registry import Registry

__all__ = ["KITS"]

KITS: Registry[Kit] = Registry("camera")
UHD, HD = (3840, 2160), (1920, 1080)
FOUR_LEVELS = ("off", "low", "medium", "high")


def _modes(*entries: tuple[Codec, int, str, tuple[int, int], float, float]) -> tuple[Recording, ...]:
    return tuple(
        Recording(codec=c, bit_depth=d, chroma=s, width=size[0], height=size[1], fps=fps, mbit_s=rate)
        for c, d, s, size, fps, rate in entries
    )


def _densities(*stops: int) -> tuple[Filter, ...]:
    return tuple(Filter(name=f"ND{2**n}", kind=FilterKind.ND, stops=n) for n in stops)


KITS.register("sandpiper")(
    Kit(
        name="Sandpiper",
        kind=KitKind.DRONE,
        profiles=("std-709", "flat-a", "log-wide", "hlg"),
        recordings=_modes(
            (Codec.H264, 8, "4:2:0", UHD, 25, 100),
            (Codec.H264, 8, "4:2:0", UHD, 30, 100),
            (Codec.HEVC, 10, "4:2:0", UHD, 25, 100),
            (Codec.HEVC, 10, "4:2:0", UHD, 30, 100),
            (Codec.HEVC, 10, "4:2:0", UHD, 50, 150),
            (Codec.HEVC, 10, "4:2:0", HD, 100, 80),
            (Codec.H264, 8, "4:2:0", HD, 25, 40),
        ),
        aperture_widest=2.8,
        aperture_narrowest=2.8,
        iso_base=100,
        iso_ceiling=800,
        shutter_slowest_s=1 / 25,
        shutter_fastest_s=1 / 8000,
        steadying=(Steadying.GIMBAL,),
        lens_modes=(LensMode(name="Full view", width_deg=72),),
        filters=(*_densities(2, 3, 4, 5, 6), Filter(name="Polariser", kind=FilterKind.POLARISER, stops=1.5)),
        cards=(Card(name="Card A", gb=128, write_mb_s=60, read_mb_s=90),),
        sharpness=("-2", "-1", "0", "+1"),
        noise_reduction=("-2", "-1", "0", "+1"),
    )
)
KITS.register("cuttle")(
    Kit(
        name="Cuttle",
        kind=KitKind.ACTION,
        profiles=("std-709", "vivid-a", "flat-a", "log-lifted"),
        recordings=_modes(
            (Codec.H264, 8, "4:2:0", HD, 25, 45),
            (Codec.HEVC, 8, "4:2:0", UHD, 25, 100),
            (Codec.HEVC, 10, "4:2:0", UHD, 25, 120),
            (Codec.HEVC, 10, "4:2:0", UHD, 30, 120),
            (Codec.HEVC, 10, "4:2:0", UHD, 50, 150),
            (Codec.HEVC, 8, "4:2:0", HD, 200, 100),
        ),
        aperture_widest=2.5,
        aperture_narrowest=2.5,
        iso_base=100,
        iso_ceiling=1600,
        shutter_slowest_s=1 / 25,
        shutter_fastest_s=1 / 8000,
        steadying=(Steadying.MOTION_DATA, Steadying.IN_CAMERA),
        lens_modes=(
            LensMode(name="Wide", width_deg=118),
            LensMode(name="Level", width_deg=86, cost_stops=0.2),
        ),
        covers=(Cover(name="sturdy cover", cost_stops=0.3), Cover(name="clear cover", cost_stops=0.1)),
        filters=(*_densities(3, 4, 5), Filter(name="Red filter", kind=FilterKind.RED, stops=1.3)),
        cards=(Card(name="Card B", gb=64, write_mb_s=45, read_mb_s=90),),
        kelvin_lowest=2300,
        kelvin_highest=6500,
        sharpness=("low", "medium", "high"),
        noise_reduction=FOUR_LEVELS,
        depth_limit_m=60,
        lamp=True,
        school=School.METER,
    )
)
KITS.register("fern")(
    Kit(
        name="Fern",
        kind=KitKind.PHONE,
        profiles=("std-709", "log-mild", "hlg"),
        recordings=_modes(
            (Codec.H264, 8, "4:2:0", HD, 25, 20),
            (Codec.HEVC, 10, "4:2:0", UHD, 25, 60),
            (Codec.HEVC, 10, "4:2:0", UHD, 30, 60),
            (Codec.HEVC, 10, "4:2:0", UHD, 50, 100),
            (Codec.HEVC, 8, "4:2:0", HD, 200, 80),
            (Codec.INTRA, 10, "4:2:2", UHD, 25, 470),
        ),
        aperture_widest=1.8,
        aperture_narrowest=1.8,
        iso_base=50,
        iso_ceiling=1600,
        shutter_slowest_s=1 / 25,
        shutter_fastest_s=1 / 8000,
        steadying=(Steadying.TRIPOD, Steadying.IN_CAMERA),
        lens_modes=(
            LensMode(name="Main lens", width_deg=68),
            LensMode(name="Wide lens", width_deg=104, cost_stops=0.7),
        ),
        filters=_densities(2, 4, 6),
        cards=(Card(name="phone storage", gb=256, write_mb_s=400, read_mb_s=40),),
        sharpness=(),
        noise_reduction=(),
        school=School.UNDER,
    )
)
