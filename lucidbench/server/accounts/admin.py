"""People, on the admin site."""

from __future__ import annotations

from django.contrib import admin
from django.contrib.auth.admin import UserAdmin
from django.contrib.auth.models import Group

from lucidbench.server.accounts.models import User

admin.site.site_header = admin.site.site_title = "Lucid Bench"
admin.site.index_title = "This server"
admin.site.register(User, UserAdmin)
admin.site.unregister(Group)  # rights are a person's or nobody's here
