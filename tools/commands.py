"""The commands of `./lucid` beyond those of an installed Lucid Bench.

Imports the standard library and `lucidbench.cli.commands` alone, as the launcher reads it before anything is
installed.
"""

from __future__ import annotations

from lucidbench.cli.commands import DEFAULT_PORT, Commands, command, port

PAGE_PORT = 5173


def add_commands(commands: Commands) -> None:
    test = command(commands, "test", "tools.checks", "set up what tests need and run every check")
    test.add_argument(
        "--deep", action="store_true", help="with many more random examples, the zoo and the study"
    )
    test.add_argument(
        "pytest", nargs="*", metavar="-- WORDS", help="run pytest alone, with these words"
    )

    check = command(
        commands,
        "check",
        "tools.checks",
        "check format, lint, types, import rules and what is generated",
    )
    check.set_defaults(pytest=[], deep=False)

    dev = command(commands, "dev", "tools.dev", "serve sources as they are edited, page and server")
    dev.add_argument(
        "--port", type=port, default=PAGE_PORT, help="port of the page (default: %(default)s)"
    )
    dev.add_argument(
        "--server-port",
        type=port,
        default=DEFAULT_PORT,
        help="port of the server (default: %(default)s)",
    )

    command(
        commands, "types", "tools.generated", "make anew what is generated from the server's models"
    )
    command(commands, "pictures", "tests.pictures", "take the pictures in docs/screenshots anew")

    zoo = command(commands, "zoo", "tests.zoo.__main__", "try many random circuits of every family")
    zoo.add_argument(
        "--runs", type=int, default=500, help="how many circuits (default: %(default)s)"
    )
    zoo.add_argument(
        "--seed", type=int, default=1, help="of the random values (default: %(default)s)"
    )
    zoo.add_argument("--family", default="", help="only families with this in their name")
    zoo.add_argument("--show", type=int, default=3, help="failing circuits printed of a family")

    study = command(
        commands,
        "study",
        "tests.study.__main__",
        "plant causes in builds and count how many are found",
    )
    study.add_argument(
        "--seed", type=int, default=1, help="of builds and noise (default: %(default)s)"
    )
    study.add_argument("--builds", type=int, default=1, help="of each cause (default: %(default)s)")
    study.add_argument("--none", type=int, default=10, help="builds with no cause, of each circuit")
    study.add_argument("--circuit", default="", help="only circuits with this in their name")
    study.add_argument("--share", type=float, default=1.0, help="of all causes that are tried")
    study.add_argument("--show", action="store_true", help="print what was missed")

    benchmark = command(
        commands,
        "benchmark",
        "tests.benchmarks.__main__",
        "measure speed, as ratios within one run",
    )
    benchmark.add_argument(
        "what", nargs="?", choices=("class",), help="class: how long a class of students waits"
    )
    benchmark.add_argument(
        "--students", type=int, nargs="+", default=[30, 60, 120], metavar="N", help="of a class"
    )
    benchmark.add_argument(
        "--workers", type=int, default=2, help="of its server (default: %(default)s)"
    )
    benchmark.add_argument("--only", default="", help="only benchmarks with this in their name")
    benchmark.add_argument(
        "--short", action="store_true", help="one short pass, whose figures mean nothing"
    )
