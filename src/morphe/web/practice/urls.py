from django.urls import path

from morphe.web.practice import views, views_camera

urlpatterns = [
    path("", views.show, name="practice"),
    path("wish/", views.wish, name="practice-wish"),
    path("start-over/", views.start_over, name="practice-start-over"),
    path("camera/", views_camera.show, name="practice-camera"),
    path("eyes/<slug:sense>/", views.compare, name="practice-eyes"),
    path("eyes/<slug:sense>/answer/", views.compared, name="practice-compared"),
    path("mend/<slug:kind>/", views.mend, name="practice-mend"),
    path("mended/<int:mend_id>/", views.mend_result, name="practice-mended"),
    path("mended/<int:mend_id>/end/", views.mended, name="practice-mend-end"),
    path("mended/<int:mend_id>/truth.jpg", views.mend_truth, name="practice-truth"),
    path("answer/<int:prepared_id>/", views.answer, name="practice-answer"),
    path("<slug:key>/", views.take, name="practice-take"),
]
