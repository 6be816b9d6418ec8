"""The people of a server that is reached from elsewhere."""

from __future__ import annotations

from django.contrib.auth.models import AbstractUser


class User(AbstractUser):
    """A person with an account: ours from the start, so that it can come to hold what a class needs."""
