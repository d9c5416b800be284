"""What is the photographer's own: constants of the eye, and the record with each aid."""

from __future__ import annotations

from dataclasses import dataclass, field

from welotrope.core.kit.aids.constants import Eye
from welotrope.core.practice.skill import Skill


@dataclass(frozen=True)
class Personal:
    """Constants by id that stand in for the table's, and the record by kind of aid with the set-up in hand."""

    constants: dict[str, float] = field(default_factory=dict)
    skills: dict[str, Skill] = field(default_factory=dict)

    @property
    def eye(self) -> Eye:
        """The table of constants with their own put in."""
        return Eye.of(self.constants)
