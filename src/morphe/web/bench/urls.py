from django.urls import path, re_path

from morphe.web.bench import views
from morphe.web.shell.audience import asks, looks, works

ACTS = (
    "accept|accept-all|switch|reset|undo|redo|keep|profile|render-as|by-hand|keep-curve|even-out|follow|hour|skin-forget|fix|look|save-look|school|usual|forget-habit|"
    "water-(?:wet|tell|way|log|learn|unlearn)|region-(?:add|inverse|still|leave)|finish-(?:effect|shape|title|subject)|layer-(?:remove|switch|name|put|take|share|split|back)"
)

urlpatterns = [
    path("", looks(views.choose), name="bench"),
    path("<int:clip_id>/", looks(views.show), name="bench-clip"),
    re_path(rf"^(?P<clip_id>\d+)/change/(?P<act>{ACTS})/$", works(views.change), name="bench-change"),
    path("<int:clip_id>/parts/<str:act>/", works(views.parts), name="bench-parts"),
    path("tour/<str:act>/", works(views.tour), name="bench-tour"),
    path("<int:clip_id>/ladder/", looks(views.ladder), name="bench-ladder"),
    path("<int:clip_id>/followed/", looks(views.followed), name="bench-followed"),
    path("<int:clip_id>/over-time/", looks(views.light_over_time), name="bench-over-time"),
    path("<int:clip_id>/still/", asks(views.still), name="bench-still"),
    path("<int:clip_id>/passes/", asks(views.passes), name="bench-passes"),
    path("<int:clip_id>/proxy.mp4", looks(views.proxy), name="bench-proxy"),
    path("<int:clip_id>/frames/", asks(views.frames), name="bench-frames"),
    path("<int:clip_id>/before/<int:number>.jpg", looks(views.before), name="bench-before"),
    path("<int:clip_id>/thumbnail/<int:number>.jpg", looks(views.thumbnail), name="bench-thumbnail"),
    path("<int:clip_id>/probe/", asks(views.probe), name="bench-probe"),
    path("<int:clip_id>/lit/", asks(views.lit), name="bench-lit"),
    path("<int:clip_id>/grain/", asks(views.grain), name="bench-grain"),
    path("<int:clip_id>/tap/", works(views.tap), name="bench-tap"),
    path("<int:clip_id>/history/", looks(views.history), name="bench-history"),
    re_path(
        r"^(?P<clip_id>\d+)/history/(?P<act>name|back)/$", works(views.version_act), name="bench-version"
    ),
    path(
        "<int:clip_id>/history/<int:version_id>.jpg",
        looks(views.version_picture),
        name="bench-version-picture",
    ),
    path("<int:clip_id>/elsewhere/", looks(views.elsewhere), name="bench-elsewhere"),
    path("<int:clip_id>/looks/", looks(views.looks), name="bench-looks"),
    path("<int:clip_id>/look/<slug:key>.jpg", looks(views.look), name="bench-look"),
    re_path(
        r"^(?P<clip_id>\d+)/choice/(?P<key>[a-z]+)/(?P<way>with|without)\.jpg$",
        looks(views.choice),
        name="bench-choice",
    ),
    path("<int:clip_id>/ghost/", looks(views.ghost), name="bench-ghost"),
    path("<int:clip_id>/recipe.json", works(views.recipe_file), name="bench-recipe"),
    path("<int:clip_id>/grade.clf", works(views.clf_file), name="bench-clf"),
    path("<int:clip_id>/grade.cc", works(views.cdl_file), name="bench-cdl"),
    path("<int:clip_id>/grade.cube", works(views.cube_file), name="bench-cube"),
]
