from django.urls import path, re_path

from morphe.web.library import views, views_incoming, views_lab, views_profiles, views_styles

urlpatterns = [
    path("", views.listing, name="library"),
    path("cameras/new/", views.edit, name="camera-new"),
    path("cameras/take-in/", views.take_in, name="camera-take-in"),
    path("cameras/<int:camera_id>/", views.edit, name="camera"),
    path("cameras/<int:camera_id>/camera.json", views.save, name="camera-json"),
    path("cameras/<int:camera_id>/remove/", views.remove, name="camera-remove"),
    path("profiles/", views_profiles.profiles, name="profiles"),
    path("profiles/new/", views_profiles.profile_new, name="profile-new"),
    path("profiles/judged/<int:clip_id>/", views_profiles.judged_curve, name="judged-curve"),
    path("profiles/<slug:key>/", views_profiles.profile, name="profile"),
    path("profiles/<slug:key>/remove/", views_profiles.profile_remove, name="profile-remove"),
    re_path(
        r"^profiles/(?P<key>[-\w]+)/profile\.(?P<ending>clf|cube|csv|json)$",
        views_profiles.profile_file,
        name="profile-file",
    ),
    path("profiles/<slug:key>/screen.cube", views_styles.monitoring, name="monitoring"),
    path("looks/", views_styles.styles, name="styles"),
    path("looks/take-in/", views_styles.take_in, name="style-take-in"),
    path("looks/<slug:key>/role/", views_styles.role, name="lut-role"),
    path("looks/<slug:key>/remove/", views_styles.remove, name="style-remove"),
    path("looks/<slug:key>/picture.jpg", views_styles.picture, name="look-picture"),
    re_path(
        r"^looks/(?P<key>[-\w]+)/look\.(?P<ending>json|cube)$", views_styles.handed_out, name="look-file"
    ),
    path("incoming/", views_incoming.incoming, name="incoming"),
    path("incoming/<int:series_id>/", views_incoming.incoming, name="incoming-takes"),
    path("lab/", views_lab.lab, name="lab"),
    path("lab/begin/", views_lab.lab_begin, name="lab-begin"),
    path("lab/<int:series_id>/", views_lab.series, name="lab-series"),
    path("lab/<int:series_id>/takes/", views_lab.takes_add, name="lab-takes"),
    path("lab/<int:series_id>/fit/", views_lab.fit, name="lab-fit"),
    path("lab/<int:series_id>/reference/", views_lab.reference, name="lab-reference"),
    path("lab/<int:series_id>/reference.csv", views_lab.reference_file, name="lab-reference-file"),
    path("lab/<int:series_id>/save/", views_lab.series_save, name="lab-save"),
    path("lab/<int:series_id>/remove/", views_lab.series_remove, name="lab-remove"),
    path("lab/takes/<int:take_id>/", views_lab.take_change, name="lab-take"),
    path("lab/takes/<int:take_id>/picture.jpg", views_lab.take_picture, name="lab-take-picture"),
]
