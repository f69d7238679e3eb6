"""A request as it reaches a view."""

from django.http import HttpRequest
from django_htmx.middleware import HtmxDetails

__all__ = ["Request"]


class Request(HttpRequest):
    """With what the page asked for, if it asked for a piece of itself."""

    htmx: HtmxDetails
