from django.urls import path

from morphe.web.practice import views, views_camera
from morphe.web.shell.audience import works

urlpatterns = [
    path("", works(views.show), name="practice"),
    path("wish/", works(views.wish), name="practice-wish"),
    path("start-over/", works(views.start_over), name="practice-start-over"),
    path("camera/", works(views_camera.show), name="practice-camera"),
    path("eyes/<slug:sense>/", works(views.compare), name="practice-eyes"),
    path("eyes/<slug:sense>/answer/", works(views.compared), name="practice-compared"),
    path("mend/<slug:kind>/", works(views.mend), name="practice-mend"),
    path("mended/<int:mend_id>/", works(views.mend_result), name="practice-mended"),
    path("mended/<int:mend_id>/end/", works(views.mended), name="practice-mend-end"),
    path("mended/<int:mend_id>/truth.jpg", works(views.mend_truth), name="practice-truth"),
    path("answer/<int:prepared_id>/", works(views.answer), name="practice-answer"),
    path("<slug:key>/", works(views.take), name="practice-take"),
]
