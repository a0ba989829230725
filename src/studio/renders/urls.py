from django.urls import path, re_path

from studio.renders import views

urlpatterns = [
    path("scenes/<int:scene_id>/renders", views.renders, name="renders"),
    path("scenes/<int:scene_id>/renders/start", views.start, name="render-start"),
    re_path(
        r"^renders/(?P<render_id>\d+)/(?P<action>cancel|again|delete)$",
        views.act,
        name="render-act",
    ),
    path("renders/<int:render_id>/file", views.file, name="render-file"),
]
