"""Signing in, passwords, one's own account; and everybody's, for who looks after them."""

from typing import Any

from django.conf import settings
from django.contrib import messages
from django.contrib.auth import views as auth
from django.contrib.auth.decorators import login_not_required
from django.contrib.auth.models import User
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse_lazy
from django.views.decorators.http import require_GET, require_POST

from coaster.errors import EditRefused
from studio.people import accounts
from studio.people.forms import SignInForm
from studio.projects import space
from studio.projects.services import SINGLE_PERSON


class SignIn(auth.LoginView):
    authentication_form = SignInForm
    redirect_authenticated_user = True


class SetPassword(auth.PasswordResetConfirmView):
    """The page behind a link: whoever has it sets the account's password, once."""

    template_name = "people/set_password.html"
    success_url = reverse_lazy("projects")
    post_reset_login = True
    post_reset_login_backend = "django.contrib.auth.backends.ModelBackend"


class ChangePassword(auth.PasswordChangeView):
    template_name = "people/change_password.html"
    success_url = reverse_lazy("account")

    def form_valid(self, form: Any) -> HttpResponse:
        messages.info(self.request, "Your password is changed; other windows are signed out.")
        return super().form_valid(form)


@login_not_required
@require_GET
def health(request: HttpRequest) -> HttpResponse:
    """Whether the studio answers and reads its database: for what watches it."""
    User.objects.exists()
    return JsonResponse({"ok": True})


@require_GET
def account(request: HttpRequest) -> HttpResponse:
    """One's own account: the room that is taken, and the way to another password."""
    context = {"used": space.used(request.user), "most": settings.QUOTA}
    return render(request, "people/account.html", context)


@require_GET
def people(request: HttpRequest) -> HttpResponse:
    """Everybody's accounts."""
    accounts.allow_staff(request.user)
    everybody = User.objects.exclude(username=SINGLE_PERSON).order_by("username")
    rows = [(each, space.used(each)) for each in everybody]
    return render(request, "people/people.html", {"people": rows, "link": _link(request)})


def _link(request: HttpRequest) -> dict[str, str] | None:
    """Return the link that was just made: it is shown once."""
    pk = request.session.pop("link_for", None)
    user = User.objects.filter(pk=pk).first() if pk else None
    if user is None:
        return None
    address = request.build_absolute_uri(accounts.password_link(user))
    return {"name": user.username, "address": address}


@require_POST
def add_person(request: HttpRequest) -> HttpResponse:
    accounts.allow_staff(request.user)
    try:
        made = accounts.add(request.POST.get("name", ""))
    except EditRefused as error:
        messages.error(request, str(error))
        return redirect("people")
    request.session["link_for"] = made.pk
    return redirect("people")


@require_POST
def act_on_person(request: HttpRequest, person_id: int, action: str) -> HttpResponse:
    """Make a link to a new password, switch an account off, or on again."""
    staff = accounts.allow_staff(request.user)
    person = get_object_or_404(User, pk=person_id)
    if person.pk == staff.pk and action == "off":
        messages.error(request, "You cannot switch off your own account; somebody else may.")
    elif person.is_superuser and not staff.is_superuser:
        messages.error(request, f"{person.username} may do more than you; nothing was changed.")
    elif action == "link":
        request.session["link_for"] = person.pk
    else:
        accounts.switch(person, on=action == "on")
    return redirect("people")
