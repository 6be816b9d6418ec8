"""`lucid account`: calls the management command of that name, for a data folder."""

from __future__ import annotations

import argparse
import sys

from lucidbench import places
from lucidbench.server.run import CannotServe, prepare


def run(options: argparse.Namespace) -> int:
    data = options.data or places.home() / "notebook"
    try:
        prepare(data.resolve())
    except CannotServe as reason:
        print(f"lucid: {reason}", file=sys.stderr)
        return 1
    from django.core.management import CommandError, call_command

    try:
        call_command("account", options.name, owner=options.owner, close=options.close)
    except CommandError as refusal:
        print(f"lucid: {refusal}", file=sys.stderr)
        return 1
    return 0
