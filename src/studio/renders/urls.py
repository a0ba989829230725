from django.urls import path, re_path

from studio.renders import screens, series, views

urlpatterns = [
    path("projects/<int:project_id>/screen", screens.screen, name="screen"),
    re_path(
        r"^projects/(?P<project_id>\d+)/screen/(?P<action>link|withdraw)$",
        screens.act,
        name="screen-act",
    ),
    path("screens/worker.js", screens.worker, name="screen-worker"),
    path("screens/<str:key>/", screens.linked, name="linked-screen"),
    path("screens/<str:key>/<int:render_id>", screens.linked_file, name="linked-file"),
    path("renders", views.queue, name="queue"),
    path("renders/several", views.several, name="render-several"),
    path("renders/<int:render_id>/seen", views.seen, name="render-seen"),
    path("scenes/<int:scene_id>/frames/<int:number>.png", views.frame, name="frame-picture"),
    path("scenes/<int:scene_id>/series", series.page, name="series"),
    path("scenes/<int:scene_id>/series/read", series.read, name="series-read"),
    path("scenes/<int:scene_id>/series/add", series.add, name="series-add"),
    path("scenes/<int:scene_id>/series/look", series.look, name="series-look"),
    path("scenes/<int:scene_id>/series/start", series.start, name="series-start"),
    path("scenes/<int:scene_id>/renders", views.renders, name="renders"),
    path("scenes/<int:scene_id>/renders/start", views.start, name="render-start"),
    path("scenes/<int:scene_id>/renders/told", views.told, name="render-told"),
    path("scenes/<int:scene_id>/renders/size", views.size, name="render-size"),
    path("scenes/<int:scene_id>/renders/presets", views.keep_preset, name="preset-keep"),
    path(
        "scenes/<int:scene_id>/renders/presets/<int:preset_id>/drop",
        views.drop_preset,
        name="preset-drop",
    ),
    re_path(
        r"^renders/(?P<render_id>\d+)/(?P<action>cancel|pause|hurry|again|delete)$",
        views.act,
        name="render-act",
    ),
    path("renders/<int:render_id>/file", views.file, name="render-file"),
]
