from django.urls import path

from morphe.web.clips import views

urlpatterns = [
    path("", views.listing, name="clips"),
    path("upload/", views.upload, name="clips-upload"),
    path("use-recipe/", views.use_recipe, name="clips-use-recipe"),
    path("<int:clip_id>/filmed-by/", views.filmed_by, name="clip-filmed-by"),
    path("<int:clip_id>/remove/", views.remove, name="clip-remove"),
]
