"""Where everything is."""

from django.contrib.auth import views as auth
from django.urls import include, path

urlpatterns = [
    path("", include("studio.projects.urls")),
    path("", include("studio.editor.urls")),
    path("", include("studio.renders.urls")),
    path("sign-in/", auth.LoginView.as_view(redirect_authenticated_user=True), name="sign-in"),
    path("sign-out/", auth.LogoutView.as_view(), name="sign-out"),
]
