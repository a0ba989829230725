"""How much room on the disk a person's files take, and whether more is left."""

from pathlib import Path as File

from django.conf import settings

from coaster.errors import EditRefused
from studio.projects.models import Project, Scene
from studio.projects.querysets import Person


def used(user: Person) -> int:
    """Return the bytes of all pictures, takes and renders of a person, what is in the bin too."""
    projects = Project.objects.filter(owner_id=user.pk)
    folders = [project.folder for project in projects]
    for scene in Scene.objects.filter(project__in=projects):
        folders += scene.folders
    return size_of(folders)


def size_of(folders: list[File]) -> int:
    """Return the bytes of all files in folders."""
    files = (file for folder in folders for file in folder.rglob("*") if file.is_file())
    return sum(file.stat().st_size for file in files)


def check(user: Person, more: int = 0) -> None:
    """Errors: EditRefused: ``more`` bytes would go past what each person has."""
    if settings.QUOTA is None:
        return
    taken = used(user)
    if taken + more > settings.QUOTA:
        raise EditRefused(
            f"Your files take {taken / 1e6:.0f} of {settings.QUOTA / 1e6:.0f} MB, which leaves no"
            " room for this; nothing was added. Delete renders or empty the bin, or ask for more."
        )
