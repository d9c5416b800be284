"""Every formula has a worked example that holds, and a value from outside that it hits."""

import doctest
import importlib
import inspect
import math
import sys
import tomllib
from pathlib import Path

import pytest

from welotrope.core.optics.thin_lens import Datum

sys.path.insert(0, str(Path(__file__).parents[2] / "scripts"))
import docs

# Pictures are measured in tests/core/finder; marks on paper in tests/interchange; what is said of a hand is held against
# simulated hands in tests/core/hand and tests/core/practice; these take whole rings and records.
MEASURED_ELSEWHERE = ("finder.", "ring.strip", "hand.", "practice.")
OF_RECORDS = {
    "ring.depth_marks.audit", "ring.depth_marks.blur_of_reading", "ring.true_infinity.find_infinity",
    "ring.true_infinity.thickness_error", "ring.true_infinity.corrected_scale", "plan.setting.ring_setting",
    "plan.setting.angle_with_far_limit", "plan.setting.farthest_subject", "plan.setting.hyperfocal_angle",
    "aids.handling.handling", "aids.handling.near_room", "aids.handling.swing_angle", "stats.mean_interval",
    "optics.depth.extension_with_limit", "plan.zones.window_at", "plan.zones.windows_inwards",
    "plan.zones.frame_stack", "plan.zones.stack_extensions", "plan.setting.marks_on_limits", "plan.setting.index_between",
    "plan.closeup.close_range", "plan.framing.field_of_view", "exposure.motion.slowest_held",
    "plan.trap.trap_chances", "exposure.light.agreed_light", "aids.handling.focus_then_zoom",
    "exposure.light.light_table", "plan.framing.begin_with", "plan.framing.focal_to_begin", "plan.night_plan.night_steps",
    "plan.night_plan.plan_night", "plan.setting.indicator_words", "plan.setting.parse_subject_token",
    "plan.setting.place_subjects", "plan.setting.preset_words", "plan.setting.setting_words",
    "plan.setting.subject_token", "plan.sitter.plan_sitter",
}  # fmt: skip
VALUES = tomllib.loads((Path(__file__).parent / "reference/formulas.toml").read_text())["value"]
# A number of stops, or a window of a ring: the example says more than one number would.
BY_EXAMPLE = {
    "plan.zone.clearest_stop", "plan.zone.neighbouring_stops", "plan.zone.stop_outcome", "ring.window.sharp_window",
    "optics.turning.turning_range", "optics.turning.sharp_turning", "optics.depth.film_zone_extension",
    "plan.sitter.together", "ring.window.ring_zone", "ring.depth_marks.blur_of_pair", "optics.wedge.wedge_lit",
}  # fmt: skip


def formulas():
    for name in docs.MODULES:
        if name.startswith(MEASURED_ELSEWHERE):
            continue
        module = importlib.import_module(f"welotrope.core.{name}")
        for key, function in inspect.getmembers(module, inspect.isfunction):
            if function.__module__ == module.__name__ and not key.startswith(("_", "check_")):
                yield f"{name}.{key}", function


@pytest.mark.parametrize("name", [name for name in docs.MODULES if not name.startswith("finder.")])
def test_worked_examples_hold(name):
    module = importlib.import_module(f"welotrope.core.{name}")
    assert doctest.testmod(module).failed == 0


def test_every_formula_has_a_worked_example():
    missing = [
        name for name, function in formulas() if ">>>" not in (function.__doc__ or "") and name not in OF_RECORDS
    ]
    assert missing == []


def test_every_formula_has_a_value_from_outside():
    told = {value["of"] for value in VALUES}
    missing = [name for name, _ in formulas() if name not in told | OF_RECORDS | BY_EXAMPLE]
    assert missing == []


def given(argument):
    if isinstance(argument, str):
        return math.inf if argument == "inf" else Datum(argument)
    return argument


@pytest.mark.parametrize(
    "value", VALUES, ids=lambda value: f"{value['of']}-{value.get('attribute', '')}{value['args']}"
)
def test_a_formula_hits_the_value_from_outside(value):
    module, _, name = value["of"].rpartition(".")
    function = getattr(importlib.import_module(f"welotrope.core.{module}"), name)
    named = dict(zip(inspect.signature(function).parameters, map(given, value["args"]), strict=False))
    found = function(**named, **value.get("keywords", {}))
    found = getattr(found, value["attribute"]) if "attribute" in value else found
    digits = len(value["is"].partition(".")[2])
    assert value["source"]
    assert found == pytest.approx(float(value["is"]), abs=0.5000001 * 10**-digits)
