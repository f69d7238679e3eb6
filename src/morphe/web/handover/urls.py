from django.urls import path, re_path

from morphe.web.handover import views, views_drop_in
from morphe.web.shell.audience import looks, works

urlpatterns = [
    path("", looks(views.show), name="hand-over"),
    path("start/", works(views.start), name="hand-over-start"),
    path("<int:job_id>/progress/", looks(views.progress), name="hand-over-progress"),
    path("report/", looks(views.report), name="hand-over-report"),
    path("drop-in/", views_drop_in.show, name="drop-in"),
    path("drop-in/set/", views_drop_in.change, name="drop-in-set"),
    path("still/<int:clip_id>/", works(views.still), name="hand-over-still"),
    re_path(r"^(?P<job_id>\d+)/(?P<what>stop|pause|go-on|sooner)/$", works(views.act), name="hand-over-act"),
    re_path(
        r"^(?P<job_id>\d+)/(?P<what>clip|cube|recipe)/$",
        works(views.download),
        name="hand-over-download",
    ),
    re_path(r"^(?P<job_id>\d+)/(?P<what>picture)/$", looks(views.download), name="hand-over-download"),
]
