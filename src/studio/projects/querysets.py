"""Who may see what."""

from typing import Self

from django.contrib.auth.models import AnonymousUser, User
from django.db import models

Person = User | AnonymousUser


class Owned(models.QuerySet):
    """Rows that belong to a project; ``owner`` is the lookup that leads to its owner."""

    owner = "project__owner"
    project = "project__"

    def visible_to(self, user: Person) -> Self:
        """Rows of the user's own projects, those in the bin left out; nobody sees anybody
        else's.
        """
        if not user.is_authenticated:
            return self.none()
        return self.filter(**{self.owner: user, f"{self.project}deleted_at": None})


class Projects(Owned):
    owner, project = "owner", ""


class Scenes(Owned):
    def visible_to(self, user: Person) -> Self:
        return super().visible_to(user).filter(deleted_at=None)
