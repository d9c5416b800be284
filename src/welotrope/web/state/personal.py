"""What is the photographer's own: constants of the eye, and the hand with each aid."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field

from welotrope.core.hand.skill_estimate import SkillEstimate, estimate_skill
from welotrope.core.hand.skill_trial import Manner, SkillTrial
from welotrope.core.kit.aids.models import Eye
from welotrope.core.kit.aids.registry import every_kind


@dataclass(frozen=True)
class SkillEstimates(Mapping[str, SkillEstimate]):
    """The hand with each kind of aid, worked out when it is asked for; one without trials is the average eye's.

    ``attempts`` are by kind of aid, and ``manner`` says with what one is about to focus.
    """

    attempts: Mapping[str, tuple[SkillTrial, ...]] = field(default_factory=dict)
    manner: Manner = field(default_factory=Manner)
    half_life_days: float = 60.0

    def __getitem__(self, aid: str) -> SkillEstimate:
        return estimate_skill(self.attempts.get(aid, ()), manner=self.manner, half_life_days=self.half_life_days)

    def __iter__(self) -> Iterator[str]:
        return (kind.tag for kind in every_kind())

    def __len__(self) -> int:
        return len(every_kind())

    @property
    def guessing(self) -> SkillEstimate:
        """The hand of judging distances, wherever; positive is too far."""
        guesses = tuple(one for one in self.attempts.get("scale", ()) if not one.setup)
        return estimate_skill(guesses, manner=Manner(), half_life_days=self.half_life_days)

    @property
    def trials(self) -> int:
        """How many trials they rest on in all, a pure number."""
        return sum(len(attempts) for attempts in self.attempts.values())


@dataclass(frozen=True)
class Personal:
    """Constants by id that stand in for the table's, and the hand with each aid with the set-up in hand.

    ``average`` when it is asked what the average eye would do, though there are trials.
    """

    constants: dict[str, float] = field(default_factory=dict)
    hands: SkillEstimates = field(default_factory=SkillEstimates)
    average: bool = False

    @property
    def eye(self) -> Eye:
        """The table of constants with their own put in."""
        return Eye.of(self.constants)
