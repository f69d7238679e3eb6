from django.urls import path

from morphe.web.devices import views, views_offline
from morphe.web.shell.audience import anybody, looks

urlpatterns = [
    path("library/devices/", views.devices, name="devices"),
    path("library/devices/link/", views.link, name="device-link"),
    path("library/devices/network/", views.switch, name="network-switch"),
    path("library/devices/<int:device_id>/away/", views.away, name="device-away"),
    path("manifest.webmanifest", looks(views_offline.manifest), name="manifest"),
    path("service-worker.js", looks(views_offline.service_worker), name="service-worker"),
    path("offline/", looks(views_offline.offline), name="offline"),
    path("offline/wanted.json", looks(views_offline.wanted), name="offline-wanted"),
    path("pair/root.crt", anybody(views.root_certificate), name="root-certificate"),
    path("pair/style.css", anybody(views.pair_style), name="pair-style"),
    path("pair/<str:token>/", anybody(views.pair_device), name="pair"),
]
