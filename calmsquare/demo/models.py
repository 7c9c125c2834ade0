"""How often the demo was opened, and from where."""

from __future__ import annotations

from django.conf import settings
from django.db import models


class Opening(models.Model):
    """A shed that was copied for a visitor; gone with them."""

    visitor = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="openings")
    address = models.CharField(max_length=45)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        indexes = (models.Index(fields=["address", "at"]),)

    def __str__(self) -> str:
        return f"{self.address} at {self.at}"
