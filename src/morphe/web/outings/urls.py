from django.urls import path

from morphe.web.outings import views

urlpatterns = [path("", views.today, name="today")]
