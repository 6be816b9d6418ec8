"""The tools: checks that fail are seen, what is generated is made once, and lines are counted right."""

from __future__ import annotations

import argparse
import json
import subprocess
import sys
from importlib import import_module
from importlib.machinery import SourceFileLoader
from importlib.util import module_from_spec, spec_from_loader
from pathlib import Path
from types import ModuleType

import pytest

from lucidbench.cli.commands import add_commands, parser
from lucidbench.core.document.exercise import read_exercise
from tests.figures import differences, figures
from tests.serving import HOME
from tools import checks, generated, share
from tools.commands import add_commands as add_tools

PASSES = checks.Check("Good", (sys.executable, "-c", "print('quiet')"))
FAILS = checks.Check(
    "Bad", (sys.executable, "-c", "import sys; print('line 7 is wrong'); sys.exit(3)")
)


# --- checks ---------------------------------------------------------------------------------------


def test_every_check_of_a_chain_is_made_though_one_fails() -> None:
    outcomes = checks._one_by_one((FAILS, PASSES))
    assert [(o.check.label, o.passed) for o in outcomes] == [("Bad", False), ("Good", True)]


def test_a_check_that_fails_is_named_with_what_it_printed(
    capsys: pytest.CaptureFixture[str],
) -> None:
    assert checks._closing(checks._side_by_side([(PASSES,), (FAILS,)])) == 1
    told = capsys.readouterr()
    assert "line 7 is wrong" in told.out
    assert "quiet" not in told.out
    assert told.err.strip() == "lucid: failed: Bad."


def test_checks_that_pass_say_so_in_a_line(capsys: pytest.CaptureFixture[str]) -> None:
    assert checks._closing(checks._one_by_one((PASSES,))) == 0
    assert capsys.readouterr().out.splitlines()[-1] == "All checks passed."


def test_the_quick_checks_are_what_is_run_before_a_commit() -> None:
    labels = [check.label for check in (*checks.PYTHON_CHECKS, *checks.PAGE_CHECKS)]
    assert labels == [
        "Format",
        "Lint",
        "Import rules",
        "Types",
        "Page: format, lint and import rules",
        "Page: types",
    ]
    hook = (HOME / ".pre-commit-config.yaml").read_text()
    assert "entry: ./lucid check" in hook
    assert "exec ./lucid test" in (HOME / ".ci" / "run").read_text()


# --- what is generated ----------------------------------------------------------------------------


@pytest.fixture
def made(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> list[int]:
    """How often something was made, of sources that do not change."""
    monkeypatch.setattr(generated, "STAMPS", tmp_path / "stamps")
    monkeypatch.setattr(generated, "_fingerprint", lambda: "as they are")
    return []


def test_what_is_generated_is_made_once_for_the_same_sources(
    made: list[int], tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    outcome = tmp_path / "types"

    def make() -> None:
        made.append(1)
        outcome.write_text("made")

    for _ in range(2):
        generated._unless_current("types", outcome, make)
    assert len(made) == 1
    outcome.unlink()  # whoever deletes it has it made again
    generated._unless_current("types", outcome, make)
    monkeypatch.setattr(generated, "_fingerprint", lambda: "edited")
    generated._unless_current("types", outcome, make)
    assert len(made) == 3


def test_what_could_not_be_generated_is_tried_again(made: list[int], tmp_path: Path) -> None:
    outcome = tmp_path / "types"
    outcome.write_text("of before")

    def fail() -> None:
        made.append(1)
        raise subprocess.CalledProcessError(1, "server")

    for _ in range(2):
        with pytest.raises(subprocess.CalledProcessError):
            generated._unless_current("types", outcome, fail)
    assert len(made) == 2


def test_nothing_that_is_generated_is_kept_in_git() -> None:
    paths = [generated.DESCRIPTION, generated.TYPES, generated.ANSWERS]
    names = [str(path.relative_to(HOME)) for path in paths]
    ignored = (HOME / ".gitignore").read_text().splitlines()
    assert set(names) <= set(ignored)


# --- the share of tests ---------------------------------------------------------------------------


def repository(folder: Path, files: dict[str, str]) -> None:
    subprocess.run(["git", "init", "-q", folder], check=True)
    for name, text in files.items():
        (folder / name).parent.mkdir(parents=True, exist_ok=True)
        (folder / name).write_text(text)
    subprocess.run(["git", "-C", folder, "add", "-A"], check=True)


def test_the_share_counts_lines_that_are_not_empty(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(share, "HOME", tmp_path)
    repository(
        tmp_path,
        {
            "lucidbench/a.py": "one = 1\n\ntwo = 2\nthree = 3\n",
            "tests/test_a.py": "def test_a():\n    pass\n",
            "web/src/a.test.tsx": "it()\n",
            "web/src/tests/server.ts": "answer()\n",
            "web/src/a.tsx": "draw()\n",
            "lucidbench/server/x/migrations/0001.py": "long = 1\n" * 50,
            "README.md": "words\n" * 50,
        },
    )
    assert share.share_of_tests() == "Tests are 50% of the code: 4 of 8 lines."


def test_a_folder_without_git_has_no_share(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(share, "HOME", tmp_path)
    assert "not known" in share.share_of_tests()


# --- commands -------------------------------------------------------------------------------------


def every_command() -> dict[str, argparse.ArgumentParser]:
    whole = argparse.ArgumentParser()
    commands = whole.add_subparsers()
    add_commands(commands)
    add_tools(commands)
    return dict(commands.choices)


@pytest.mark.parametrize("name", sorted(every_command()))
def test_every_command_is_carried_out_by_a_module_and_stands_in_the_readme(name: str) -> None:
    module = import_module(every_command()[name].get_default("module"))
    assert callable(module.run)
    assert f"`./lucid {name}" in (HOME / "README.md").read_text()


def test_no_process_waits_for_libraries_that_it_hardly_uses() -> None:
    """Each would take half a second or more of every command's and every worker's beginning."""
    heavy = ("scipy.stats", "scipy.signal", "sympy", "matplotlib", "pandas", "openpyxl")
    asks = f"import sys, lucidbench.server.live.methods; print(set({heavy}) & set(sys.modules))"
    told = subprocess.run(
        [sys.executable, "-c", asks], capture_output=True, text=True, cwd=HOME, check=True
    )
    assert told.stdout.strip() == "set()"


def test_an_installed_lucid_has_no_tools() -> None:
    for name in ("test", "dev", "zoo"):
        with pytest.raises(SystemExit):
            parser().parse_args([name])


@pytest.fixture(scope="module")
def launcher() -> ModuleType:
    loader = SourceFileLoader("launcher_of_tools", str(HOME / "lucid"))
    spec = spec_from_loader("launcher_of_tools", loader)
    assert spec
    module = module_from_spec(spec)
    loader.exec_module(module)
    return module


@pytest.mark.parametrize(
    ("words", "needed"),
    [
        ([], True),
        (["tests/core/test_units.py"], False),
        (["tests/core", "tests/instruments", "-x"], False),
        (["-k", "divider"], True),
        (["tests/browser/test_sheet.py"], True),
        (["tests/core", "tests/workshop"], True),
    ],
)
def test_the_page_is_built_for_those_tests_that_need_it(
    launcher: ModuleType, words: list[str], needed: bool
) -> None:
    options = argparse.Namespace(command="test", pytest=words)
    assert launcher.needs_page_for_tests(options) is needed


def test_the_launcher_knows_every_command(launcher: ModuleType) -> None:
    known = set(every_command())
    assert set(launcher.ENGINE) | set(launcher.TOOLS) | {"account", "schema"} == known


# --- figures before and after ---------------------------------------------------------------------


def test_figures_of_a_changed_exercise_are_told_to_differ_and_of_the_same_not(
    tmp_path: Path,
) -> None:
    exercise = read_exercise((HOME / "examples" / "battery-sense.json").read_text())
    files = [tmp_path / name for name in ("before", "again", "after")]
    for file in files:
        if file.name == "after":
            exercise.schematic.parts[1].values["resistance"] = "1.001M"
        file.write_text(json.dumps(figures("one", exercise)))
    assert not list(differences(files[0], files[1]))
    told = {where.rpartition(".")[2]: (a, b) for where, a, b in differences(files[0], files[2])}
    assert {"value", "y", "text"} <= {where.partition("[")[0] for where in told}
