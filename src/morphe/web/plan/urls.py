from django.urls import path

from morphe.web.plan import views, views_checks

urlpatterns = [
    path("", views.show, name="plan"),
    path("print/", views.sheets, name="plan-print"),
    path("cameras/", views.add, name="plan-add"),
    path("<int:planned_id>/answers/", views.answers, name="plan-answers"),
    path("<int:planned_id>/pin/", views.pin, name="plan-pin"),
    path("<int:planned_id>/caution/", views.caution, name="plan-caution"),
    path("<int:planned_id>/leave/", views.leave, name="plan-leave"),
    path("<int:planned_id>/takes/", views.take, name="plan-take"),
    path("<int:planned_id>/takes/paste/", views.paste, name="plan-paste"),
    path("takes/<int:take_id>/forget/", views.forget_take, name="plan-forget-take"),
    path("<int:planned_id>/checks/", views_checks.checks, name="plan-checks"),
    path("<int:planned_id>/checks/begin/", views_checks.begin, name="plan-check-begin"),
    path("checks/<int:check_id>/", views_checks.show, name="plan-check"),
    path("checks/<int:check_id>/scopes/", views_checks.scopes, name="plan-check-scopes"),
    path("checks/<int:check_id>.jpg", views_checks.picture, name="plan-check-picture"),
    path("checks/<int:check_id>/forget/", views_checks.forget, name="plan-check-forget"),
    path("<int:planned_id>/card.html", views.save_card, name="plan-card"),
    path("<int:planned_id>/card.json", views.save_json, name="plan-json"),
    path("<int:planned_id>/sun.ics", views.save_calendar, name="plan-calendar"),
]
