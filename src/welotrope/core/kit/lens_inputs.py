"""What is asked of a lens: each input with its words, its reader and what it may be."""

from __future__ import annotations

import math
import re
from enum import StrEnum

from welotrope.core import fields
from welotrope.core.errors import ConflictError, Field, OutOfRangeError, WelotropeError
from welotrope.core.inputs import Ask, FormInput, Group, Input, number_input, tick_input
from welotrope.core.kit.mount import mount_input
from welotrope.core.ring.helicoid import ring_mm_per_degree
from welotrope.core.units.distance import Unit, parse_distance, write_distance
from welotrope.core.units.exposure import parse_stop, parse_stops
from welotrope.core.units.text import number

MOST_BLUR_MM = 0.5  # no lens that is sold blurs more of itself


class InfinitySide(StrEnum):
    """Where infinity lies on the scale, seen from above with the lens pointing away."""

    LEFT = "left"
    RIGHT = "right"


def _engraved_unit(typed: FormInput) -> Unit:
    """Return the unit of a number read off the ring without one: feet when feet alone are engraved."""
    return Unit.FEET if typed.many("engraved_units") == [Unit.FEET.value] else Unit.METRIC


def _off_the_ring(text: str, typed: FormInput, field: str) -> float:
    return parse_distance(text, field=field, bare=_engraved_unit(typed))


def _magnification(text: str) -> float:
    """Read a magnification such as ``0.5``, ``1:2`` or ``2:1``."""
    field = fields.MAGNIFICATION
    first, colon, second = text.partition(":")
    value = number(first, field)
    below = number(second, field) if colon else 1.0
    if below <= 0:
        raise OutOfRangeError(field, text, "that is no magnification", "Write it like 0.5 or 1:2")
    return value / below


def _throw(text: str, typed: FormInput) -> float:
    """Read a throw in degrees, in mm along a ring of known diameter, or as an eye judges it: “half a turn”."""
    part = next((degrees for key, _, degrees in BY_EYE if key in text.lower()), None)
    if part is not None:
        return part
    match = re.fullmatch(r"(.+?)\s*mm", text.strip().lower())
    if match is None:
        return number(text.lower().replace("deg", ""), "throw in degrees")
    try:
        diameter_mm = number(typed.text(DIAMETER.name), fields.RING_DIAMETER, unit="mm")
    except WelotropeError:
        raise ConflictError(
            "throw", text, "millimetres along the ring need its diameter", "Fill in the ring diameter, or give degrees"
        ) from None
    return number(match[1], "throw", unit="mm") / ring_mm_per_degree(diameter_mm)


def _distances(text: str, unit: Unit, field: Field) -> tuple[float, ...]:
    """Read the distances of one scale in its own unit, parted by semicolons, or by spaces when they carry no unit."""
    parts = [part.strip() for part in text.split(";")] if ";" in text else text.split()
    read = {parse_distance(part, field=field, bare=unit) for part in parts if part}
    return tuple(sorted(round(mm / unit.mm, 6) for mm in read if math.isfinite(mm)))


def _engraved(unit: Unit, name: str, field: Field, called: str, example: str) -> Input:
    return Input(
        name=name, field=field, label=f"Distances engraved in {called}", unit=unit.value, optional=True, empty=(),
        hint=f"As engraved, e.g. {example}. If empty: a typical set is drawn", group=Group.RING, columns=(name,),
        read=lambda text, _typed: _distances(text, unit, field),
        write=lambda values: " ".join(f"{value:.10g}" for value in values),
    )  # fmt: skip


def _units(chosen: list[str], typed: FormInput) -> tuple[Unit, ...]:
    """Return the systems engraved: those chosen, and those whose distances are given."""
    given = {Unit.METRIC: ENGRAVED_M, Unit.FEET: ENGRAVED_FT}

    def listed(unit: Unit) -> bool:
        try:
            return bool(given[unit].read(typed.text(given[unit].name), typed))
        except WelotropeError:
            return False

    return tuple(unit for unit in given if unit.value in chosen or listed(unit))


FOCAL = number_input(
    "focal",
    fields.FOCAL,
    "Marked focal length",
    unit="mm",
    hint="Engraved on the front ring; for a zoom the longest",
    optional=False,
    empty=50.0,
    columns=("focal", "focal_mm", "focal length"),
)
STOPS = Input(
    name="stops", field=fields.STOPS, label="Marked stops", hint="As engraved, e.g. 2 2.8 4 5.6 8 11 16", empty=(2.0,),
    read=lambda text, _typed: parse_stops(text), write=lambda stops: " ".join(f"{stop:g}" for stop in stops),
    columns=("stops", "marked stops"),
)  # fmt: skip
CLOSEST_FOCUS = Input(  # not named "closest": htmx calls form.closest()
    name="closest_focus", field=fields.CLOSEST, label="Closest focus", empty=1e4, write=write_distance,
    hint="Nearest engraved distance, from the film plane: 0.45 m, 1.5 ft, 1′6″."
    " Without a unit: metres, or feet when only feet are engraved",
    read=lambda text, typed: _off_the_ring(text, typed, fields.CLOSEST),
    columns=("closest", "closest_focus", "closest focus", "closest_m", "closest_ft"),
)  # fmt: skip
THROW = Input(
    name="throw", field=fields.THROW, label="Focus throw, ∞ to closest", read=_throw, optional=True, group=Group.RING,
    hint="Degrees, or millimetres along the ring (wrap a strip of paper, mark both ends): 230 or 122 mm."
    " By eye: a quarter, a third, half, most of a turn. Empty: 180° is assumed", columns=("throw", "throw_deg"),
)  # fmt: skip
# Parts of a turn as an eye judges them.
BY_EYE: tuple[tuple[str, str, float], ...] = (
    ("quarter", "a quarter of a turn", 90.0), ("third", "a third of a turn", 120.0), ("half", "half a turn", 180.0),
    ("most", "most of a turn", 300.0),
)  # fmt: skip
THROW_BY_EYE = Input(
    name="throw", field=fields.THROW, label="Focus throw (∞ to closest)", ask=Ask.CHOICE, group=Group.LENS,
    optional=True, options=(("", "not known"), *((key, words) for key, words, _ in BY_EYE)),
    read=lambda text, _typed: next((degrees for key, _, degrees in BY_EYE if key == text), None), write=lambda _deg: "",
)  # fmt: skip
DIAMETER = number_input(
    "diameter", fields.RING_DIAMETER, "Ring diameter", unit="mm", group=Group.RING,
    hint="Across the grip; or its circumference divided by 3.14",
    columns=("diameter", "ring_diameter_mm", "ring diameter"),
)  # fmt: skip
READING_DISTANCE = Input(
    name="reading_distance", field=Field("distance", "engraved distance read"), group=Group.RING, empty=1e4,
    label="Or one reading: distance at the index", optional=True, write=write_distance,
    hint="If the throw is not measured: an engraved distance, a number alone as for closest focus …",
    read=lambda text, typed: _off_the_ring(text, typed, "engraved distance read"),
)  # fmt: skip
READING_ANGLE = number_input(
    "reading_angle", fields.RING_READING, "… and its angle from ∞", unit="degrees", says="ring reading in degrees",
    also=("lead",), group=Group.RING, empty=10.0,
)  # fmt: skip
INFINITY_SIDE = Input(
    name="infinity_side", field=Field("infinity_side", "side of infinity"), group=Group.RING, ask=Ask.PICK,
    usual="right",
    label="Seen from above with the lens pointing away, ∞ is",
    read=lambda text, _typed: InfinitySide.LEFT if text == "left" else InfinitySide.RIGHT,
    write=lambda side: str(side.value),
    options=(
        ("right", "at the right end: the ring turns anticlockwise, seen from behind, to reach it"),
        ("left", "at the left end: it turns clockwise"),
    ), columns=("infinity_side", "infinity"),
)  # fmt: skip
ENGRAVED_UNITS = Input(
    name="engraved_units", field=Field("engraved_units", "engraved in"), label="Engraved in", ask=Ask.MANY,
    usual=["m", "ft"], options=(("m", "metres"), ("ft", "feet")), read=_units, group=Group.RING,
    write=lambda units: [unit.value for unit in units],
)  # fmt: skip
BEST_STOP = Input(
    name="best_stop", field=fields.BEST_STOP, label="Sharpest in the middle at", optional=True, group=Group.SHARPEST,
    hint="e.g. 5.6. Zones offer it; without it, the marked stop nearest to f/8 is assumed",
    read=lambda text, _typed: parse_stop(text, field=fields.BEST_STOP),
    write=lambda stop: "" if stop is None else f"{stop:g}",
)  # fmt: skip
CORNER_STOP = Input(
    name="corner_stop", field=fields.CORNER_STOP, label="Corners are sharp from", optional=True, group=Group.SHARPEST,
    hint="e.g. 8. At wider stops an edge in a corner is taken for softer than one in the middle",
    read=lambda text, _typed: parse_stop(text, field=fields.CORNER_STOP),
    write=lambda stop: "" if stop is None else f"{stop:g}",
)  # fmt: skip
WIDE_BLUR = number_input(
    "wide_blur", fields.WIDE_BLUR, "Own blur wide open, in the middle", unit="mm", group=Group.SHARPEST,
    low=0.0, high=MOST_BLUR_MM,
    hint="Diameter beyond that of the sharpest stop, e.g. 0.01. The test shots of stops measure it",
)  # fmt: skip
CORNER_BLUR = number_input(
    "corner_blur", fields.CORNER_BLUR, "Own blur wide open, in the corners", unit="mm", group=Group.SHARPEST,
    low=0.0, high=MOST_BLUR_MM,
    hint="Diameter beyond that of the sharpest stop, e.g. 0.04. Aids take it into account in corners",
)  # fmt: skip
MAGNIFICATION = Input(
    name="magnification", field=fields.MAGNIFICATION, label="Magnification at closest focus", optional=True,
    hint="Engraved on macro lenses: 1:2 or 0.5. It makes depth of field accurate close up", group=Group.RING,
    read=lambda text, _typed: _magnification(text),
)  # fmt: skip
PLANES = number_input(
    "planes", fields.PLANES, "Principal planes apart", unit="mm", group=Group.RING,
    hint="Negative when they cross. Readings in Measure find this value; you can leave it empty",
)  # fmt: skip
SHORTENS = tick_input(
    "shortens", "Internal focusing (focal length shortens close up): the ring is measured as a curve", group=Group.RING
)
BEYOND = tick_input(
    "beyond", "It reaches beyond 1:1: closest focus is then the distance at the end stop", group=Group.RING
)
ENGRAVED_M = _engraved(Unit.METRIC, "engraved_m", fields.ENGRAVED_M, "metres", "0.45 0.5 0.6 0.8 1 1.5 2 3 5 10")
ENGRAVED_FT = _engraved(Unit.FEET, "engraved_ft", fields.ENGRAVED_FT, "feet", "1.5 2 2.5 3 4 5 7 10 15 30")
MOUNT = mount_input(
    hint="A lens made for the camera has the camera’s mount; choose another mount for an adapted lens",
    columns=("mount",),
)
# What has no answer where the lens stays on its camera.
OF_A_RING = frozenset(
    {"throw", "throw_by_eye", "diameter", "reading_distance", "reading_angle", "infinity_side", "shortens", "endless",
     "parfocal", "drift_from", "drift_to"}
)  # fmt: skip
OF_A_JOINT = frozenset({"mount", "protrusion", "rear", "aperture_ring", "pin", "image_circle", "length"})
