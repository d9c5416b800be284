"""A setting in words: how to put it on the ring, alike on every page."""

from __future__ import annotations

from dataclasses import dataclass

from welotrope.core.kit.setup import Setup
from welotrope.core.plan.setting import LimitMarks, RingSetting, index_between, marks_on_limits, setting_words
from welotrope.core.units.distance import Unit
from welotrope.core.units.turn import turn_text


@dataclass(frozen=True, kw_only=True)
class Put:
    """A setting, where an indicator goes for it (empty for a ring), and the depth marks that stand on its limits.

    ``between`` is where the index stands between the lens's own engraved numbers; empty where they are not known.
    ``turned`` is how far that is from infinity, where no distances are engraved; empty where they are.
    """

    setting: RingSetting
    indicator: str
    marks: LimitMarks | None
    turned: str
    between: str

    @property
    def stop(self) -> float:
        """Its stop."""
        return self.setting.stop


def put(setup: Setup, setting: RingSetting, unit: Unit) -> Put:
    """Return how a setting is put on the ring of a set-up, in a leading unit."""
    return Put(
        setting=setting, indicator=setting_words(setup, setting.angle_deg, setting.stop),
        marks=marks_on_limits(setup, setting), between=index_between(setup, setting, unit),
        turned="" if setting.engraved_mm is not None else turn_text(setting.angle_deg, setup.turn_in),
    )  # fmt: skip
