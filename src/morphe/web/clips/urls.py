from django.urls import path, re_path

from morphe.web.clips import views, views_card, views_uploads
from morphe.web.shell.audience import looks, works

urlpatterns = [
    path("", looks(views.listing), name="clips"),
    path("upload/", works(views.upload), name="clips-upload"),
    path("uploads/", works(views_uploads.begin), name="clips-uploads"),
    path("uploads/<str:token>/", works(views_uploads.upload), name="clips-upload-on-its-way"),
    path("uploads/<str:token>/stop/", works(views_uploads.stop), name="clips-upload-stop"),
    path("card/", works(views_card.card), name="clips-card"),
    path("card/begin/", works(views_card.card_begin), name="clips-card-begin"),
    path("card/<int:job_id>/stop/", works(views_card.card_stop), name="clips-card-stop"),
    path("use-recipe/", works(views.use_recipe), name="clips-use-recipe"),
    path("preparing/", looks(views.preparing), name="clips-preparing"),
    path("imports/", looks(views.imports), name="clips-imports"),
    path("fit/", looks(views.fit), name="clips-fit"),
    path("offer/", looks(views.offer), name="clips-offer"),
    path("decide/", works(views.decide), name="clips-decide"),
    re_path(
        r"^decisions/(?P<decision_id>\d+)/(?P<act>undo|redo)/$",
        works(views.turn_back),
        name="clips-turn-back",
    ),
    path("<int:clip_id>/corrected.jpg", looks(views.corrected), name="clip-corrected"),
    path("group-anew/", works(views.regroup), name="clips-group-anew"),
    path("space/", works(views.space), name="clips-space"),
    path("<int:clip_id>/group/", works(views.group), name="clip-group"),
    path("<int:clip_id>/filmed-by/", works(views.filmed_by), name="clip-filmed-by"),
    path("<int:clip_id>/asked/<slug:question>/", works(views.asked), name="clip-asked"),
    path(
        "<int:clip_id>/asked/<slug:question>/<str:key>.jpg",
        looks(views.asked_picture),
        name="clip-asked-picture",
    ),
    re_path(
        rf"^(?P<clip_id>\d+)/shots/(?P<act>{'|'.join(views.SHOTS)})/$", works(views.shots), name="clip-shots"
    ),
    path("<int:clip_id>/shots/", looks(views.shots_read), name="clip-shots-read"),
    path("<int:clip_id>/remove/", works(views.remove), name="clip-remove"),
]
