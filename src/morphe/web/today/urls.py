from django.urls import path

from morphe.web.today import views

urlpatterns = [
    path("", views.today, name="today"),
    path("demo/back/", views.demo_back, name="demo-back"),
    path("demo/away/", views.demo_away, name="demo-away"),
    path("outings/", views.begin, name="outing-begin"),
    path("outings/<int:outing_id>/open/", views.reopen, name="outing-open"),
]
