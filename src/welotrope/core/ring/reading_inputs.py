"""What is asked of a reading of a ring: stops, distances and places on it, one cell of a row each."""

from __future__ import annotations

from typing import Unpack

from welotrope.core.errors import Field, UnreadableError
from welotrope.core.inputs import FormInput, Input, ValueOptions
from welotrope.core.units.distance import parse_distance, write_distance
from welotrope.core.units.numbers import number, write_number
from welotrope.core.units.stops import format_stop, parse_stop


def stop_cell(name: str, label: str, half_empty: str, *, example: str = "") -> Input:
    """Return the input of the stop a row is about."""
    return Input(
        name=name, field=Field("stop", "stop"), label=label, half_empty=half_empty,
        read=lambda text, _typed: parse_stop(text), write=format_stop, example=example,
    )  # fmt: skip


def distance_cell(name: str, field: Field, label: str, **more: Unpack[ValueOptions]) -> Input:
    """Return the input of a distance, mm."""
    return Input(
        name=name, field=field, label=label,
        read=lambda text, typed: parse_distance(text, field=field, bare=typed.bare),
        write=lambda mm: "" if mm is None else write_distance(mm), **more,
    )  # fmt: skip


def angle_cell(label: str, **more: Unpack[ValueOptions]) -> Input:
    """Return the input of a place on the ring: degrees, or millimetres along it where they say so."""
    return Input(
        name="angle", field=Field("ring_position", "ring position"), label=label,
        read=ring_angle, write=write_number, **more,
    )  # fmt: skip


def ring_angle(text: str, typed: FormInput) -> float:
    """Read degrees, or millimetres along the ring; raises UnreadableError for mm on a ring of unknown diameter."""
    cleaned = text.strip().lower().replace("−", "-")
    if not cleaned.endswith("mm"):
        return number(cleaned, "ring position")
    if typed.mm_per_degree is None:
        raise UnreadableError(
            "ring position", text, "millimetres need the ring’s diameter",
            "Write degrees, or enter the diameter on the lens’s page",
        )  # fmt: skip
    return number(cleaned, "ring position", unit="mm") / typed.mm_per_degree
