from django.contrib.auth import views as auth
from django.urls import path, re_path

from studio.people import views

urlpatterns = [
    path("sign-in/", views.SignIn.as_view(), name="sign-in"),
    path("sign-out/", auth.LogoutView.as_view(), name="sign-out"),
    path("password/<uidb64>/<token>/", views.SetPassword.as_view(), name="set-password"),
    path("account/", views.account, name="account"),
    path("account/password/", views.ChangePassword.as_view(), name="change-password"),
    path("people/", views.people, name="people"),
    path("people/add", views.add_person, name="add-person"),
    re_path(
        r"^people/(?P<person_id>\d+)/(?P<action>link|off|on)$",
        views.act_on_person,
        name="act-on-person",
    ),
    path("health", views.health, name="health"),
]
