from django.urls import path, re_path

from morphe.web.bench.acts import ACTS
from morphe.web.bench.views import changes, files, page, stills
from morphe.web.shell.audience import asks, looks, works

urlpatterns = [
    path("", looks(page.choose), name="bench"),
    path("<int:clip_id>/", looks(page.show), name="bench-clip"),
    re_path(
        rf"^(?P<clip_id>\d+)/change/(?P<act>{'|'.join(ACTS)})/$", works(changes.change), name="bench-change"
    ),
    path("<int:clip_id>/parts/<str:act>/", works(changes.parts), name="bench-parts"),
    path("tour/<str:act>/", works(changes.tour), name="bench-tour"),
    path("<int:clip_id>/ladder/", looks(page.ladder), name="bench-ladder"),
    path("<int:clip_id>/followed/", looks(page.followed), name="bench-followed"),
    path("<int:clip_id>/over-time/", looks(page.light_over_time), name="bench-over-time"),
    path("<int:clip_id>/still/", asks(stills.still), name="bench-still"),
    path("<int:clip_id>/passes/", asks(stills.passes), name="bench-passes"),
    path("<int:clip_id>/proxy.mp4", looks(stills.proxy), name="bench-proxy"),
    path("<int:clip_id>/frames/", asks(stills.frames), name="bench-frames"),
    path("<int:clip_id>/before/<int:number>.jpg", looks(stills.before), name="bench-before"),
    path("<int:clip_id>/thumbnail/<int:number>.jpg", looks(stills.thumbnail), name="bench-thumbnail"),
    path("<int:clip_id>/probe/", asks(stills.probe), name="bench-probe"),
    path("<int:clip_id>/lit/", asks(stills.lit), name="bench-lit"),
    path("<int:clip_id>/grain/", asks(stills.grain), name="bench-grain"),
    path("<int:clip_id>/tap/", works(changes.tap), name="bench-tap"),
    path("<int:clip_id>/history/", looks(page.history), name="bench-history"),
    re_path(
        r"^(?P<clip_id>\d+)/history/(?P<act>name|back)/$", works(changes.version_act), name="bench-version"
    ),
    path(
        "<int:clip_id>/history/<int:version_id>.jpg",
        looks(stills.version_picture),
        name="bench-version-picture",
    ),
    path("<int:clip_id>/elsewhere/", looks(page.elsewhere), name="bench-elsewhere"),
    path("<int:clip_id>/looks/", looks(page.looks), name="bench-looks"),
    path("<int:clip_id>/look/<slug:key>.jpg", looks(stills.look), name="bench-look"),
    re_path(
        r"^(?P<clip_id>\d+)/choice/(?P<key>[a-z]+)/(?P<way>with|without)\.jpg$",
        looks(stills.choice),
        name="bench-choice",
    ),
    path("<int:clip_id>/ghost/", looks(stills.ghost), name="bench-ghost"),
    path("<int:clip_id>/recipe.json", works(files.recipe_file), name="bench-recipe"),
    path("<int:clip_id>/grade.clf", works(files.clf_file), name="bench-clf"),
    path("<int:clip_id>/grade.cc", works(files.cdl_file), name="bench-cdl"),
    path("<int:clip_id>/grade.cube", works(files.cube_file), name="bench-cube"),
]
