from django.urls import path, re_path

from studio.footage import views

urlpatterns = [
    path(
        "projects/<int:project_id>/footage/<str:file_name>/<int:number>.frames",
        views.block,
        name="footage-block",
    ),
    path(
        "projects/<int:project_id>/footage/<str:file_name>/<int:index>.jpg",
        views.frame,
        name="footage-frame",
    ),
    path(
        "projects/<int:project_id>/footage/<str:file_name>/small",
        views.state,
        name="footage-small",
    ),
    re_path(
        r"^projects/(?P<project_id>\d+)/footage/(?P<file_name>[\w.-]+)/(?P<action>cancel|again)$",
        views.act,
        name="footage-act",
    ),
]
