"""Headers on every answer: the content security policy, and that pages are asked for anew."""

from collections.abc import Callable

from django.conf import settings
from django.http import HttpRequest, HttpResponse

__all__ = ["AskedAnew", "ContentSecurityPolicy"]

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
    """Answers that say nothing else belong to one person and are asked for anew every time."""

    def __init__(self, get_response: Answering) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        response = self.get_response(request)
        response.headers.setdefault("Cache-Control", "private, no-cache")
        return response
