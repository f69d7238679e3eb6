"""Pages for when there is no page."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

__all__ = ["failed", "not_found"]


def not_found(request: HttpRequest, exception: Exception) -> HttpResponse:
    return render(
        request, "shell/problem.html", {"sentence": "There is nothing at this address."}, status=404
    )


def failed(request: HttpRequest) -> HttpResponse:
    sentence = "Something went wrong here; nothing of yours was changed. Go back and try again."
    return render(request, "shell/problem.html", {"sentence": sentence}, status=500)
