"""On every answer: the content security policy, that pages are asked for anew, and a sentence for what went
wrong."""

from collections.abc import Callable

from django.conf import settings
from django.db import OperationalError
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.utils.cache import patch_vary_headers

from morphe.core.errors import MorpheError, is_disk_full
from morphe.web.shell.disk import FULL

__all__ = ["AskedAnew", "ContentSecurityPolicy", "Told"]

Answering = Callable[[HttpRequest], HttpResponse]


class ContentSecurityPolicy:
    """Allow scripts, styles and pictures from this application alone."""

    def __init__(self, get_response: Answering) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        response = self.get_response(request)
        response.headers.setdefault("Content-Security-Policy", settings.CONTENT_SECURITY_POLICY)
        return response


class AskedAnew:
    """Answers that say nothing else belong to one person and are asked for anew every time.

    A piece of a page is at the page's address: on the way back a browser is not to show it in its place.
    """

    def __init__(self, get_response: Answering) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        response = self.get_response(request)
        response.headers.setdefault("Cache-Control", "private, no-cache")
        patch_vary_headers(response, ("HX-Request", "HX-Target"))
        return response


class Told:
    """What a view did not answer itself is told in a sentence: refused, or a file is not there."""

    def __init__(self, get_response: Answering) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        return self.get_response(request)

    def process_exception(self, request: HttpRequest, error: Exception) -> HttpResponse | None:
        """The answer to an error that a person can understand; others stay failures."""
        if isinstance(error, MorpheError):
            return render(request, "shell/problem.html", {"sentence": str(error)}, status=422)
        if isinstance(error, FileNotFoundError):
            sentence = "A file that belongs here is missing from Morphe's data; read the clip anew."
            return render(request, "shell/problem.html", {"sentence": sentence}, status=404)
        if is_disk_full(error):
            return render(request, "shell/problem.html", {"sentence": FULL}, status=507)
        if isinstance(error, OperationalError) and "locked" in str(error):
            sentence = "Morphe is busy writing, and nothing was changed; try again in a moment."
            return render(request, "shell/problem.html", {"sentence": sentence}, status=503)
        return None
