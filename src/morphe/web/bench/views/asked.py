"""What all views of the Bench ask of a request."""

from __future__ import annotations

import json
import logging
from typing import Any

from django.http import HttpRequest, JsonResponse
from django.shortcuts import get_object_or_404

from morphe.core.errors import MorpheError, RecipeError
from morphe.core.grade import recipe
from morphe.web.clips.models import Clip
from morphe.web.shell.numbers import decimal

MAX_BODY = recipe.MAX_BYTES + 100_000  # a grade and what is said beside it
UNREADABLE = "The request is not readable; reload the page."
logger = logging.getLogger(__name__)


def clip_by(clip_id: int) -> Clip:
    """The clip of an address, or 404."""
    return get_object_or_404(Clip.objects.with_grades().select_related("camera"), pk=clip_id)


def refusal(error: Exception) -> JsonResponse:
    """The answer to a script whose request cannot be done; what is ours is logged."""
    if not isinstance(error, MorpheError):
        logger.warning("A request to the Bench could not be read", exc_info=error)
    return JsonResponse({"problem": str(error) if isinstance(error, MorpheError) else UNREADABLE}, status=422)


def body(request: HttpRequest) -> dict[str, Any]:
    """What a script has sent.

    Raises
    ------
    RecipeError
        If it is too long, or no JSON object of finite numbers.
    """
    if len(request.body) > MAX_BODY:
        raise RecipeError("That is far too long for a grade.")
    try:
        data = json.loads(request.body, parse_float=decimal, parse_constant=decimal)
    except (ValueError, RecursionError) as error:
        raise RecipeError(UNREADABLE) from error
    if not isinstance(data, dict):
        raise RecipeError(UNREADABLE)
    return data
