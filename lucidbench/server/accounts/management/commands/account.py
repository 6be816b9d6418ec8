"""`manage.py account`: give someone an account, or another password, or close it."""

from __future__ import annotations

import getpass
import sys
from argparse import ArgumentParser
from typing import Any

from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.core.management.base import BaseCommand, CommandError

from lucidbench.cli.commands import add_account_options
from lucidbench.server.accounts.models import User


class Command(BaseCommand):
    help = (
        "Give someone an account on a server that others reach, or another password, or close it."
    )

    def add_arguments(self, parser: ArgumentParser) -> None:
        add_account_options(parser)

    def handle(self, *_: Any, name: str, owner: bool, close: bool, **__: Any) -> None:
        """Raises CommandError with a sentence, having changed nothing."""
        person = User.objects.filter(username=name).first()
        if close:
            self._close(person, name)
            return
        person = person or User(username=name)
        person.is_active = True
        if owner:
            person.is_staff = person.is_superuser = True
        password = _password(name)
        try:
            person.clean_fields(exclude=["password"])
            validate_password(password, person)
        except ValidationError as error:
            raise CommandError(" ".join(error.messages)) from error
        person.set_password(password)
        person.save()
        self.stdout.write(f"{name} can sign in.")

    def _close(self, person: User | None, name: str) -> None:
        if person is None:
            raise CommandError(f"There is no account called {name}.")
        person.is_active = False
        person.save(update_fields=["is_active"])
        self.stdout.write(f"{name} can no longer sign in.")


def _password(name: str) -> str:
    if not sys.stdin.isatty():
        return sys.stdin.readline().rstrip("\n")
    return getpass.getpass(f"Password for {name}: ")
