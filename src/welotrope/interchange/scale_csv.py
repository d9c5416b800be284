"""The calibrated scale of a set-up as CSV."""

from __future__ import annotations

import csv
import io
import math
from collections.abc import Sequence

from welotrope.core.kit.setup import Setup
from welotrope.core.plan.setting import ring_setting
from welotrope.core.ring.strip import Wrap
from welotrope.core.units.distance import MM_PER_FOOT


def write_scale(setup: Setup, distances_mm: Sequence[float], stops: Sequence[float], wrap: Wrap | None) -> str:
    """Return a row per distance: where it sits, what the engraving says there, and its limits per stop, in metres.

    Infinity is written ``inf``; a distance the engraving does not have is left empty.
    """
    known = setup.known
    table = io.StringIO()
    writer = csv.writer(table, lineterminator="\n")
    limits = [name for stop in stops for name in (f"near_m_f{stop:g}", f"far_m_f{stop:g}")]
    writer.writerow(["true_m", "true_ft", "angle_deg", "strip_mm", "engraved_m", *limits])
    for mm in distances_mm:
        angle = setup.ring().setting_for(mm)
        row = [_metres(mm), _number(mm / MM_PER_FOOT, 2), f"{angle:.2f}"]
        row.append("" if wrap is None else f"{wrap.place(angle):.2f}")
        row.append("" if known.step_deg else _metres(float(known.scale.distance_at_angle(angle))))
        for stop in stops:
            setting = ring_setting(setup, setup.ring(stop).setting_for(mm), stop)
            row += [_metres(setting.near_mm), _metres(setting.far_mm)]
        writer.writerow(row)
    return table.getvalue()


def _metres(mm: float) -> str:
    return _number(mm / 1000, 3)


def _number(value: float, digits: int) -> str:
    return "inf" if math.isinf(value) else f"{value:.{digits}f}"
