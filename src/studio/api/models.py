"""Keys by which programs come in, each as one person."""

from django.contrib.auth.models import User
from django.db import models

LONGEST_NAME = 60


class Key(models.Model):
    """A key of a person's. Only its digest is kept: the key itself is shown once."""

    owner = models.ForeignKey(User, on_delete=models.CASCADE, related_name="api_keys")
    name = models.CharField(max_length=LONGEST_NAME)
    digest = models.CharField(max_length=64, unique=True)
    made_at = models.DateTimeField(auto_now_add=True)
    used_at = models.DateTimeField(null=True, blank=True)
    """When it was used last, to the minute."""

    class Meta:
        ordering = ["-made_at", "-pk"]

    def __str__(self) -> str:
        return self.name
