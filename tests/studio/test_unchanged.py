"""Rows that are kept for as long as nothing in the database has changed."""

from threading import Thread

import pytest
from django.contrib.auth.models import User
from django.db import connection, transaction
from django.http import Http404
from django.test import RequestFactory

from studio.projects import services
from studio.projects.access import scene_for
from studio.projects.unchanged import MOST, as_before

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture
def request_of(anna):
    asked = RequestFactory().get("/")
    asked.user = anna
    return asked


def beside(work) -> None:
    """Do something in a thread of its own, and so on another connection."""

    def run() -> None:
        work()
        connection.close()

    thread = Thread(target=run)
    thread.start()
    thread.join()


def test_a_row_is_read_once_until_something_is_written_here(
    scene, request_of, django_assert_num_queries
):
    first = scene_for(request_of, scene.pk)
    with django_assert_num_queries(0):
        again = scene_for(request_of, scene.pk)
        assert (again.pk, again.project.name) == (first.pk, "Lobby")
    User.objects.filter(username="anna").update(first_name="Anna")
    with django_assert_num_queries(1):
        scene_for(request_of, scene.pk)


def test_what_others_write_is_seen_at_once(scene, request_of):
    assert scene_for(request_of, scene.pk).name == scene.name
    beside(lambda: type(scene).objects.filter(pk=scene.pk).update(name="Reef"))
    assert scene_for(request_of, scene.pk).name == "Reef"
    beside(lambda: services.bin_project(request_of.user, scene.project))
    with pytest.raises(Http404):
        scene_for(request_of, scene.pk)


def test_each_asker_has_a_row_of_its_own(scene, request_of):
    scene_for(request_of, scene.pk).name = "Not kept"
    found = scene_for(request_of, scene.pk)
    found.name = "Nor this"
    assert scene_for(request_of, scene.pk).name == scene.name


def test_what_a_transaction_reads_is_not_kept(scene, request_of):
    with transaction.atomic():
        type(scene).objects.filter(pk=scene.pk).update(name="Taken back")
        assert scene_for(request_of, scene.pk).name == "Taken back"
        transaction.set_rollback(True)
    assert scene_for(request_of, scene.pk).name == scene.name


def test_others_do_not_get_what_was_kept_for_one(scene, request_of, ben):
    scene_for(request_of, scene.pk)
    request_of.user = ben
    with pytest.raises(Http404):
        scene_for(request_of, scene.pk)


def test_only_the_last_few_are_kept(anna):
    asked = []

    def read(number: int) -> User:
        asked.append(number)
        return anna

    for number in [*range(MOST + 1), MOST, 0]:
        as_before(number, lambda number=number: read(number))
    assert asked == [*range(MOST + 1), 0]
