"""Accounts of a studio with several people: made without a password, which its link then sets."""

from django.contrib.auth.models import User
from django.contrib.auth.tokens import default_token_generator
from django.contrib.auth.validators import UnicodeUsernameValidator
from django.core.exceptions import PermissionDenied, ValidationError
from django.urls import reverse
from django.utils.encoding import force_bytes
from django.utils.http import urlsafe_base64_encode

from coaster.errors import EditRefused
from studio.projects.querysets import Person
from studio.projects.services import SINGLE_PERSON


def allow_staff(user: Person) -> User:
    """Errors: PermissionDenied: the person does not look after the others' accounts."""
    if not isinstance(user, User) or not user.is_staff:
        raise PermissionDenied("Only who looks after the accounts may do this.")
    return user


def add(name: str, *, staff: bool = False) -> User:
    """Make an account that nobody can sign in to until its link was followed.

    Errors: EditRefused: the name is taken, or none.
    """
    name = name.strip()
    try:
        UnicodeUsernameValidator()(name)
    except ValidationError as error:
        raise EditRefused(
            "A name has letters, digits and @ . + - _ only, and no blanks; nobody was added."
        ) from error
    if name == SINGLE_PERSON or User.objects.filter(username__iexact=name).exists():
        raise EditRefused(f"There is an account {name} already; nobody was added.")
    if len(name) > 150:
        raise EditRefused("A name has up to 150 letters; nobody was added.")
    return User.objects.create_user(name, is_staff=staff)


def named(name: str) -> User:
    """Errors: EditRefused: there is no such account."""
    found = User.objects.filter(username=name).first()
    if found is None:
        raise EditRefused(f"There is no account {name}.")
    return found


def password_link(user: User) -> str:
    """Return the path of a page that sets a password: once, and for some days
    (``PASSWORD_RESET_TIMEOUT``).
    """
    pk = urlsafe_base64_encode(force_bytes(user.pk))
    token = default_token_generator.make_token(user)
    return reverse("set-password", kwargs={"uidb64": pk, "token": token})


def switch(user: User, *, on: bool) -> None:
    """Let somebody in, or out: who is signed in is turned away from the next page on."""
    User.objects.filter(pk=user.pk).update(is_active=on)
