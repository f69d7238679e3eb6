"""Pages for when there is no page, news for open ones, and the sign by which a start knows its server."""

from django.conf import settings
from django.http import HttpRequest, HttpResponse, HttpResponseNotModified, JsonResponse
from django.shortcuts import render
from django.views.decorators.http import require_safe

from morphe.web.shell.changes import marks_of

__all__ = ["alive", "failed", "news", "not_found"]


def alive(request: HttpRequest) -> HttpResponse:
    """Which start of Morphe this server belongs to."""
    return HttpResponse(settings.RUN, content_type="text/plain")


@require_safe
def news(request: HttpRequest) -> HttpResponse:
    """The marks of the pieces that a page shows; nothing if none has changed since it last asked."""
    marks = marks_of(request.GET.get("of", "").split(","))
    tag = '"{}"'.format("-".join(marks.values()))
    if request.headers.get("If-None-Match") == tag:
        return HttpResponseNotModified()
    return JsonResponse(marks, headers={"ETag": tag})


def not_found(request: HttpRequest, exception: Exception) -> HttpResponse:
    return render(
        request, "shell/problem.html", {"sentence": "There is nothing at this address."}, status=404
    )


def failed(request: HttpRequest) -> HttpResponse:
    sentence = "Something went wrong here; nothing of yours was changed. Go back and try again."
    return render(request, "shell/problem.html", {"sentence": sentence}, status=500)
