"""Addresses: one prefix per place."""

from django.urls import include, path

from morphe.web.shell.audience import looks
from morphe.web.shell.views import alive, news

urlpatterns = [
    path("", include("morphe.web.today.urls")),
    path("", include("morphe.web.devices.urls")),
    path("alive/", looks(alive), name="alive"),
    path("news/", looks(news), name="news"),
    path("plan/", include("morphe.web.plan.urls")),
    path("library/", include("morphe.web.library.urls")),
    path("keep/", include("morphe.web.keep.urls")),
    path("clips/", include("morphe.web.clips.urls")),
    path("bench/", include("morphe.web.bench.urls")),
    path("match/", include("morphe.web.match.urls")),
    path("hand-over/", include("morphe.web.handover.urls")),
    path("practice/", include("morphe.web.practice.urls")),
    path("logbook/", include("morphe.web.logbook.urls")),
]

handler404 = "morphe.web.shell.views.not_found"
handler500 = "morphe.web.shell.views.failed"
