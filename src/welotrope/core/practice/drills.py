"""Drills away from the screen: each one record, declaring what to do, what is asked, and what it counts for."""

from __future__ import annotations

import math
import random
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from enum import StrEnum
from typing import TypeVar

from welotrope.core.errors import UnreadableError
from welotrope.core.hand.skill_trial import MissSide, SkillTrial
from welotrope.core.kit.aids.viewing_optics import LightLevel
from welotrope.core.kit.camera_kind import CameraKind, CameraKindId

Thing = TypeVar("Thing")
DISTANCES_MM = (700.0, 1000.0, 1500.0, 2000.0, 3000.0, 5000.0)
DAILY = 5
FARTHEST_LEAN_MM = 2000.0  # beyond it a body leans less than the sharp zone is deep


class DrillId(StrEnum):
    """A drill, as its trials are kept."""

    TAPE = "tape"
    GUESS = "guess"
    APPROACH = "approach"
    LEAN = "lean"
    DAILY = "daily"


@dataclass(frozen=True, kw_only=True)
class Drill:
    """A drill.

    Parameters
    ----------
    id, title
        Its key and name.
    tab, jump
        What its tab is called, and what it is found by in the list of places to jump to; empty for not there.
    task
        What to do, in the order it is done.
    needs
        What it takes, in a few words.
    answer
        Which answer is wrong where an error names none: what was read on the ring, taped, or on which side focus fell.
    aided
        Whether it is done with an aid at a stop.
    on_the_ring
        Whether the subject stays at one distance and the ring is read.
    farthest_mm
        The farthest distance it sets.
    suits
        Whether it can be done with a camera of a kind.
    """

    id: DrillId
    title: str
    tab: str
    task: tuple[str, ...]
    needs: str
    answer: str
    jump: str = ""
    aided: bool = True
    on_the_ring: bool = False
    farthest_mm: float = math.inf
    suits: Callable[[CameraKind], bool] = lambda _camera: True


def _stays(camera: CameraKind) -> bool:
    """Whether a ring is focused by an aid and stands where it is left, so that tape on it tells."""
    return camera.turns and bool(camera.aids or camera.id is CameraKindId.UNKNOWN)


DRILLS: tuple[Drill, ...] = (
    Drill(
        id=DrillId.TAPE, title="Tape drill", tab="Tape", jump="Tape drill", answer="reading", on_the_ring=True,
        task=(
            "Put tape on the ring, focus carefully on a fixed subject, and draw a pencil line at the index.",
            "Defocus as the page says, look away, and focus again.",
            "Read how far the line is from the index.",
        ),
        needs="tape, a pencil, something that stays", suits=_stays,
    ),
    Drill(
        id=DrillId.GUESS, title="Estimate a distance", tab="Guess", jump="Guess distances", answer="taped",
        task=("Choose something, and say how far it is from where you hold the camera.", "Then measure it."),
        needs="a tape measure or your paces", aided=False,
    ),
    Drill(
        id=DrillId.APPROACH, title="Walk up to it", tab="Approach", answer="taped",
        task=("Walk up to something until you think it is at the distance shown.", "Stop, and measure."),
        needs="a tape measure or your paces", aided=False,
    ),
    Drill(
        id=DrillId.LEAN, title="Lean, do not turn", tab="Lean", jump="Lean drill", answer="taped",
        farthest_mm=FARTHEST_LEAN_MM,
        task=(
            "Set the distance shown and leave it. Lean in and out in front of something with detail.",
            "Stop where it is sharpest, stay, and measure from the film plane to it.",
        ),
        needs="a tape measure, ideally a helper", suits=lambda camera: camera.sees_focus,
    ),
    Drill(
        id=DrillId.DAILY, title="Daily five", tab="Daily five", jump="Daily five", answer="side",
        task=("Five pictures at five distances, all with one routine.", "Look at each at 1:1: where is focus?"),
        needs="five minutes",
    ),
)  # fmt: skip
_BY_ID = {drill.id: drill for drill in DRILLS}


def drill_called(id: str) -> Drill:
    """Return a drill; raises UnreadableError when there is none of that name.

    Parameters
    ----------
    id
        Key of the record.
    """
    if id not in set(DrillId):
        raise UnreadableError("drill", id, "there is none of that name", f"Choose from {', '.join(DrillId)}")
    return _BY_ID[DrillId(id)]


@dataclass(frozen=True, kw_only=True)
class DrillTrial:
    """What came of a trial in a drill.

    Parameters
    ----------
    drill
        Which.
    aid, technique, light
        With what, how, and in how much light it was focused; ``scale`` where a distance was judged.
    stop
        f-number; None where none bears on it.
    distance_mm
        Where the subject truly was, mm from the film plane; None where it is not known.
    believed_mm
        Where it was believed to be, mm; None where nothing was.
    error_deg
        How far off the ring was left, degrees, positive behind; None when only the side is known, or no ring turned.
    z
        The error over what the aid shows; None when only the side is known.
    side, half_z
        The side it fell on, and half the sharp window in the same unit.
    thrown_deg
        How far the ring was thrown off before, degrees, positive towards infinity; None when it was not.
    against
        The mark it was measured against where the same hand set it; empty for the truth.
    at_stop
        Whether the ring stood at an end of its travel, so that sharp could not be passed.
    """

    drill: DrillId
    aid: str
    technique: str = ""
    light: LightLevel = LightLevel.BRIGHT
    stop: float | None = None
    distance_mm: float | None = None
    believed_mm: float | None = None
    error_deg: float | None = None
    z: float | None = None
    side: str = ""
    half_z: float = 1.0
    thrown_deg: float | None = None
    against: str = ""
    at_stop: bool = False

    @property
    def is_scored(self) -> bool:
        """Whether it tells of the hand at all."""
        return self.z is not None or bool(self.side)


def attempt_of(trial: DrillTrial, *, setup: str = "", days_ago: float = 0.0) -> SkillTrial:
    """Return a trial as it feeds the model of the hand, with a set-up by key, so many days ago.

    Distances are judged alike with every set-up.

    Parameters
    ----------
    trial
        The trial.
    setup
        Key of the set-up, which tells whose ring it was; empty for none.
    days_ago
        How many days ago it was.
    """
    return SkillTrial(
        z=trial.z, side=MissSide(trial.side) if trial.side else None, half_z=trial.half_z, days_ago=days_ago,
        setup="" if trial.aid == "scale" else setup, technique=trial.technique, light=trial.light.value,
        against=trial.against,
    )  # fmt: skip


@dataclass(frozen=True)
class Throw:
    """How to throw the focus off: towards infinity or nearer, and by how many half windows."""

    to_infinity: bool
    half_windows: float

    def size_deg(self, half_deg: float) -> float:
        """Return how far that is, degrees, where half the window is ``half_deg``."""
        return self.half_windows * half_deg

    def thrown_deg(self, half_deg: float) -> float:
        """Return the same with its sign, degrees, positive towards infinity."""
        return self.size_deg(half_deg) if self.to_infinity else -self.size_deg(half_deg)


_THROWS = tuple(Throw(way, half_windows) for way in (True, False) for half_windows in (4.0, 8.0, 14.0))


def throw_of(seed: str, index: int) -> Throw:
    """Return the throw of a trial of a session: each way and size once in six, in an order nobody foresees.

    Parameters
    ----------
    seed
        What chance follows from: the same seed gives the same.
    index
        Number of the trial in its session, counted from 0.

    Examples
    --------
    >>> sorted(throw_of("a", index).to_infinity for index in range(6))
    [False, False, False, True, True, True]
    """
    block, place = divmod(index, len(_THROWS))
    return _shuffled(f"{seed}/{block}", _THROWS)[place]


def distance_of(seed: str, index: int, nearest_mm: float, *, farthest_mm: float = math.inf) -> float:
    """Return the distance, mm, that a trial of a session is to be at: each within reach once a round, shuffled.

    Parameters
    ----------
    seed
        What chance follows from: the same seed gives the same.
    index
        Number of the trial in its session, counted from 0.
    nearest_mm
        Nearest distance in mm.
    farthest_mm
        Farthest distance in mm.
    """
    within = [mm for mm in DISTANCES_MM if nearest_mm <= mm <= farthest_mm] or [nearest_mm]
    block, place = divmod(index, len(within))
    return _shuffled(f"{seed}/{block}", within)[place]


def _shuffled(seed: str, things: Sequence[Thing]) -> list[Thing]:
    order = list(things)
    random.Random(seed).shuffle(order)  # to be unforeseen, not secret
    return order
