from pathlib import Path as File

from django.apps import AppConfig
from django.conf import settings

from coaster.render import fonts


class ProjectsConfig(AppConfig):
    name = "studio.projects"
    label = "projects"

    def ready(self) -> None:
        fonts.add_finder(font_file)


def font_file(name: str) -> File | None:
    """Return where a font that was brought into some project is: named by its content, it is the
    same in all of them.
    """
    return next(File(settings.DATA).glob(f"projects/*/assets/{name}"), None)
