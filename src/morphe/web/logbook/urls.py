from django.urls import path, re_path

from morphe.web.logbook import views

urlpatterns = [
    path("", views.show, name="logbook"),
    path("compare/", views.compare, name="logbook-compare"),
    path("<int:entry_id>/picture.jpg", views.picture, name="logbook-picture"),
    path("<int:entry_id>/again/", views.again, name="logbook-again"),
    re_path(r"^logbook\.(?P<ending>csv|json)$", views.export, name="logbook-export"),
]
