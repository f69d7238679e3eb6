"""Pages for when there is no page, and the sign of life by which a start knows its own server."""

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

__all__ = ["alive", "failed", "not_found"]


def alive(request: HttpRequest) -> HttpResponse:
    """Which start of Morphe this server belongs to."""
    return HttpResponse(settings.RUN, content_type="text/plain")


def not_found(request: HttpRequest, exception: Exception) -> HttpResponse:
    return render(
        request, "shell/problem.html", {"sentence": "There is nothing at this address."}, status=404
    )


def failed(request: HttpRequest) -> HttpResponse:
    sentence = "Something went wrong here; nothing of yours was changed. Go back and try again."
    return render(request, "shell/problem.html", {"sentence": sentence}, status=500)
