from django.urls import path, re_path

from morphe.web.logbook import views

urlpatterns = [
    path("", views.show, name="logbook"),
    re_path(r"^logbook\.(?P<ending>csv|json)$", views.export, name="logbook-export"),
]
