from django.urls import path, re_path

from morphe.web.logbook import views
from morphe.web.shell.audience import looks, works

urlpatterns = [
    path("", looks(views.show), name="logbook"),
    path("compare/", looks(views.compare), name="logbook-compare"),
    path("<int:entry_id>/picture.jpg", looks(views.picture), name="logbook-picture"),
    path("<int:entry_id>/again/", works(views.again), name="logbook-again"),
    re_path(r"^logbook\.(?P<ending>csv|json)$", works(views.export), name="logbook-export"),
]
