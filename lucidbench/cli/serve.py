"""`lucid demo` and `lucid serve`: the application, on this machine's own address or on another."""

from __future__ import annotations

import argparse

from lucidbench import places
from lucidbench.cli.commands import LOOPBACK
from lucidbench.server.run import ServeOptions, serve

_FOLDERS = {"demo": "demo", "serve": "notebook"}


def run(options: argparse.Namespace) -> int:
    is_demo = options.command == "demo"
    data = options.data or places.home() / _FOLDERS[options.command]
    return serve(
        ServeOptions(
            host=LOOPBACK if is_demo else options.host,
            port=options.port,
            data=data.resolve(),
            workers=1 if is_demo else options.workers,
            demo=is_demo,
            fresh=is_demo and options.fresh,
        )
    )
