"""The commands of `lucid` and what each is told.

Imports the standard library alone, so that help and bad input are answered before anything is installed.
"""

from __future__ import annotations

import argparse
import math
import os
from pathlib import Path
from typing import TYPE_CHECKING

LOOPBACK = "127.0.0.1"
DEFAULT_PORT = 8080
MOST_WORKERS = 64
VOICES = ("bench-simulated", "hand-simulated", "bench-hand")
HOWS = ("rest", "phasor", "gain", "step")

if TYPE_CHECKING:
    Commands = argparse._SubParsersAction[argparse.ArgumentParser]
else:
    Commands = None


def add_commands(commands: Commands) -> None:
    """Every command that an installed Lucid Bench has. `options.module` names the one that carries it out."""
    demo = command(
        commands, "demo", "lucidbench.cli.serve", "load the demo exercises and serve them"
    )
    demo.add_argument(
        "--port", type=port, default=DEFAULT_PORT, help="port on 127.0.0.1 (default: %(default)s)"
    )
    demo.add_argument("--data", type=Path, help="folder of the demo's database")
    demo.add_argument("--fresh", action="store_true", help="delete all changes and start again")

    serve = command(commands, "serve", "lucidbench.cli.serve", "serve your own notebook")
    serve.add_argument(
        "--port", type=port, default=DEFAULT_PORT, help="port (default: %(default)s)"
    )
    serve.add_argument(
        "--host", default=LOOPBACK, help="address to listen on (default: %(default)s)"
    )
    serve.add_argument("--data", type=Path, help="folder of the database")
    serve.add_argument(
        "--workers",
        type=_workers,
        default=os.cpu_count() or 1,
        help="processes that answer (default: one a processor)",
    )

    account = command(
        commands,
        "account",
        "lucidbench.cli.account",
        "give someone an account on a server that others reach",
    )
    add_account_options(account)
    account.add_argument("--data", type=Path, help="folder of the database")

    solve = command(
        commands, "solve", "lucidbench.cli.solve", "solve a circuit file and print its results"
    )
    solve.add_argument(
        "file",
        type=Path,
        metavar="FILE",
        help="a line-per-element netlist, or an exercise document",
    )
    solve.add_argument("--csv", action="store_true", help="print tables instead of JSON")
    solve.add_argument(
        "--show",
        metavar="NAMES",
        type=lambda text: [name for name in text.split(",") if name],
        help="only these, separated by commas: V_out,I_R1",
    )
    solve.add_argument("--plot", type=Path, metavar="FILE.svg", help="draw the curves into a file")
    solve.add_argument(
        "--limit-seconds",
        type=_positive,
        metavar="S",
        help="stop after this time (default: a minute)",
    )

    bench = command(
        commands,
        "bench",
        "lucidbench.cli.bench",
        "serve a circuit as a bench whose instruments speak SCPI",
    )
    bench.add_argument("file", type=Path, metavar="FILE", help="an exercise document, or a netlist")
    bench.add_argument(
        "--host", default=LOOPBACK, help="address to listen on (default: %(default)s)"
    )
    bench.add_argument(
        "--port",
        type=_any_port,
        default=0,
        help="of the meter; the others follow it (default: any free)",
    )
    bench.add_argument(
        "--seed", type=int, help="which parts come out of the drawer (default: the file's, or 1)"
    )

    compare = command(
        commands,
        "compare",
        "lucidbench.cli.compare",
        "print the ledger of an exercise: hand, simulated and bench",
    )
    compare.add_argument("file", type=Path, metavar="FILE", help="an exercise document")
    compare.add_argument(
        "--case", default="", help="by its name or id; all: every one (default: as drawn)"
    )
    compare.add_argument("--csv", action="store_true", help="a table instead of JSON")

    judge = command(
        commands,
        "judge",
        "lucidbench.cli.judge",
        "say of every line of a working whether it is right, as one JSON object a file",
    )
    judge.add_argument("files", type=Path, nargs="+", metavar="FILE", help="an exercise document")

    working = command(
        commands,
        "working",
        "lucidbench.cli.working",
        "work a figure out step by step, as it is written down by hand, as JSON",
    )
    working.add_argument(
        "file", type=Path, metavar="FILE", help="an exercise document, or a netlist"
    )
    working.add_argument("figure", metavar="FIGURE", help="such as V_out, V_a - V_b, I_R1, P_R1")
    working.add_argument(
        "--way", default="", metavar="NAME", help="which way (default: the shortest)"
    )
    working.add_argument(
        "--as", dest="how", choices=HOWS, default="",
        help="at rest, as phasors, as a gain over frequency, or after a step (default: phasors where sines "
        "alone drive the circuit, else at rest)",
    )  # fmt: skip

    explain = command(
        commands,
        "explain",
        "lucidbench.cli.explain",
        "say why the bench differs from a circuit: causes, ranked",
    )
    explain.add_argument(
        "file", type=Path, metavar="FILE", help="an exercise document, or a netlist"
    )
    explain.add_argument(
        "--bench", type=Path, metavar="TABLE.csv", help="what was measured of a netlist"
    )
    explain.add_argument("--figure", default="", help="of an exercise: one row of the ledger alone")
    explain.add_argument(
        "--voices", choices=VOICES, default="",
        help="of an exercise: which two (default: bench and simulated where there is bench data)",
    )  # fmt: skip
    explain.add_argument(
        "--only", default="", metavar="KEYS", help="these causes alone, separated by commas"
    )

    schema = command(
        commands,
        "schema",
        "lucidbench.cli.schema",
        "print the JSON Schema of the exercise document",
    )
    schema.add_argument("-o", "--output", type=Path, metavar="FILE", help="write it into this file")


def add_account_options(parser: argparse.ArgumentParser) -> None:
    """What both `lucid account` and the management command are told."""
    parser.add_argument("name", help="what the person signs in as")
    parser.add_argument(
        "--owner",
        action="store_true",
        help="the person owns this server and may use its /admin/ pages",
    )
    parser.add_argument(
        "--close", action="store_true", help="let the person in no more; the work stays"
    )


def parser() -> argparse.ArgumentParser:
    """The parser of the installed `lucid`."""
    found = argparse.ArgumentParser(
        prog="lucid", description="Lucid Bench: circuits by hand, simulated and on the bench."
    )
    add_commands(found.add_subparsers(dest="command", required=True, metavar="COMMAND"))
    return found


def command(commands: Commands, name: str, module: str, what: str) -> argparse.ArgumentParser:
    """Add the command `name`, which `run(options)` of `module` carries out."""
    description = what[0].upper() + what[1:] + "."
    added = commands.add_parser(name, help=what, description=description)
    added.set_defaults(module=module)
    return added


def port(text: str) -> int:
    if not text.isdigit() or not 1 <= int(text) <= 65535:
        raise argparse.ArgumentTypeError(
            f"“{text}” is not a port; a port is a number from 1 to 65535"
        )
    return int(text)


def _any_port(text: str) -> int:
    return 0 if text == "0" else port(text)


def _workers(text: str) -> int:
    if not text.isdigit() or not 1 <= int(text) <= MOST_WORKERS:
        raise argparse.ArgumentTypeError(
            f"“{text}” is not a number of workers from 1 to {MOST_WORKERS}"
        )
    return int(text)


def _positive(text: str) -> float:
    try:
        value = float(text)
    except ValueError:
        value = math.nan
    if not 0 < value < math.inf:
        raise argparse.ArgumentTypeError(f"“{text}” is not a time; give seconds, more than 0")
    return value
