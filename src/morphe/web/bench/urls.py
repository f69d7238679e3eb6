from django.urls import path, re_path

from morphe.web.bench import views

ACTS = (
    "accept|accept-all|switch|reset|undo|redo|keep|profile|render-as|by-hand|keep-curve|even-out|follow|hour|skin-forget|fix|look|save-look|school|usual|forget-habit|"
    "water-(?:wet|tell|way|log|learn|unlearn)|region-(?:add|inverse|still|leave)|finish-(?:effect|shape|title|subject)|layer-(?:remove|switch|name|put|take|share|split|back)"
)

urlpatterns = [
    path("", views.choose, name="bench"),
    path("<int:clip_id>/", views.show, name="bench-clip"),
    re_path(rf"^(?P<clip_id>\d+)/change/(?P<act>{ACTS})/$", views.change, name="bench-change"),
    path("<int:clip_id>/parts/<str:act>/", views.parts, name="bench-parts"),
    path("tour/<str:act>/", views.tour, name="bench-tour"),
    path("<int:clip_id>/ladder/", views.ladder, name="bench-ladder"),
    path("<int:clip_id>/followed/", views.followed, name="bench-followed"),
    path("<int:clip_id>/over-time/", views.light_over_time, name="bench-over-time"),
    path("<int:clip_id>/still/", views.still, name="bench-still"),
    path("<int:clip_id>/passes/", views.passes, name="bench-passes"),
    path("<int:clip_id>/proxy.mp4", views.proxy, name="bench-proxy"),
    path("<int:clip_id>/frames/", views.frames, name="bench-frames"),
    path("<int:clip_id>/before/<int:number>.jpg", views.before, name="bench-before"),
    path("<int:clip_id>/thumbnail/<int:number>.jpg", views.thumbnail, name="bench-thumbnail"),
    path("<int:clip_id>/probe/", views.probe, name="bench-probe"),
    path("<int:clip_id>/lit/", views.lit, name="bench-lit"),
    path("<int:clip_id>/grain/", views.grain, name="bench-grain"),
    path("<int:clip_id>/tap/", views.tap, name="bench-tap"),
    path("<int:clip_id>/history/", views.history, name="bench-history"),
    re_path(r"^(?P<clip_id>\d+)/history/(?P<act>name|back)/$", views.version_act, name="bench-version"),
    path("<int:clip_id>/history/<int:version_id>.jpg", views.version_picture, name="bench-version-picture"),
    path("<int:clip_id>/elsewhere/", views.elsewhere, name="bench-elsewhere"),
    path("<int:clip_id>/looks/", views.looks, name="bench-looks"),
    path("<int:clip_id>/look/<slug:key>.jpg", views.look, name="bench-look"),
    re_path(
        r"^(?P<clip_id>\d+)/choice/(?P<key>[a-z]+)/(?P<way>with|without)\.jpg$",
        views.choice,
        name="bench-choice",
    ),
    path("<int:clip_id>/ghost/", views.ghost, name="bench-ghost"),
    path("<int:clip_id>/recipe.json", views.recipe_file, name="bench-recipe"),
    path("<int:clip_id>/grade.clf", views.clf_file, name="bench-clf"),
    path("<int:clip_id>/grade.cc", views.cdl_file, name="bench-cdl"),
    path("<int:clip_id>/grade.cube", views.cube_file, name="bench-cube"),
]
