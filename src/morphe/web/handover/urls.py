from django.urls import path, re_path

from morphe.web.handover import views, views_drop_in

urlpatterns = [
    path("", views.show, name="hand-over"),
    path("start/", views.start, name="hand-over-start"),
    path("<int:job_id>/progress/", views.progress, name="hand-over-progress"),
    path("report/", views.report, name="hand-over-report"),
    path("drop-in/", views_drop_in.show, name="drop-in"),
    path("drop-in/set/", views_drop_in.change, name="drop-in-set"),
    path("still/<int:clip_id>/", views.still, name="hand-over-still"),
    re_path(r"^(?P<job_id>\d+)/(?P<what>stop|pause|go-on|sooner)/$", views.act, name="hand-over-act"),
    re_path(
        r"^(?P<job_id>\d+)/(?P<what>clip|cube|recipe|picture)/$", views.download, name="hand-over-download"
    ),
]
