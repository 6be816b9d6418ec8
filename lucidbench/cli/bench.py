"""`lucid bench`: the stand-in bench of a circuit, its instruments on ports of their own."""

from __future__ import annotations

import argparse
import signal
import sys
import threading
from pathlib import Path

from lucidbench.cli.files import is_document, text_of
from lucidbench.core.document.exercise import Build, read_exercise
from lucidbench.core.errors import LucidError
from lucidbench.core.netlist import Circuit, read_netlist
from lucidbench.instruments.bench import Bench
from lucidbench.instruments.build import built, physical_build
from lucidbench.instruments.serving import BenchServer

BAD_INPUT, CANNOT_SERVE = 2, 1


def run(options: argparse.Namespace) -> int:
    try:
        circuit, seed = _built(options.file, options.seed)
        server = BenchServer(Bench(circuit, seed), options.host, options.port)
    except LucidError as error:
        print(f"lucid bench: {options.file.name}: {error}", file=sys.stderr)
        return BAD_INPUT
    except OSError as error:
        print(f"lucid bench: {error.strerror}", file=sys.stderr)
        return CANNOT_SERVE
    over = threading.Event()
    for number in (signal.SIGINT, signal.SIGTERM):
        signal.signal(number, lambda *_: over.set())
    for name, address in server.addresses.items():
        print(f"{name}: {address}", flush=True)
    over.wait()
    server.stop()
    return 0


def _built(path: Path, seed: int | None) -> tuple[Circuit, int]:
    """(the build, the seed of the instruments' own errors). Raises LucidError."""
    text = text_of(path)
    if not is_document(text):
        build = Build(seed=1 if seed is None else seed)
        return physical_build(read_netlist(text).circuit, build), build.seed
    exercise = read_exercise(text)
    if seed is not None:
        exercise = exercise.model_copy(
            update={"build": exercise.build.model_copy(update={"seed": seed})}
        )
    return built(exercise), exercise.build.seed
