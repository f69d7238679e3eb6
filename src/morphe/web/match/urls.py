from django.urls import path

from morphe.web.match import views

urlpatterns = [
    path("", views.show, name="match"),
    path("pin/", views.pin, name="match-pin"),
    path("pin/<int:pin_id>.jpg", views.pin_picture, name="match-pin-picture"),
    path("pin/<int:pin_id>/away/", views.unpin, name="match-unpin"),
    path("start/", views.start, name="match-start"),
    path("use/", views.use_several, name="match-use-several"),
    path("<int:matching_id>/use/", views.use, name="match-use"),
    path("<int:matching_id>/off/", views.off, name="match-off"),
    path("clip/<int:clip_id>/<int:number>.jpg", views.clip_picture, name="match-clip-picture"),
    path("<int:matching_id>/<int:number>/still.jpg", views.still, name="match-still"),
    path("<int:matching_id>/<int:number>/scopes.jpg", views.scopes, name="match-scopes"),
]
