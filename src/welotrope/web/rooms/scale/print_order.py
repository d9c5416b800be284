"""What is to be printed: an order, and what is asked for it."""

from __future__ import annotations

import re
from dataclasses import dataclass, field
from enum import StrEnum

from welotrope.core import fields
from welotrope.core.errors import Field, OutOfRangeError
from welotrope.core.inputs import (
    Ask,
    FormInput,
    Input,
    Reader,
    choice_input,
    field_spec,
    inputs_of,
    number_input,
    take_all,
    tick_input,
    whole_input,
)
from welotrope.core.kit.setup import Setup
from welotrope.core.ring.strip import Wrap, check_strip_diameter
from welotrope.core.units.distance import Unit, parse_distance
from welotrope.core.units.exposure import parse_stops
from welotrope.interchange.print.drawing import Paper
from welotrope.web.forms import RecordForm, asks_for

MAX_CHOSEN = 40
PARTS = (
    ("strip", "Distance strip for the ring"),
    ("marks", "Depth marks for the fixed side"),
    ("collar", "Degree collar, for measuring"),
    ("card", "Pocket card"),
)


class UnitsShown(StrEnum):
    """Units a sheet is printed in."""

    BOTH = "both"
    ONE = "one"


def _distances(text: str, unit: Unit) -> tuple[float, ...]:
    """Read distances separated by spaces, semicolons or commas followed by a space; ``2 m`` may hold a space."""
    joined = re.sub(r"(?<=\d)\s+(?=(?:m|cm|mm|ft|in)\b)", "", text.strip())
    parts = [part.rstrip(",") for part in re.split(r"[;\s]+|,\s+", joined) if part.strip(",")]
    if len(parts) > MAX_CHOSEN:
        raise OutOfRangeError(
            "distances", f"{len(parts)} distances", "no strip has room for so many", f"Give at most {MAX_CHOSEN}"
        )
    chosen = [parse_distance(part, field="distances", bare=unit) for part in parts]
    return tuple(dict.fromkeys(chosen))


PART = Input(
    name="part", field=Field("part", "what to print"), label="What", ask=Ask.MANY, usual=[], options=PARTS,
    read=lambda chosen, _typed: frozenset(chosen) & {key for key, _ in PARTS}, write=sorted,
)  # fmt: skip
DIAMETER = number_input("diameter", fields.RING_DIAMETER, "Ring diameter", unit="mm")
FIXED_SIDE = number_input("fixed", Field("fixed", "diameter of the fixed side"), "Fixed side", unit="mm")
THICKNESS = number_input(
    "thickness", Field("paper_thickness", "paper thickness"), "Paper thickness", unit="mm", empty=0.0
)
COPIES = whole_input("copies", Field("copies", "copies"), "Copies", 1, 6, usual="1", empty=1)
DISTANCES = Input(
    name="distances", field=Field("distances", "distances"), label="Distances", optional=True, empty=(),
    hint="e.g. 0.5 0.7 1 2 5 ∞. If empty: a readable set",
    read=lambda text, typed: _distances(text, typed.bare),
)  # fmt: skip
STOPS = Input(
    name="stops", field=Field("stops", "stops"), label="Stops", hint="if empty: those of the lens", optional=True,
    empty=(), read=lambda text, _typed: parse_stops(text),
)  # fmt: skip
UNITS = choice_input("units", "Units", UnitsShown, UnitsShown.BOTH, ask=Ask.PICK)
PAPER = choice_input("paper", "Paper", Paper, Paper.A4, ask=Ask.PICK)
PRESETS = tick_input("presets", "my presets")


@dataclass(frozen=True, kw_only=True)
class PrintOrder:
    """What to print; lengths in mm, no distances or stops for a usual choice.

    Parameters
    ----------
    parts
        Keys of ``PARTS``.
    diameter_mm, fixed_mm, thickness_mm
        Of the ring, of the fixed side (None for as wide as the ring) and of the paper.
    wrap, fixed
        What a strip for the ring and one for the fixed side is wrapped round; None where none is asked for.
    unit
        The leading one.
    """

    parts: frozenset[str] = field(metadata=field_spec(PART))
    diameter_mm: float | None = field(metadata=field_spec(DIAMETER))
    fixed_mm: float | None = field(metadata=field_spec(FIXED_SIDE))
    thickness_mm: float = field(metadata=field_spec(THICKNESS))
    copies: int = field(metadata=field_spec(COPIES))
    distances_mm: tuple[float, ...] = field(metadata=field_spec(DISTANCES))
    stops: tuple[float, ...] = field(metadata=field_spec(STOPS))
    units_shown: UnitsShown = field(metadata=field_spec(UNITS))
    paper: Paper = field(metadata=field_spec(PAPER))
    presets: bool = field(metadata=field_spec(PRESETS))
    wrap: Wrap | None = None
    fixed: Wrap | None = None
    unit: Unit = Unit.METRIC

    @property
    def units(self) -> tuple[Unit, ...]:
        """Units to print in, the leading one first."""
        return (self.unit,) if self.units_shown is UnitsShown.ONE else (self.unit, self.unit.other)


@asks_for(PrintOrder)
class PrintForm(RecordForm):
    """Fields as typed; ``chosen`` tells a form with every part unticked from a first visit."""

    # Of the order, as typed.
    part: list[str] = []
    diameter: str = ""
    chosen: str = ""
    numbers_in: str = ""

    @property
    def asked(self) -> dict[str, Input]:
        """What is asked for, by name."""
        return {one.name: one for one in inputs_of(PrintOrder)}

    def first(self, setup: Setup) -> PrintForm:
        """Return the form of a first visit, filled from the lens; a form that was sent stays as it is."""
        if self.chosen:
            return self
        parts = self.part or (["card"] if setup.known.step_deg or not setup.body.kind.turns else ["strip"])
        diameter = self.diameter or DIAMETER.write(setup.lens.ring_diameter_mm)
        filled: PrintForm = self.model_copy(update={"part": parts, "diameter": diameter, "presets": "yes"})
        return filled

    def order(self, setup: Setup, unit: Unit, bare: Unit) -> tuple[PrintOrder | None, dict[str, str]]:
        """Return what to print, or None with an error sentence per field.

        ``unit`` leads; a distance without a unit is in ``bare``.
        """
        reader = Reader()
        direction = setup.lens.direction
        values = take_all(PrintOrder, reader, FormInput(texts=self.model_dump(), bare=bare))
        across, fixed, paper = values["diameter_mm"], values["fixed_mm"], values["thickness_mm"]
        wrap = fixed_wrap = None
        if values["parts"] - {"card"} and "diameter" not in reader.errors:
            wrap = reader.take("diameter", lambda: Wrap(check_strip_diameter(across), paper, direction), None)
        if wrap and fixed is not None:
            fixed_wrap = reader.take("fixed", lambda: Wrap(check_strip_diameter(fixed), paper, direction), None)
        if reader.errors:
            return None, reader.errors
        return PrintOrder(**values, wrap=wrap, fixed=fixed_wrap or wrap, unit=unit), {}
