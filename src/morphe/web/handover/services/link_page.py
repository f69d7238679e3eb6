"""A page to send to somebody for their word: one HTML file with stills before and after in it."""

from __future__ import annotations

import base64
from collections.abc import Callable
from pathlib import Path

import cv2
import numpy as np
from django.template.loader import render_to_string

from morphe.core.footage.probe import probe
from morphe.core.footage.reader import frame_at
from morphe.core.grade import recipe
from morphe.core.handover.output import write_text
from morphe.core.handover.stills import graded_picture
from morphe.core.signal.arrays import Encoded
from morphe.web.clips.models import Clip
from morphe.web.handover.models import HandOver

__all__ = ["write_link_page"]

WIDTH, QUALITY = 1280, 84


def write_link_page(order: HandOver, out: Path, progress: Callable[[int, int], bool]) -> int:
    """Write the page; the number of clips in it. It fetches nothing and needs nothing beside it."""
    clips = Clip.everything.in_bulk([other["clip"] for other in order.others])
    shown = []
    for number, other in enumerate(order.others):
        clip = clips.get(other["clip"])
        if clip is None:
            continue
        info, time_s = probe(clip.path), float(other["time_s"])
        filmed = np.clip(frame_at(info, time_s).encoded(), 0, 1)
        made = graded_picture(info, recipe.from_json(other["grade"]), time_s)
        shown.append({"title": clip.title.rsplit(".", 1)[0], "before": _data(filmed), "after": _data(made)})
        progress(number + 1, len(order.others))
    context = {"title": order.shown_title, "place": order.clip.outing.place, "clips": shown}
    write_text(out, render_to_string("handover/link.html", context))
    return len(shown)


def _data(picture: Encoded) -> str:
    """A picture as a data: address."""
    height, width = picture.shape[:2]
    codes = np.rint(picture * 255).astype(np.uint8)[..., ::-1]
    if width > WIDTH:
        size = (WIDTH, round(height * WIDTH / width))
        codes = cv2.resize(codes, size, interpolation=cv2.INTER_AREA).astype(np.uint8, copy=False)
    data = cv2.imencode(".jpg", np.ascontiguousarray(codes), [cv2.IMWRITE_JPEG_QUALITY, QUALITY])[1]
    return "data:image/jpeg;base64," + base64.b64encode(data.tobytes()).decode()
