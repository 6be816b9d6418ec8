"""`lucid account`: give someone an account, or another password, or close it."""

from __future__ import annotations

import argparse
import getpass
import os
import sys
from pathlib import Path


def main(arguments: list[str] | None = None) -> int:
    parser = argparse.ArgumentParser(prog="lucid account")
    parser.add_argument("name", help="what the person signs in as")
    parser.add_argument("--data", type=lambda p: Path(p).resolve(), required=True)
    parser.add_argument(
        "--close", action="store_true", help="let them in no more; their work stays"
    )
    options = parser.parse_args(arguments)
    os.environ["LUCID_DATA"] = str(options.data)
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "lucidbench.server.settings")

    import django

    django.setup()
    from django.core.exceptions import ValidationError
    from django.core.management import call_command

    from lucidbench.server.accounts.models import User

    call_command("migrate", verbosity=0)
    person = User.objects.filter(username=options.name).first()
    if options.close:
        if person is None:
            print(f"lucid: nobody here is called {options.name}.", file=sys.stderr)
            return 1
        person.is_active = False
        person.save(update_fields=["is_active"])
        print(f"{options.name} is let in no more.")
        return 0
    person = person or User(username=options.name)
    person.is_active = True
    person.set_password(_password(options.name))
    try:
        person.full_clean(exclude=["password"])
    except ValidationError as error:
        print(f"lucid: {' '.join(error.messages)}", file=sys.stderr)
        return 1
    person.save()
    print(f"{options.name} can sign in.")
    return 0


def _password(name: str) -> str:
    if not sys.stdin.isatty():
        return sys.stdin.readline().rstrip("\n")
    return getpass.getpass(f"Password for {name}: ")


if __name__ == "__main__":
    sys.exit(main())
