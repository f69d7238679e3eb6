from django.urls import path

from morphe.web.library import views

urlpatterns = [
    path("", views.listing, name="library"),
    path("cameras/new/", views.edit, name="camera-new"),
    path("cameras/take-in/", views.take_in, name="camera-take-in"),
    path("cameras/<int:camera_id>/", views.edit, name="camera"),
    path("cameras/<int:camera_id>/camera.json", views.save, name="camera-json"),
    path("cameras/<int:camera_id>/remove/", views.remove, name="camera-remove"),
]
