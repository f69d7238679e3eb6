from django.urls import path, re_path

from morphe.web.handover import views

urlpatterns = [
    path("", views.show, name="hand-over"),
    path("start/", views.start, name="hand-over-start"),
    path("<int:job_id>/progress/", views.progress, name="hand-over-progress"),
    path("<int:job_id>/stop/", views.stop, name="hand-over-stop"),
    re_path(r"^(?P<job_id>\d+)/(?P<what>clip|cube|recipe)/$", views.download, name="hand-over-download"),
]
