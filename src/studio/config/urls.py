"""Where everything is."""

from django.conf import settings
from django.contrib import admin
from django.urls import include, path

urlpatterns = [
    path("", include("studio.projects.urls")),
    path("", include("studio.editor.urls")),
    path("", include("studio.renders.urls")),
    path("", include("studio.footage.urls")),
    path("", include("studio.people.urls")),
    path("", include("studio.api.urls")),
    path("", include("studio.manual.urls")),
]
if settings.SERVER_MODE:
    urlpatterns.append(path("tables/", admin.site.urls))
