"""Write what docs are made from the code; ``--check`` says whether they are current."""

from __future__ import annotations

import importlib
import inspect
import json
import os
import sys
from pathlib import Path

MODULES = (
    "optics.thin_lens", "optics.depth", "optics.blur", "optics.turning", "optics.wedge", "optics.sharpness",
    "ring.helicoid", "ring.window", "ring.calibration", "ring.depth_marks", "ring.true_infinity", "ring.focus_shift",
    "ring.strip", "plan.zone", "plan.zones", "plan.framing", "plan.sitter", "plan.trap", "plan.closeup",
    "plan.night_plan", "exposure.light", "exposure.shutter_dial", "exposure.motion", "plan.setting",
    "kit.aids.models", "kit.aids.viewing_optics", "aids.handling",
    "finder.blur", "finder.prisms", "finder.peaking", "hand.skill_estimate", "hand.grid", "hand.skill_trial",
    "hand.causes", "hand.evidence", "hand.diagnosis", "hand.deciding", "hand.progress", "practice.exercises",
    "stats",
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
    constants = importlib.import_module("welotrope.core.kit.aids.models").CONSTANTS
    lines += ["## Table of constants", "", "| id | value | meaning | source |", "|---|---|---|---|"]
    lines += [f"| {c.id} | {c.value:g} {c.unit} | {c.text} | {c.source} |" for c in constants]
    return "\n".join(lines) + "\n"


def rules() -> str:
    """Return every table of rules."""
    from welotrope.core.aids.handling import HANDLING_RULES
    from welotrope.core.kit.aids.registry import aid_rules
    from welotrope.core.kit.fit import FIT_RULES
    from welotrope.core.kit.sheet import SHEET_RULES
    from welotrope.core.practice.advice import ROUND_RULES
    from welotrope.core.practice.trial import SET_ASIDE_RULES

    tables = {
        "The fit check": FIT_RULES.values(), "The set-up sheet": SHEET_RULES.values(), "Aids": aid_rules(),
        "Handling": HANDLING_RULES, "After a round": ROUND_RULES,
        "Trials set aside": SET_ASIDE_RULES,
    }  # fmt: skip
    lines = ["# Rules", "", "Every rule that gives advice, made from the tables by `make docs`. Do not edit."]
    for title, table in tables.items():
        lines += [
            "",
            f"## {title}",
            "",
            "| id | at worst | speaks when | what clears it | rests on |",
            "|---|---|---|---|---|",
        ]
        lines += [f"| {r.id} | {r.severity} | {r.when} | {r.clears} | {r.source} |" for r in table]
    return "\n".join(lines) + "\n"


def fields() -> str:
    """Return what is asked of each record."""
    from welotrope.core.inputs import inputs_of
    from welotrope.core.kit.adapter import Adapter
    from welotrope.core.kit.body import Body
    from welotrope.core.kit.lens import Lens
    from welotrope.core.kit.mount import Mount
    from welotrope.core.review.frame import FrameExtras
    from welotrope.core.ring.depth_marks import MarkPair, MarkReading
    from welotrope.core.ring.focus_shift import ShiftTrial
    from welotrope.core.ring.survey import Point, Survey
    from welotrope.core.ring.true_infinity import Sighting

    lines = [
        "# Fields",
        "",
        "What the kit, the ring and the log ask for, made from the records by `make docs`. Do not edit.",
    ]
    for record in (Body, Lens, Mount, Adapter, Survey, Point, MarkReading, MarkPair, ShiftTrial, Sighting, FrameExtras):
        lines += [
            "",
            f"## {record.__name__}",
            "",
            "| field | asked as | unit | limits | CSV column | hint |",
            "|---|---|---|---|---|---|",
        ]
        for one in inputs_of(record):
            limits = "" if one.low is None else f"{one.low:g} to {one.high:g}"
            column = one.columns[0] if one.columns else ""
            lines.append(f"| {one.name} | {one.label} | {one.unit} | {limits} | {column} | {one.hint} |")
    return "\n".join(lines) + "\n"


def cli() -> str:
    """Return the manual of the command line, as typer writes it."""
    os.environ |= {"TERMINAL_WIDTH": "100", "NO_COLOR": "1"}
    from typer.cli import get_docs_for_click
    from typer.main import get_command

    from welotrope.cli import app

    command = get_command(app)
    context = command.context_class(command, info_name="welotrope")
    return get_docs_for_click(obj=command, ctx=context, name="welotrope").rstrip() + "\n"


def schema() -> str:
    document = importlib.import_module("welotrope.interchange.kit_json").KitDocument
    return json.dumps(document.model_json_schema(), indent=2, ensure_ascii=False) + "\n"


def main() -> int:
    stale = []
    made = {
        "docs/formulas.md": formulas(), "docs/rules.md": rules(), "docs/fields.md": fields(), "docs/cli.md": cli(),
        "docs/kit-schema.json": schema(),
    }  # fmt: skip
    for path, text in ((Path(name), text) for name, text in made.items()):
        if "--check" not in sys.argv:
            path.write_text(text)
        elif not path.exists() or path.read_text() != text:
            stale.append(str(path))
    if stale:
        print(f"stale: {', '.join(stale)}; run make docs")
    return 1 if stale else 0


if __name__ == "__main__":
    sys.exit(main())
