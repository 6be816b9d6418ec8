"""What the package holds besides its sources: pinned dependencies, the built page, the demo exercises."""

from __future__ import annotations

import subprocess
from pathlib import Path
from typing import Any

from hatchling.builders.hooks.plugin.interface import BuildHookInterface
from hatchling.metadata.plugin.interface import MetadataHookInterface


class Dependencies(MetadataHookInterface):
    PLUGIN_NAME = "custom"

    def update(self, metadata: dict[str, Any]) -> None:
        lines = (Path(self.root) / "requirements" / "run.txt").read_text().splitlines()
        metadata["dependencies"] = [line for line in lines if line and not line.startswith("#")]


class Page(BuildHookInterface[Any]):
    PLUGIN_NAME = "custom"

    def initialize(self, version: str, build_data: dict[str, Any]) -> None:
        if self.target_name != "wheel" or version == "editable":
            return
        web = Path(self.root) / "web"
        if not (web / "dist" / "index.html").exists():
            subprocess.run(["npm", "ci", "--no-audit", "--no-fund"], cwd=web, check=True)
            subprocess.run(["npm", "run", "build"], cwd=web, check=True)
        build_data["force_include"] |= {
            str(web / "dist"): "lucidbench/page",
            str(Path(self.root) / "examples"): "lucidbench/examples",
        }
