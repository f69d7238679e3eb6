"""The content security policy on every answer."""

from collections.abc import Callable

from django.conf import settings
from django.http import HttpRequest, HttpResponse

__all__ = ["ContentSecurityPolicy"]


class ContentSecurityPolicy:
    """Allow scripts, styles and pictures from this application alone."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        response = self.get_response(request)
        response.headers.setdefault("Content-Security-Policy", settings.CONTENT_SECURITY_POLICY)
        return response
