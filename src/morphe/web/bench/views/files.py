"""Files that a grade is handed out as."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.views.decorators.http import require_safe

from morphe.core.grade import recipe
from morphe.core.interchange.cdl import cdl_of, cdl_text
from morphe.core.interchange.clf import clf_of_cube
from morphe.core.interchange.cube import cube_of, cube_text
from morphe.core.pipeline.passes import compile_grade
from morphe.web.bench.views.asked import clip_by
from morphe.web.clips.models import Clip
from morphe.web.clips.services.grades.grade import grade_of
from morphe.web.shell.files import attached, plain_name


@require_safe
def recipe_file(request: HttpRequest, clip_id: int) -> HttpResponse:
    clip = clip_by(clip_id)
    return _download(clip, recipe.to_text(grade_of(clip)), "json", "application/json")


@require_safe
def cube_file(request: HttpRequest, clip_id: int) -> HttpResponse:
    clip = clip_by(clip_id)
    lut = cube_of(grade_of(clip), outside_nominal=clip.outside_nominal)
    return _download(clip, cube_text(lut, title=clip.title), "cube", "text/plain")


@require_safe
def clf_file(request: HttpRequest, clip_id: int) -> HttpResponse:
    clip = clip_by(clip_id)
    grade = grade_of(clip)
    lut, left_out = cube_of(grade, outside_nominal=clip.outside_nominal), compile_grade(grade).left_out
    text = clf_of_cube(lut, title=clip.title, left_out=left_out)
    return _download(clip, text, "clf", "application/xml")


@require_safe
def cdl_file(request: HttpRequest, clip_id: int) -> HttpResponse:
    """A decision list that comes near; what it cannot hold stands in the file itself."""
    clip = clip_by(clip_id)
    found = cdl_of(grade_of(clip))
    return _download(clip, cdl_text(found.cdl, clip.title, found.sentence), "cc", "application/xml")


def _download(clip: Clip, text: str, ending: str, kind: str) -> HttpResponse:
    return attached(text, f"{plain_name(clip.title.rsplit('.', 1)[0]) or 'clip'}.{ending}", kind)
