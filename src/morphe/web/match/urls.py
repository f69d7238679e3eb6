from django.urls import path

from morphe.web.match import views
from morphe.web.shell.audience import looks, works

urlpatterns = [
    path("", looks(views.show), name="match"),
    path("pin/", works(views.pin), name="match-pin"),
    path("pin/<int:pin_id>.jpg", looks(views.pin_picture), name="match-pin-picture"),
    path("pin/<int:pin_id>/away/", works(views.unpin), name="match-unpin"),
    path("start/", works(views.start), name="match-start"),
    path("use/", works(views.use_several), name="match-use-several"),
    path("<int:matching_id>/use/", works(views.use), name="match-use"),
    path("<int:matching_id>/off/", works(views.off), name="match-off"),
    path("clip/<int:clip_id>/<int:number>.jpg", looks(views.clip_picture), name="match-clip-picture"),
    path("<int:matching_id>/<int:number>/still.jpg", looks(views.still), name="match-still"),
    path("<int:matching_id>/<int:number>/scopes.jpg", looks(views.scopes), name="match-scopes"),
]
