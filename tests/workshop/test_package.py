"""As a package: installed elsewhere it serves, and its container is built by the launcher's steps."""

from __future__ import annotations

import os
import re
import subprocess
import sys
import tarfile
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from tests.serving import HOME, environment, free_port

BUILT_BY = (
    "lucidbench",
    "web/dist",
    "examples",
    "requirements",
    "pyproject.toml",
    "hatch_build.py",
    "README.md",
)


def clean(**settings: str) -> dict[str, str]:
    """Nothing of this checkout is on the way."""
    own = {
        k: v for k, v in environment().items() if k != "PYTHONPATH" and not k.startswith("LUCID_")
    }
    return {**own, **settings}


@contextmanager
def demo(lucid: Path, home: Path) -> Iterator[str]:
    """The address that the installed command prints."""
    own = clean(LUCID_HOME=str(home), LUCID_CACHE=str(home / "cache"))
    command = [lucid, "demo", "--port", str(free_port())]
    with subprocess.Popen(command, stdout=subprocess.PIPE, text=True, cwd="/", env=own) as process:
        assert process.stdout
        try:
            printed = [process.stdout.readline(), process.stdout.readline()]
            assert "Loaded 12 demo exercises" in printed[0]
            address = re.search(r"http://\S+/", printed[1])
            assert address
            yield address[0]
        finally:
            process.terminate()
            assert process.wait(30) == 0


def test_it_is_installed_into_a_new_environment_and_serves_the_demo(tmp_path: Path) -> None:
    """Outside the checkout, with the dependencies that the package names."""
    python = tmp_path / "venv" / "bin" / "python"
    empty = [sys.executable, "-m", "venv", "--without-pip", tmp_path / "venv"]
    subprocess.run(empty, check=True)
    pip = [sys.executable, "-m", "pip", "--python", python, "--disable-pip-version-check"]
    # What is imported is compiled then; compiling all that comes would be most of the time.
    install = [*pip, "install", "--no-compile", "-q", copied(tmp_path / "sources")]
    subprocess.run(install, check=True, env=clean(), capture_output=True, cwd="/")
    with demo(python.parent / "lucid", tmp_path / "home") as address:
        page = urllib.request.urlopen(address, timeout=60).read().decode()
        script = re.search(r'src="(/assets/[^"]+\.js)"', page)
        assert script
        assert urllib.request.urlopen(address + script[1].lstrip("/"), timeout=60).status == 200
        listed = urllib.request.urlopen(f"{address}api/exercises", timeout=60).read().decode()
        assert "Battery sense" in listed
    package = next((tmp_path / "venv" / "lib").glob("python*/site-packages/lucidbench"))
    assert (package / "py.typed").exists()
    assert not list(package.rglob("*.nbi"))  # what is compiled is kept elsewhere
    kinds = "import lucidbench.core as core; print(core.operating_point.__module__)"
    told = subprocess.run(
        [python, "-c", kinds], capture_output=True, text=True, cwd="/", env=clean(), check=True
    )
    assert told.stdout.strip().startswith("lucidbench.core")


def copied(folder: Path) -> Path:
    """What the package is built from, so that building leaves nothing in the checkout."""
    folder.mkdir()
    with tarfile.open(folder / "sources.tar", "w") as archive:
        for name in BUILT_BY:
            archive.add(
                HOME / name,
                name,
                filter=lambda entry: None if "__pycache__" in entry.name else entry,
            )
    with tarfile.open(folder / "sources.tar") as archive:
        archive.extractall(folder, filter="data")
    (folder / "sources.tar").unlink()
    return folder


def container_steps() -> str:
    text = (HOME / "Containerfile").read_text()
    return re.sub(r"\\\n\s*", " ", text)


def test_the_container_is_built_by_the_launchers_steps() -> None:
    launcher, steps = (HOME / "lucid").read_text(), container_steps()
    ran = " ".join(line for line in steps.splitlines() if line.startswith("RUN"))
    assert '("ci", "--no-audit", "--no-fund")' in launcher
    assert "ci --no-audit --no-fund" in ran
    assert '"npm", "run", "build"' in launcher
    assert "npm run build" in ran
    assert '"-m", "pip", "install", "--disable-pip-version-check", "-r"' in launcher
    assert "-m pip install --disable-pip-version-check -r requirements/run.txt" in ran
    for module in re.findall(r'"-m", "(lucidbench\.[\w.]+)"', launcher):
        assert f"-m {module}" in ran
    node = re.search(r"OLDEST_NODE = (\d+)", launcher)
    assert node
    assert f"node:{node[1]}-" in steps
    assert "python:3.11-" in steps


def test_the_container_serves_as_nobody_special_and_says_how_it_is() -> None:
    steps = container_steps().splitlines()
    last = max(k for k, line in enumerate(steps) if line.startswith("FROM"))
    final = steps[last:]
    assert any(line.startswith("USER lucid") for line in final)
    assert any(line.startswith("HEALTHCHECK") and "/api/me" in line for line in final)
    for line in final:
        for copied_from in re.findall(r"^COPY (?!--from)(\S+)", line):
            assert (HOME / copied_from).exists()
    for line in steps:
        for source in re.findall(r"^COPY ((?:[\w./_-]+ )+)", line):
            assert all((HOME / name).exists() for name in source.split()), line
    assert os.access(HOME / "lucid", os.X_OK)
