from collections.abc import Callable
from typing import Any, cast

from django.contrib.auth.decorators import login_not_required
from django.urls import path

from studio.api import views
from studio.api.operations import api

programs = api.urls
for each in programs[0]:
    # A key lets in, not a sign-in: each operation asks for one itself.
    login_not_required(cast(Callable[..., Any], each.callback))
urlpatterns = [
    path("programs/", views.page, name="programs"),
    path("programs/keys", views.make_key, name="make-key"),
    path("programs/keys/<int:key_id>/withdraw", views.withdraw_key, name="withdraw-key"),
    path("api/", programs),
]
