"""Workers killed while pages save: `python -m tests.server.kills --kills 1000` for a long run of it."""

from __future__ import annotations

import argparse
import http.client
import os
import random
import signal
import tempfile
import time
from collections import Counter
from pathlib import Path
from threading import Event, Thread

from tests.serving import Client, Server, serving

SAVERS = 6
PAUSE = 0.05  # s before the next kill, on the average
STARTED = 3.0  # s after which a worker takes its share of the saves
COMES_BACK_WITHIN = 60  # s


class Saver:
    """A page that saves one edit after the other, and asks again where it got no answer."""

    def __init__(self, server: Server, name: str) -> None:
        self.server, self.name = server, name
        self.client = Client(server)
        opened = self.client.call("POST", "/exercises", {"document": {"title": name}})[1]
        self.path, self.revision = f"/exercises/{opened['id']}", 1
        self.acknowledged = {1: name}

    def work(self, stop: Event) -> None:
        edits = 0
        while not stop.is_set():
            edits += 1
            self._save(f"{self.name}, edit {edits}")

    def _save(self, title: str) -> None:
        body = {"based_on": self.revision, "document": {"title": title}}
        while True:
            try:
                status, told = self.client.call("PUT", self.path, body)
                break
            except (OSError, http.client.HTTPException):
                self._reconnect()
        if status == 200:
            self.revision = told["revision"]
            self.acknowledged[self.revision] = title
        elif status == 409:  # it was saved, but the answer got lost
            self.revision = told["latest"]
        else:
            raise AssertionError((status, told))

    def _reconnect(self) -> None:
        until = time.monotonic() + COMES_BACK_WITHIN
        while time.monotonic() < until:
            try:
                self.client = Client(self.server)
                return
            except (OSError, http.client.HTTPException):
                time.sleep(0.02)
        raise TimeoutError("the server did not come back")

    def lost(self) -> list[str]:
        """What was acknowledged and is not there."""
        self._reconnect()
        found = []
        for number, title in self.acknowledged.items():
            status, told = self.client.call("GET", f"{self.path}/revisions/{number}")
            if status != 200 or told["document"]["title"] != title:
                found.append(f"{title} ({number}): {status}")
        return found


def kill_amid_saves(server: Server, kills: int) -> list[str]:
    """What was acknowledged and got lost, of all pages."""
    savers = [Saver(server, f"page {k}") for k in range(SAVERS)]
    stop = Event()
    failed = list[str]()

    def work(saver: Saver) -> None:
        try:
            saver.work(stop)
        except Exception as error:
            failed.append(f"{saver.name}: {error!r}")

    threads = [Thread(target=work, args=(saver,)) for saver in savers]
    for thread in threads:
        thread.start()
    killed = Counter[int]()
    while sum(killed.values()) < kills and not failed:
        before = sum(len(saver.acknowledged) for saver in savers)
        time.sleep(random.uniform(0, 2 * PAUSE))
        at_work = [pid for pid in server.workers if not killed[pid] and _age(pid) > STARTED]
        if at_work and sum(len(saver.acknowledged) for saver in savers) > before:
            victim = random.choice(at_work)
            os.kill(victim, signal.SIGKILL)
            killed[victim] += 1
    stop.set()
    for thread in threads:
        thread.join()
    return failed + [line for saver in savers for line in saver.lost()]


def _age(pid: int) -> float:
    try:
        return time.time() - Path(f"/proc/{pid}").stat().st_ctime
    except OSError:
        return 0.0


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--kills", type=int, default=100)
    parser.add_argument("--workers", type=int, default=4)
    options = parser.parse_args()
    with (
        tempfile.TemporaryDirectory() as folder,
        serving(Path(folder), options.workers) as server,
    ):
        began = time.monotonic()
        lost = kill_amid_saves(server, options.kills)
        print(
            f"{options.kills} kills in {time.monotonic() - began:.0f} s; lost: {lost or 'nothing'}"
        )


if __name__ == "__main__":
    main()
