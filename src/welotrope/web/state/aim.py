"""What one focuses on and how, as every room's URL says it: ``?light=dim+room&detail=low+contrast&view=open``."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from functools import cached_property
from typing import TypeVar

from welotrope.core.aids.handling import Situation
from welotrope.core.kit.aids.viewing_optics import Detail, FramePlace, LightLevel, Lines, Target
from welotrope.core.kit.setup import Setup

ChoiceT = TypeVar("ChoiceT", bound=StrEnum)
_VIEWS = ("open", "taking")


@dataclass(frozen=True)
class Aim:
    """What there is to focus on, and the stop it is seen at: ``open`` (the widest), ``taking``, or as usual."""

    target: Target = field(default_factory=Target)
    view: str = ""

    @classmethod
    def read(cls, query: Mapping[str, object]) -> Aim:
        """Read the aim; what is not known falls back to the usual."""
        usual = Target()
        target = Target(
            lines=_member(Lines, query.get("lines"), usual.lines),
            detail=_member(Detail, query.get("detail"), usual.detail),
            light=_member(LightLevel, query.get("light"), usual.light),
            place=_member(FramePlace, query.get("place"), usual.place), moving=bool(query.get("moving")),
            tripod=bool(query.get("tripod")),
        )  # fmt: skip
        view = query.get("view")
        return cls(target, str(view) if view in _VIEWS else "")

    @property
    def choices(self) -> tuple[tuple[str, str, list[str], str], ...]:
        """Field, label, options and the one chosen."""
        target = self.target
        return (
            ("lines", "Lines", [line.value for line in Lines], target.lines.value),
            ("detail", "Detail", [detail.value for detail in Detail], target.detail.value),
            ("light", "Light", [light.value for light in LightLevel], target.light.value),
            ("place", "Position", [place.value for place in FramePlace], target.place.value),
        )

    @cached_property
    def pairs(self) -> tuple[tuple[str, str], ...]:
        """The choices as pairs of a URL or a form, the usual ones left out."""
        usual = {name: chosen for name, _, _, chosen in Aim().choices}
        chosen = [(name, value) for name, _, _, value in self.choices if value != usual[name]]
        flags = [(name, "yes") for name in ("moving", "tripod") if getattr(self.target, name)]
        return (*chosen, *flags, *([("view", self.view)] if self.view else []))

    @property
    def words(self) -> str:
        """What is out of the usual, such as “dim room, low contrast”; empty for the usual."""
        flags = {"moving": "moving", "tripod": "on a tripod"}
        return ", ".join(flags.get(name, value) for name, value in self.pairs if name != "view")

    def view_of(self, setup: Setup) -> str:
        """Return how the stop is viewed: as chosen, else as the set-up shows it."""
        return self.view or ("open" if setup.seen_open else "taking")

    def situation(self, setup: Setup, stop: float, angle_deg: float) -> Situation:
        """Return what aids are judged for, in every room."""
        seen = setup.lens.widest if self.view_of(setup) == "open" else stop
        return Situation(setup, stop, seen, angle_deg, self.target)


def _member(kind: type[ChoiceT], text: object, usual: ChoiceT) -> ChoiceT:
    return kind(str(text)) if text in set(kind) else usual
