"""How a studio is doing, in numbers, as monitoring reads them (Prometheus' text format).

Counted when asked for, from what all processes share: the database, the disk, the worker's lock.
"""

import shutil
from collections.abc import Iterable, Iterator

from django.conf import settings
from django.contrib.auth.models import User
from django.db.models import Count, F, Min, Sum
from django.utils import timezone
from prometheus_client import CollectorRegistry, generate_latest
from prometheus_client.core import GaugeMetricFamily, InfoMetricFamily, Metric
from prometheus_client.registry import Collector

import coaster
from studio.jobs import presence
from studio.jobs.models import State
from studio.projects.models import Project, Scene
from studio.renders.models import Render


class Studio(Collector):
    """What is counted; there is one a question, so that nothing is kept."""

    def collect(self) -> Iterator[Metric]:
        yield InfoMetricFamily("coaster", "The studio.", {"version": coaster.__version__})
        yield _gauge("worker_up", "1 while a worker makes renders.", presence.somebody_works())
        people = User.objects.filter(is_active=True)
        yield _gauge("people", "Accounts that are switched on.", people.count())
        projects = Project.objects.filter(deleted_at=None)
        yield _gauge("projects", "Projects, those in the bin left out.", projects.count())
        scenes = Scene.objects.filter(deleted_at=None, project__in=projects)
        yield _gauge("scenes", "Scenes, those in the bin left out.", scenes.count())
        yield from _renders()
        yield _gauge("disk_free_bytes", "Room on the disk.", shutil.disk_usage(settings.DATA).free)
        yield _gauge("database_bytes", "The database's file.", settings.DATABASE.stat().st_size)


def _gauge(name: str, words: str, value: float) -> Metric:
    return GaugeMetricFamily(f"coaster_{name}", words, value=float(value))


def _renders() -> Iterable[Metric]:
    counts = dict(Render.objects.values_list("state").annotate(count=Count("pk")).order_by())
    states = GaugeMetricFamily("coaster_renders", "Renders by their state.", labels=["state"])
    for state in State.values:
        states.add_metric([state], counts.get(state, 0))
    yield states
    silent = Render.silent().count()
    yield _gauge("renders_silent", "Renders whose process has gone without a word.", silent)
    waiting = Render.objects.filter(state=State.WAITING)
    left = waiting.aggregate(frames=Sum(F("total") - F("done")), since=Min("asked_at"))
    yield _gauge("frames_waiting", "Frames of the renders that wait.", left["frames"] or 0)
    since = (timezone.now() - left["since"]).total_seconds() if left["since"] else 0.0
    yield _gauge("longest_wait_seconds", "For how long the first of them waits.", since)


def told() -> bytes:
    """Return all numbers in Prometheus' text format."""
    registry = CollectorRegistry(auto_describe=False)
    registry.register(Studio())
    return generate_latest(registry)
