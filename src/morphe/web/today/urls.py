from django.urls import path

from morphe.web.today import views

urlpatterns = [
    path("", views.today, name="today"),
    path("outings/", views.begin, name="outing-begin"),
    path("outings/<int:outing_id>/open/", views.reopen, name="outing-open"),
]
