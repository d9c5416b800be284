"""Write formulas.md, cli.md and kit-schema.json in docs from the code; ``--check`` says whether they are current."""

from __future__ import annotations

import importlib
import inspect
import json
import os
import subprocess
import sys
from pathlib import Path

MODULES = (
    "optics.thin_lens", "optics.depth", "optics.blur", "optics.diffraction", "optics.sharpness", "ring.helicoid",
    "ring.window", "ring.adapter_error", "ring.calibration", "ring.depth_marks", "ring.true_infinity",
    "ring.focus_shift", "ring.strip", "plan.zone", "plan.setting", "aids.models", "aids.situation", "aids.handling",
    "aids.constants",
    "finder.blur", "finder.prisms", "finder.peaking", "practice.skill", "stats.proportions", "stats.means",
)  # fmt: skip


def public_functions(module: object) -> list[tuple[str, str]]:
    name = module.__name__  # type: ignore[attr-defined]
    return [
        (function.__name__ + str(inspect.signature(function)).replace("'", ""), inspect.getdoc(function) or "")
        for _, function in inspect.getmembers(module, inspect.isfunction)
        if function.__module__ == name and not function.__name__.startswith("_")
    ]


def formulas() -> str:
    lines = ["# Formulas", "", "Made from the docstrings of `welotrope.core` by `make docs`. Do not edit.", ""]
    for name in MODULES:
        module = importlib.import_module(f"welotrope.core.{name}")
        lines += [f"## {name}", "", inspect.getdoc(module) or "", ""]
        for signature, text in public_functions(module):
            lines += [f"### `{signature}`", "", "```text", text, "```", ""]
    constants = importlib.import_module("welotrope.core.aids.constants").CONSTANTS
    lines += ["## Table of constants", "", "| id | value | meaning | source |", "|---|---|---|---|"]
    lines += [f"| {c.id} | {c.value:g} {c.unit} | {c.text} | {c.source} |" for c in constants]
    rules = importlib.import_module("welotrope.core.aids.rules").RULES
    more = importlib.import_module("welotrope.core.aids.handling").HANDLING_RULES
    lines += ["", "## Rules of the advice", "", "| id | reason |", "|---|---|"]
    lines += [f"| {rule.id} | {rule.reason} |" for rule in (*rules, *more)]
    return "\n".join(lines) + "\n"


def cli() -> str:
    command = [sys.executable, "-m", "typer", "welotrope.cli", "utils", "docs", "--name", "welotrope"]
    environment = os.environ | {"TERMINAL_WIDTH": "100", "NO_COLOR": "1"}
    return subprocess.check_output(command, text=True, env=environment).rstrip() + "\n"


def schema() -> str:
    document = importlib.import_module("welotrope.interchange.kit_json").KitDocument
    return json.dumps(document.model_json_schema(), indent=2, ensure_ascii=False) + "\n"


def main() -> int:
    stale = []
    made = {"formulas.md": formulas(), "cli.md": cli(), "kit-schema.json": schema()}
    for path, text in ((Path("docs") / name, text) for name, text in made.items()):
        if "--check" not in sys.argv:
            path.write_text(text)
        elif not path.exists() or path.read_text() != text:
            stale.append(str(path))
    if stale:
        print(f"stale: {', '.join(stale)}; run make docs")
    return 1 if stale else 0


if __name__ == "__main__":
    sys.exit(main())
