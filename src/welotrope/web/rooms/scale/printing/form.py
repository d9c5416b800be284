"""What is to be printed, as typed."""

from __future__ import annotations

from welotrope.core.inputs import FormInput, Input, Reader, inputs_of, take_all
from welotrope.core.kit.setup import Setup
from welotrope.core.ring.strip import Wrap, check_strip_diameter
from welotrope.core.units.distance import Unit
from welotrope.web.forms.record_form import RecordForm, asks_for
from welotrope.web.rooms.scale.printing.order import DIAMETER, PrintOrder


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
