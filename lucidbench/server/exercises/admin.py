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


@admin.register(Exercise)
class ExerciseAdmin(Admin):
    list_display = ("title", "owner", "group", "number", "latest", "saved", "deleted")
    list_filter = ("owner", "deleted")
    search_fields = ("title", "author", "group")
    fields = (
        "title",
        "owner",
        "author",
        "group",
        "number",
        "purpose",
        "created",
        "saved",
        "latest",
        "deleted",
    )
    readonly_fields = (
        "title",
        "author",
        "group",
        "number",
        "purpose",
        "created",
        "saved",
        "latest",
    )

    def has_add_permission(self, request: HttpRequest, obj: Any = None) -> bool:
        return False  # one is begun in a notebook, with its first revision
