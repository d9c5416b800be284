"""The ring table as compact JSON for the browser: second differences, so that runs of equal steps shrink."""

from __future__ import annotations

import functools
import json
import math
from dataclasses import asdict

import numpy as np

from welotrope.core.json_values import JsonObject
from welotrope.core.kit.setup import Setup
from welotrope.core.optics.depth import BLUR_TOLERANCE
from welotrope.core.plan.setting import READ_DEG, hyperfocal_angle, marks_on_limits, ring_setting
from welotrope.core.ring.table import ANGLE_UNIT_DEG, STEP_DEG, VERGENCE_UNIT, IntArray, ring_table, vergence_integers


@functools.lru_cache(maxsize=32)
def table_json(setup: Setup, stop: float) -> str:
    """Return the lookup table of a set-up for its marked stops and ``stop``, safe inside a script element.

    It is kept for the next page of the same set-up.
    """
    data = table_data(setup, tuple(sorted({*setup.lens.stops, stop})))
    return json.dumps(data, separators=(",", ":")).replace("<", "\\u003c")


def table_data(setup: Setup, stops: tuple[float, ...], *, step_deg: float = STEP_DEG) -> JsonObject:
    """Return the lookup table of a set-up for stops, its grid of ``step_deg`` degrees, as JSON values."""
    shifts = {stop: setup.shift_deg(stop) for stop in stops}
    table = ring_table(setup.ring(), stops, setup.blur_mm, shifts=shifts, step_deg=step_deg)
    return {
        "step_deg": step_deg,
        "throw_deg": table.throw_deg,
        "start_deg": table.start_deg,
        "shift_deg": [table.shift[stop] for stop in stops],
        "indicator_deg": setup.known.step_deg,
        "turn_in": asdict(setup.turn_in) if setup.turn_in else None,
        "angle_unit_deg": ANGLE_UNIT_DEG,
        "vergence_unit": VERGENCE_UNIT,
        "stops": stops,
        "factor": setup.lens.factor,
        "vergence": _second_differences(table.vergence),
        "near": [_second_differences(table.near[stop]) for stop in stops],
        "far": [_second_differences(table.far[stop]) for stop in stops],
        "width": [_second_differences(table.width[stop]) for stop in stops],
        "near_vergence": [_second_differences(table.near_vergence[stop]) for stop in stops],
        "far_vergence": [_second_differences(table.far_vergence[stop]) for stop in stops],
        "tolerance": (BLUR_TOLERANCE - 1) / 2,
        "scale": _second_differences(_engraved(setup, step_deg))
        if setup.has_scale and setup.known.scale != setup.known.true
        else None,
        "read_deg": READ_DEG,
        "marks_read": [_marks_read(setup, stop) for stop in stops],
        "mm_per_deg": setup.mm_per_degree,
    }


def _marks_read(setup: Setup, stop: float) -> bool:
    """Return whether ∞ on the far depth mark of a stop is its hyperfocal setting."""
    return marks_on_limits(setup, ring_setting(setup, hyperfocal_angle(setup, stop), stop)) is not None


def _engraved(setup: Setup, step_deg: float) -> IntArray:
    """Return what the engraving reads over the travel, as vergence on the table's grid from 0."""
    scale = setup.known.scale
    angles = np.arange(math.ceil(setup.known.true.throw_deg / step_deg) + 1, dtype=np.float64) * step_deg
    return vergence_integers(scale.vergence_at_angle(angles))


def _second_differences(values: IntArray) -> list[int]:
    """Return [first, first step, changes of step …]; the browser sums twice."""
    steps = np.diff(values)
    return [int(values[0]), int(steps[0]), *np.diff(steps).tolist()]
