"""A planned setting in words: how to put it on the ring."""

from __future__ import annotations

from dataclasses import dataclass

from welotrope.core.kit.lens_inputs import Side
from welotrope.core.kit.setup import Setup
from welotrope.core.plan.indicator_words import setting_words
from welotrope.core.plan.setting import RingSetting


@dataclass(frozen=True, kw_only=True)
class Put:
    """A setting and how to put it: sides of the far and near mark, or where the indicator of a screen goes.

    ``off`` tells that the engraving is, and ``engraved_mm`` what then stands under the index.
    """

    setting: RingSetting
    far_mark: str
    near_mark: str
    indicator: str
    engraved_mm: float
    off: bool

    @property
    def stop(self) -> float:
        """Its stop."""
        return self.setting.stop


def put(setup: Setup, setting: RingSetting) -> Put:
    """Return how a setting is put on the ring of a set-up."""
    far = setup.lens.infinity_side
    near = Side.LEFT if far is Side.RIGHT else Side.RIGHT
    return Put(
        setting=setting, far_mark=far.value, near_mark=near.value,
        indicator=setting_words(setup, setting.angle_deg, setting.stop),
        off=setup.known.scale_is_off, engraved_mm=float(setup.known.scale.distance_at_angle(setting.angle_deg)),
    )  # fmt: skip
