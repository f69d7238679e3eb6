from django.urls import path, re_path

from morphe.web.clips import views, views_arrivals

urlpatterns = [
    path("", views.listing, name="clips"),
    path("upload/", views.upload, name="clips-upload"),
    path("uploads/", views_arrivals.upload_begin, name="clips-upload-begin"),
    path("uploads/<str:token>/", views_arrivals.upload_piece, name="clips-upload-piece"),
    path("uploads/<str:token>/stop/", views_arrivals.upload_stop, name="clips-upload-stop"),
    path("card/", views_arrivals.card, name="clips-card"),
    path("card/begin/", views_arrivals.card_begin, name="clips-card-begin"),
    path("card/<int:job_id>/stop/", views_arrivals.card_stop, name="clips-card-stop"),
    path("use-recipe/", views.use_recipe, name="clips-use-recipe"),
    path("preparing/", views.preparing, name="clips-preparing"),
    path("imports/", views.imports, name="clips-imports"),
    path("fit/", views.fit, name="clips-fit"),
    path("offer/", views.offer, name="clips-offer"),
    path("decide/", views.decide, name="clips-decide"),
    re_path(r"^decisions/(?P<decision_id>\d+)/(?P<act>undo|redo)/$", views.turn_back, name="clips-turn-back"),
    path("<int:clip_id>/corrected.jpg", views.corrected, name="clip-corrected"),
    path("group-anew/", views.regroup, name="clips-group-anew"),
    path("space/", views.space, name="clips-space"),
    path("<int:clip_id>/group/", views.group, name="clip-group"),
    path("<int:clip_id>/filmed-by/", views.filmed_by, name="clip-filmed-by"),
    path("<int:clip_id>/as/<str:key>.jpg", views.filmed_as_picture, name="clip-as"),
    path("<int:clip_id>/filmed-as/", views.filmed_as, name="clip-filmed-as"),
    path("<int:clip_id>/wet/", views.wet, name="clip-wet"),
    path("<int:clip_id>/wet/<slug:answer>.jpg", views.wet_picture, name="clip-wet-picture"),
    path("<int:clip_id>/light/", views.light, name="clip-light"),
    path("<int:clip_id>/light/<slug:way>.jpg", views.light_picture, name="clip-light-picture"),
    path("<int:clip_id>/remove/", views.remove, name="clip-remove"),
]
