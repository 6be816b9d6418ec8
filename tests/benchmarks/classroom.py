"""A class at work: students who each look, save and run, with time to think between, over the real line."""

from __future__ import annotations

import argparse
import asyncio
import json
import os
import random
import statistics
import tempfile
import time
from collections import defaultdict
from pathlib import Path
from typing import Any

from websockets.asyncio.client import ClientConnection, connect

from tests.benchmarks.effort import repeated, sized
from tests.benchmarks.looking import ladder
from tests.serving import Server

THINKS = sized(2.0, 0.1)  # s between two things a student does, on the average
LASTS = float(repeated(40, 4))  # s from when all are there, of which the first are not counted
SETTLES = float(repeated(8, 0))  # s
SECTIONS = 15  # of the ladder that each student has: 31 parts
# [s], p95 of each thing, for so many students
REACH = {30: 0.150, 60: 0.150, 120: 0.400}


class Student:
    """One page: its line, its connection for what is kept, and its own exercise."""

    def __init__(self, server: Server, taken: dict[str, list[float]], errors: list[str]) -> None:
        self.server, self.taken, self.errors = server, taken, errors
        self.edits = 0

    async def work(self, all_there: asyncio.Barrier) -> None:
        try:
            await self._attend(all_there)
        except Exception:
            await all_there.abort()  # nobody waits for one who does not come
            raise

    async def _attend(self, all_there: asyncio.Barrier) -> None:
        reader, self.writer = await asyncio.open_connection(self.server.host, self.server.port)
        self.reader = reader
        await self._http("GET", "/")
        document = ladder(SECTIONS).model_dump(mode="json")
        document["runs"] = [{"id": "r", "analysis": "frequency_sweep"}]
        opened = await self._http("POST", "/api/exercises", {"document": document})
        self.id, self.revision, self.document = opened["id"], 1, opened["document"]
        async with connect(
            f"ws://{self.server.address}/line",
            origin=self.server.url,
            max_size=None,  # type: ignore[arg-type]
        ) as self.line:
            self.mark = (await self._ask("look", {"document": self.document}))["mark"]
            await all_there.wait()
            until = time.monotonic() + LASTS
            counts_from = time.monotonic() + SETTLES
            await asyncio.sleep(random.uniform(0, THINKS))
            while time.monotonic() < until:
                for thing in (self.look, self.save, self.run):
                    began = time.monotonic()
                    try:
                        await thing()
                    except Exception as error:  # the class goes on; it is told at the end
                        self.errors.append(f"{thing.__name__}: {error!r}")
                    if began >= counts_from:
                        self.taken[thing.__name__].append(time.monotonic() - began)
                    await asyncio.sleep(random.uniform(0.5, 1.5) * THINKS)
        self.writer.close()

    async def look(self) -> None:
        self.edits += 1
        part, value = 2 + self.edits % 20, f"{random.randrange(100, 9999)} Ω"
        self.document["schematic"]["parts"][part]["values"]["resistance"] = value
        path = f"/schematic/parts/{part}/values/resistance"
        changes = [{"op": "replace", "path": path, "value": value}]
        told = await self._ask("look", {"since": self.mark, "changes": changes})
        assert told["since"] == self.mark
        self.mark = told["mark"]

    async def save(self) -> None:
        body = {"based_on": self.revision, "document": self.document}
        self.revision = (await self._http("PUT", f"/api/exercises/{self.id}", body))["revision"]

    async def run(self) -> None:
        told = await self._ask("run", {"since": self.mark, "changes": [], "run": "r"})
        assert told["problem"] is None

    async def _ask(self, ask: str, body: object) -> Any:
        line: ClientConnection = self.line
        await line.send(json.dumps({"id": 1, "ask": ask, "body": body}))
        while True:
            head, _, told = str(await line.recv()).partition("\n")
            if "status" in json.loads(head):
                answer = json.loads(told)
                assert json.loads(head)["status"] == 200, answer
                return answer

    async def _http(self, method: str, path: str, body: object = None) -> Any:
        """As a browser would, on a connection that stays open; the client of the standard library waits."""
        sent = b"" if body is None else json.dumps(body).encode()
        token = getattr(self, "token", "")
        head = f"{method} {path} HTTP/1.1\r\nHost: {self.server.address}\r\n"
        head += f"Content-Type: application/json\r\nContent-Length: {len(sent)}\r\n"
        head += f"Cookie: csrftoken={token}\r\nX-CSRFToken: {token}\r\n\r\n"
        self.writer.write(head.encode() + sent)
        lines = (await self.reader.readuntil(b"\r\n\r\n")).decode().split("\r\n")
        headers = dict(line.lower().split(": ", 1) for line in lines[1:] if ": " in line)
        for line in lines:
            if line.lower().startswith("set-cookie: csrftoken="):
                self.token = line.partition("csrftoken=")[2].partition(";")[0]
        told = await self.reader.readexactly(int(headers["content-length"]))
        status = int(lines[0].split()[1])
        assert status < 300, (status, told[:200])
        return json.loads(told) if headers["content-type"].startswith("application/json") else None


async def attend(server: Server, students: int) -> tuple[dict[str, list[float]], list[str]]:
    """(seconds each thing took, what went wrong) of a class of that size."""
    taken, errors = defaultdict[str, list[float]](list), list[str]()
    all_there = asyncio.Barrier(students)
    work = [Student(server, taken, errors).work(all_there) for _ in range(students)]
    for ended in await asyncio.gather(*work, return_exceptions=True):
        if isinstance(ended, BaseException):
            errors.append(repr(ended))
    return taken, errors


def run(options: argparse.Namespace) -> int:
    print(f"{options.workers} workers, {os.cpu_count()} processors, {THINKS:g} s of thought\n")
    print("| students | thing | times | p50 ms | p95 ms | p99 ms | p95 to reach | ratio | errors |")
    print("|---|---|---|---|---|---|---|---|---|")
    for students in options.students:
        with tempfile.TemporaryDirectory() as folder:
            server = Server(Path(folder), options.workers)
            server.start()
            taken, errors = asyncio.run(attend(server, students))
            server.stop()
        reach = REACH.get(students, max(REACH.values()))
        for thing, seconds in taken.items():
            cuts = statistics.quantiles(seconds, n=100)
            p50, p95, p99 = (1e3 * cuts[k] for k in (49, 94, 98))
            row = [students, thing, len(seconds), *(f"{p:.0f}" for p in (p50, p95, p99))]
            row += [f"{1e3 * reach:.0f} ms", f"{p95 / 1e3 / reach:.2f}", len(errors)]
            print("| " + " | ".join(map(str, row)) + " |", flush=True)
        for error in sorted(set(errors))[:5]:
            print(f"  {error}")
    return 0
