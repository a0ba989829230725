from pathlib import Path as File

from django.apps import AppConfig
from django.conf import settings

from coaster.media import found


class ProjectsConfig(AppConfig):
    name = "studio.projects"
    label = "projects"

    def ready(self) -> None:
        found.add_finder(brought_in)


def brought_in(name: str) -> File | None:
    """Return where a font or picture of some project is: named by its content, it is the same in
    all of them.
    """
    return next(File(settings.DATA).glob(f"projects/*/assets/{name}"), None)
