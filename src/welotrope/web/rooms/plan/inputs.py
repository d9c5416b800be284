"""What several sections of Plan ask alike."""

from __future__ import annotations

from typing import Any

from welotrope.core.errors import Field
from welotrope.core.exposure.film import MOST_EXPONENT
from welotrope.core.inputs import Input, number_input
from welotrope.core.units.numbers import number
from welotrope.core.units.stops import format_stop, parse_stop


def stop_asked(empty: float, label: str = "Stop", **more: Any) -> Input:
    """Return the input of a stop."""
    return Input(
        name="stop", field=Field("stop", "stop"), label=label, read=lambda text, _typed: parse_stop(text),
        write=format_stop, empty=empty, **more,
    )  # fmt: skip


def overlap_asked(empty: float, **more: Any) -> Input:
    """Return the input of an overlap, a share of a window."""
    return Input(
        name="overlap", field=Field("overlap", "overlap"), label="Overlap", unit="%", mode="decimal", optional=True,
        empty=empty, low=0, high=0.9, read=lambda text, _typed: number(text, "overlap", "%") / 100,
        write=lambda share: f"{share * 100:g}", **more,
    )  # fmt: skip


def path_asked(usual: float, **more: Any) -> Input:
    """Return the input of the angle between a path and the lens's axis, degrees."""
    return number_input(
        "angle", Field("angle", "angle"), "Path to the lens’s axis", unit="°", low=0, high=90, empty=usual,
        usual=f"{usual:g}", hint="0 straight at you, 90 across", **more,
    )  # fmt: skip


def exponent_asked(hint: str, **more: Any) -> Input:
    """Return the input of a film's reciprocity exponent."""
    return number_input(
        "exponent", Field("exponent", "reciprocity exponent"), "Reciprocity exponent", low=1, high=MOST_EXPONENT,
        hint=hint, **more,
    )  # fmt: skip
