"""`python -m tools COMMAND`: what `./lucid` hands over to once what the command needs is set up."""

from __future__ import annotations

import argparse
import sys
from importlib import import_module

from tools.commands import add_commands


def main() -> int:
    parser = argparse.ArgumentParser(prog="./lucid")
    add_commands(parser.add_subparsers(dest="command", required=True))
    options = parser.parse_args()
    found: int = import_module(options.module).run(options)
    return found


if __name__ == "__main__":
    sys.exit(main())
