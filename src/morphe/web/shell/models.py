"""How often what has changed: by this an open page knows, at the price of one look, that it is current."""

from __future__ import annotations

from django.db import models

__all__ = ["Change"]


class Change(models.Model):
    """One source of news, a table or the work of one kind, and how often it has changed. Triggers count."""

    name = models.CharField(max_length=60, primary_key=True)
    number = models.PositiveBigIntegerField(default=0)

    def __str__(self) -> str:
        return f"{self.name}: {self.number}"
