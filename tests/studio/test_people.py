"""Several people: accounts, passwords, signing in and out, and how much each may keep."""

import io
import os
import subprocess
import sys

import pytest
from django.contrib import admin
from django.contrib.auth.models import User
from django.contrib.sessions.models import Session
from django.core.management import CommandError, call_command
from django.urls import path, reverse

from coaster.errors import EditRefused
from studio.config import urls
from studio.people import accounts, forms
from studio.projects import services, space
from studio.projects.models import Asset
from tests.studio.conftest import png

urlpatterns = [*urls.urlpatterns, path("tables/", admin.site.urls)]
"""As on a server."""


@pytest.fixture
def rita(db) -> User:
    return User.objects.create_user("rita", password="tide-pool-9", is_staff=True)


def sign_in(client, name="anna", password="tide-pool-7", **more):  # noqa: S107
    return client.post(reverse("sign-in"), {"username": name, "password": password}, **more)


def test_an_account_is_made_by_link_and_the_link_works_once(client_of, rita):
    staff, new = client_of(rita), client_of(None)
    page = staff.post(reverse("add-person"), {"name": "nils"}, follow=True).content.decode()
    nils = User.objects.get(username="nils")
    assert not nils.has_usable_password()
    assert not nils.is_staff
    assert not nils.is_superuser
    link = "/password/" + page.partition("/password/")[2].partition('"')[0]
    first = new.get(link, follow=True)
    target = first.redirect_chain[-1][0]
    weak = {"new_password1": "nils-nils", "new_password2": "nils-nils"}
    assert "aria-invalid" in new.post(target, weak).content.decode()
    good = {"new_password1": "kelp-forest-12", "new_password2": "kelp-forest-12"}
    assert new.post(target, good).url == reverse("projects")
    assert new.get(reverse("projects")).status_code == 200
    again = client_of(None).get(link, follow=True)
    assert "used up" in again.content.decode()


@pytest.mark.parametrize("name", ["", "two words", "anna", "ANNA", "studio", "x" * 151])
def test_names_that_cannot_be_are_refused_in_words(anna, name):
    with pytest.raises(EditRefused, match="nobody was added"):
        accounts.add(name)


@pytest.mark.parametrize("password", ["looks-after", "1234567890", "password12"])
def test_passwords_that_others_guess_are_not_taken(client_of, rita, password):
    User.objects.filter(pk=rita.pk).update(username="looks_after")
    client = client_of(rita)
    sent = {"old_password": "tide-pool-9", "new_password1": password, "new_password2": password}
    assert "aria-invalid" in client.post(reverse("change-password"), sent).content.decode()
    rita.refresh_from_db()
    assert rita.check_password("tide-pool-9")


def test_a_changed_password_signs_out_the_other_windows(client_of, anna):
    here, there = client_of(anna), client_of(anna)
    new = {"new_password1": "kelp-forest-12", "new_password2": "kelp-forest-12"}
    here.post(reverse("change-password"), {"old_password": "tide-pool-7", **new})
    assert here.get(reverse("projects")).status_code == 200
    assert there.get(reverse("projects")).status_code == 302


def test_who_signs_out_or_is_switched_off_is_out_at_once(client_of, anna, rita):
    client = client_of(anna)
    key = client.session.session_key
    client.post(reverse("sign-out"))
    assert not Session.objects.filter(pk=key).exists()
    client = client_of(anna)
    client_of(rita).post(reverse("act-on-person", args=[anna.pk, "off"]))
    assert client.get(reverse("projects")).status_code == 302
    assert "do not belong together" in sign_in(client_of(None)).content.decode()
    client_of(rita).post(reverse("act-on-person", args=[anna.pk, "on"]))
    assert sign_in(client_of(None)).status_code == 302


def test_nobody_switches_off_themselves_or_who_is_above_them(client_of, rita):
    chief = User.objects.create_superuser("chief", password="tide-pool-1")
    for person in (rita, chief):
        client_of(rita).post(reverse("act-on-person", args=[person.pk, "off"]))
        person.refresh_from_db()
        assert person.is_active


def test_after_eight_wrong_passwords_an_address_waits_and_others_do_not(client_of, anna, settings):
    settings.AXES_ENABLED = True
    client = client_of(None)
    for _ in range(7):
        assert "do not belong together" in sign_in(client, password="x").content.decode()
    assert "15 minutes" in sign_in(client, password="x").content.decode()
    locked = sign_in(client)
    assert (locked.status_code, "15 minutes" in locked.content.decode()) == (429, True)
    assert sign_in(client, headers={"X-Forwarded-For": "10.0.0.1, 10.0.0.9"}).status_code == 302


def test_few_passwords_are_checked_at_once(client_of, anna, monkeypatch):
    monkeypatch.setattr(forms, "PATIENCE_S", 0.01)
    for _ in range(forms.AT_ONCE):
        forms._turns.acquire()
    try:
        assert "try again" in sign_in(client_of(None)).content.decode()
    finally:
        forms._turns.release(forms.AT_ONCE)
    assert sign_in(client_of(None)).status_code == 302


def test_what_each_person_keeps_has_a_limit_if_one_is_set(client_of, anna, project, settings):
    services.import_picture(anna, project, png(), "one.png")
    settings.QUOTA = space.used(anna) + 10
    with pytest.raises(EditRefused, match="nothing was added"):
        services.import_picture(anna, project, png((9, 9)), "two.png")
    assert Asset.objects.count() == 1
    page = client_of(anna).get(reverse("account")).content.decode().replace("\xa0", " ")
    assert f"take {space.used(anna)} bytes of {settings.QUOTA} bytes" in page


@pytest.mark.urls("tests.studio.test_people")
def test_the_tables_are_for_staff_and_give_nobody_more_rights(client_of, anna, rita, scene):
    assert client_of(anna).get("/tables/").status_code == 302
    staff = client_of(rita)
    assert staff.get("/tables/").status_code == 200
    assert staff.get("/tables/projects/scene/").status_code == 200
    page = f"/tables/auth/user/{anna.pk}/change/"
    staff.post(page, {"username": "anna", "is_active": "on", "is_superuser": "on"})
    anna.refresh_from_db()
    assert not anna.is_superuser
    chief = User.objects.create_superuser("chief", password="tide-pool-1")
    staff.post(f"/tables/auth/user/{chief.pk}/change/", {"username": "gone"})
    chief.refresh_from_db()
    assert (chief.username, chief.is_active) == ("chief", True)
    assert staff.post(f"/tables/projects/scene/{scene.pk}/delete/").status_code == 403


def test_accounts_from_the_command_line(db, settings):
    settings.ALLOWED_HOSTS = ["studio.example.org"]
    out = io.StringIO()
    call_command("account", "add", "rita", "--staff", stdout=out)
    assert out.getvalue().startswith("https://studio.example.org/password/")
    assert User.objects.get().is_staff
    call_command("account", "off", "rita", stdout=out)
    call_command("account", "list", stdout=out)
    assert "rita  looks after accounts  switched off" in out.getvalue()
    for words in (["add", "rita"], ["link", "nobody"], ["on"]):
        with pytest.raises(CommandError, match=r"already|no account|Whose"):
            call_command("account", *words, stdout=out)


def test_health_is_told_without_signing_in(client_of, db):
    answer = client_of(None).get(reverse("health"))
    assert (answer.status_code, answer.json()) == (200, {"ok": True})


def test_pages_are_kept_by_no_cache_and_one_person_needs_no_session(client_of, anna, settings, db):
    answer = client_of(anna).get(reverse("projects"))
    assert answer["Cache-Control"] == "private, no-cache"
    Session.objects.all().delete()
    settings.SERVER_MODE = False
    assert client_of(None).get(reverse("projects")).status_code == 200
    assert not Session.objects.exists()


SECRET = "k3Jx-0pQv_7Tz" * 4
SERVER = {"COASTER_SERVER": "yes", "COASTER_SECRET": SECRET, "COASTER_HOSTS": "studio.example.org"}


def manage(tmp_path, words, **env):
    env = {k: v for k, v in os.environ.items() if not k.startswith("COASTER_")} | env
    env |= {"COASTER_DATA": str(tmp_path), "DJANGO_SETTINGS_MODULE": "studio.config.settings"}
    command = [sys.executable, "-m", "studio", *words]
    return subprocess.run(command, env=env, capture_output=True, text=True, check=False)


@pytest.mark.parametrize(
    ("changed", "words"),
    [
        ({"COASTER_SECRET": "x"}, "COASTER_SECRET must be set"),
        ({"COASTER_SECRET": "a" * 60}, "nobody can guess"),
        ({"COASTER_HOSTS": ""}, "COASTER_HOSTS must name"),
        ({"COASTER_SERVER": "perhaps"}, "write yes or no"),
        ({"COASTER_QUOTA_MB": "lots"}, "write a whole number"),
        ({"COASTER_LOG": "chatty"}, "write debug, info"),
    ],
)
def test_settings_that_are_not_safe_or_not_clear_stop_the_start(tmp_path, changed, words):
    done = manage(tmp_path, ["check"], **SERVER | changed)
    assert done.returncode != 0
    assert words in done.stderr


def test_the_first_account_is_made_in_an_empty_folder(tmp_path):
    done = manage(tmp_path, ["account", "add", "rita", "--staff"], **SERVER)
    assert done.stdout.startswith("https://studio.example.org/password/"), done.stderr


def test_a_server_passes_its_own_check(tmp_path):
    done = manage(tmp_path, ["check", "--deploy", "--fail-level", "WARNING"], **SERVER)
    assert done.returncode == 0, done.stderr
