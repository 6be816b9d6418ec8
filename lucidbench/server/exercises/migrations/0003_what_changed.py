"""Every revision from now on says in words what was changed."""

from __future__ import annotations

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = (("exercises", "0002_from_one_app"),)
    operations = (
        migrations.AddField("revision", "changed", models.CharField(default="", max_length=200)),
    )
