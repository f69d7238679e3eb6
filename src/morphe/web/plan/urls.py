from django.urls import path

from morphe.web.plan import views, views_checks
from morphe.web.shell.audience import looks, works

urlpatterns = [
    path("", looks(views.show), name="plan"),
    path("print/", looks(views.sheets), name="plan-print"),
    path("cameras/", works(views.add), name="plan-add"),
    path("<int:planned_id>/answers/", works(views.answers), name="plan-answers"),
    path("<int:planned_id>/pin/", works(views.pin), name="plan-pin"),
    path("<int:planned_id>/caution/", works(views.caution), name="plan-caution"),
    path("<int:planned_id>/leave/", works(views.leave), name="plan-leave"),
    path("<int:planned_id>/takes/", works(views.take), name="plan-take"),
    path("<int:planned_id>/takes/paste/", works(views.paste), name="plan-paste"),
    path("takes/<int:take_id>/forget/", works(views.forget_take), name="plan-forget-take"),
    path("<int:planned_id>/checks/", looks(views_checks.checks), name="plan-checks"),
    path("<int:planned_id>/checks/begin/", works(views_checks.begin), name="plan-check-begin"),
    path("checks/<int:check_id>/", looks(views_checks.show), name="plan-check"),
    path("checks/<int:check_id>/scopes/", looks(views_checks.scopes), name="plan-check-scopes"),
    path("checks/<int:check_id>.jpg", looks(views_checks.picture), name="plan-check-picture"),
    path("checks/<int:check_id>/forget/", works(views_checks.forget), name="plan-check-forget"),
    path("<int:planned_id>/card.html", looks(views.save_card), name="plan-card"),
    path("<int:planned_id>/card.json", looks(views.save_json), name="plan-json"),
    path("<int:planned_id>/sun.ics", looks(views.save_calendar), name="plan-calendar"),
]
