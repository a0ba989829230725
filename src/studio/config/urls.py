"""Where everything is."""

from django.conf import settings
from django.contrib import admin
from django.contrib.auth.decorators import login_not_required
from django.urls import include, path
from django.views.i18n import JavaScriptCatalog, set_language

urlpatterns = [
    path("", include("studio.projects.urls")),
    path("", include("studio.editor.urls")),
    path("", include("studio.renders.urls")),
    path("", include("studio.footage.urls")),
    path("", include("studio.people.urls")),
    path("", include("studio.api.urls")),
    path("", include("studio.manual.urls")),
    path("language/", login_not_required(set_language), name="set_language"),
    path("texts.js", login_not_required(JavaScriptCatalog.as_view()), name="texts"),
]
if settings.SERVER_MODE:
    urlpatterns.append(path("tables/", admin.site.urls))
