"""What is to be printed, as typed."""

from __future__ import annotations

import re
from dataclasses import dataclass

from welotrope.core.errors import OutOfRangeError
from welotrope.core.inputs import Reader
from welotrope.core.kit.setup import Setup
from welotrope.core.ring.strip import Wrap, check_strip_diameter
from welotrope.core.units.distance import Unit, parse_distance
from welotrope.core.units.numbers import number, whole_number
from welotrope.core.units.stops import parse_stops
from welotrope.interchange.print.drawing import Paper
from welotrope.web.forms.text_form import TextForm

MAX_CHOSEN = 40
PARTS = (
    ("strip", "Distance strip for the ring"),
    ("marks", "Depth marks for the fixed side"),
    ("collar", "Protractor collar, to measure with"),
    ("card", "Pocket card"),
)


@dataclass(frozen=True, kw_only=True)
class PrintOrder:
    """What to print; lengths in mm, no distances or stops for a usual choice."""

    parts: frozenset[str]
    wrap: Wrap | None
    fixed: Wrap | None
    paper: Paper
    units: tuple[Unit, ...]
    distances_mm: tuple[float, ...]
    stops: tuple[float, ...]
    presets: bool
    copies: int


class PrintForm(TextForm):
    """Fields as typed; ``chosen`` tells a form with every part unticked from a first visit."""

    chosen: str = ""
    part: list[str] = []
    diameter: str = ""
    fixed: str = ""
    thickness: str = ""
    paper: str = Paper.A4.value
    units: str = "both"
    distances: str = ""
    stops: str = ""
    presets: str = ""
    copies: str = "1"
    numbers_in: str = ""

    def first(self, setup: Setup) -> PrintForm:
        """Return the form of a first visit, filled from the lens; a form that was sent stays as it is."""
        if self.chosen:
            return self
        diameter = setup.lens.ring_diameter_mm
        parts = ["card"] if setup.known.step_deg else ["strip"]
        wanted = self.part or parts
        return self.model_copy(
            update={
                "part": wanted,
                "diameter": self.diameter or ("" if diameter is None else f"{diameter:g}"),
                "presets": "yes",
            }
        )

    def order(self, setup: Setup, unit: Unit, bare: Unit) -> tuple[PrintOrder | None, dict[str, str]]:
        """Return what to print, or None with an error sentence per field.

        ``unit`` leads; a distance without a unit is in ``bare``.
        """
        reader = Reader()
        direction = 1 if setup.lens.infinity_side.value == "left" else -1
        parts = frozenset(self.part) & {key for key, _ in PARTS}
        thickness = (
            reader.optional("thickness", self.thickness, lambda text: number(text, "paper thickness", "mm")) or 0.0
        )
        diameter = reader.optional("diameter", self.diameter, lambda text: number(text, "ring diameter", "mm"))
        fixed = reader.optional("fixed", self.fixed, lambda text: number(text, "diameter of the fixed side", "mm"))
        wrap = fixed_wrap = None
        if parts - {"card"} and "diameter" not in reader.errors:
            wrap = reader.take("diameter", lambda: Wrap(check_strip_diameter(diameter), thickness, direction), None)
        if wrap and fixed is not None:
            fixed_wrap = reader.take("fixed", lambda: Wrap(check_strip_diameter(fixed), thickness, direction), None)
        none: tuple[float, ...] = ()
        distances = reader.take("distances", lambda: _distances(self.distances, bare), none)
        stops = reader.take("stops", lambda: parse_stops(self.stops) if self.stops else none, none)
        copies = reader.take("copies", lambda: whole_number(self.copies or "1", "copies", 1, 6), 1)
        if reader.errors:
            return None, reader.errors
        units = (unit,) if self.units == "one" else (unit, unit.other)
        paper = Paper(self.paper) if self.paper in set(Paper) else Paper.A4
        return PrintOrder(
            parts=parts,
            wrap=wrap,
            fixed=fixed_wrap or wrap,
            paper=paper,
            units=units,
            distances_mm=distances,
            stops=stops,
            presets=bool(self.presets),
            copies=copies,
        ), {}


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
