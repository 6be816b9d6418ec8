"""Addresses: the API, and the page for everything a person may open."""

from __future__ import annotations

from django.contrib import admin
from django.urls import path, re_path

from lucidbench.server.api import api
from lucidbench.server.pages import application

urlpatterns = [
    path("api/", api.urls),
    path("admin/", admin.site.urls),
    path("", application),
    re_path(r"^exercises/\d+(?:/[a-z]+)?$", application),
]
