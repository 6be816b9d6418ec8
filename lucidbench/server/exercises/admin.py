"""Exercises, on the admin site: who has which, and what was deleted. Their content is the page's."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from django.contrib import admin
from django.http import HttpRequest

from lucidbench.server.exercises.models import Exercise

if TYPE_CHECKING:
    Admin = admin.ModelAdmin[Exercise]
else:
    Admin = admin.ModelAdmin


# What its newest revision says; on this site it is only read.
_OF_ITS_CONTENT = ("title", "author", "group", "number", "purpose")


@admin.register(Exercise)
class ExerciseAdmin(Admin):
    list_display = ("title", "owner", "group", "number", "latest", "saved", "deleted")
    list_filter = ("owner", "deleted")
    search_fields = ("title", "author", "group")
    fields = (*_OF_ITS_CONTENT, "created", "saved", "latest", "owner", "deleted")
    readonly_fields = (*_OF_ITS_CONTENT, "created", "saved", "latest")

    def has_add_permission(self, request: HttpRequest, obj: Any = None) -> bool:
        return False  # one is begun in a notebook, with its first revision
