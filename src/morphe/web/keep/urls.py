from django.urls import path

from morphe.web.keep import views

urlpatterns = [
    path("", views.show, name="keep"),
    path("backup/", views.backup, name="keep-backup"),
    path("backup/<int:backup_id>/", views.download, name="keep-download"),
    path("backup/<int:backup_id>/remove/", views.remove, name="keep-remove"),
    path("restore/", views.restore, name="keep-restore"),
    path("proxies/", views.proxies, name="keep-proxies"),
]
