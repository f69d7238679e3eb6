from django.urls import path

from morphe.web.shell.audience import looks, works
from morphe.web.today import views

urlpatterns = [
    path("", looks(views.today), name="today"),
    path("demo/back/", works(views.demo_back), name="demo-back"),
    path("demo/away/", works(views.demo_away), name="demo-away"),
    path("outings/", works(views.begin), name="outing-begin"),
    path("outings/<int:outing_id>/open/", works(views.reopen), name="outing-open"),
]
