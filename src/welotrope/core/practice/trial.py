"""A round in the simulated finder: what was set, where it landed, how the ring was turned; and what is set aside."""

from __future__ import annotations

import datetime as dt
import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from welotrope.core.errors import OutOfRangeError
from welotrope.core.practice.exercises import COUNTING
from welotrope.core.rules import Finding, Rule, findings

MAX_PATH = 2000
FAR_MM = 2e7
_TURN_BACK_DEG = 0.3
HASTY_S = 1.0
_PAST_WINDOWS = 0.7  # a round leaves room for three quarters of a window


@dataclass(frozen=True, kw_only=True)
class TrialPicture:
    """What it takes to make a trial's picture again: lengths in mm, the pitch of its full size, the widest stop."""

    focal_mm: float
    nearest_mm: float
    farthest_mm: float
    extension_mm: float
    lean_mm: float
    seconds: float
    unit_mm: float
    pitch_mm: float
    own_blur_mm: float
    widest: float


@dataclass(frozen=True, kw_only=True)
class Trial:
    """The result of a round.

    Parameters
    ----------
    exercise, aid, scene, seed
        Which exercise with which kind of aid, and the scene it was made from.
    stop, distance_mm, plane_mm
        Taking stop, and film-plane distances of the subject at the release and of the plane of focus, mm;
        infinity is ``FAR_MM``, since the record is kept as JSON.
    error_deg, error_mm
        How far the plane lay from the subject: in ring degrees and mm in the scene, positive behind it.
    blur_px, blur_mm
        Blur of the subject at full size, in pixels of the picture (0 on film) and mm on the sensor.
    window_deg
        Width of the sharp window on the ring, degrees.
    seconds
        From the first sight to the release.
    passed
        How often the ring passed the subject before it was left.
    path
        Seconds and ring angle (degrees; millimetres of lean where the ring was locked) of the turning.
    target_deg
        Ring angle that would have been right.
    photo
        What its picture was made with.
    view_stop, step, shown_mm
        The stop it was seen through, the magnification at the release, and the defocus the picture could show then, mm
        of extension; None for rounds of before that was noted.
    z
        The miss in units of ``shown_mm``, positive behind; what the aid itself was off by is taken out.
    burst_mm
        Blur of the subject in each frame of a burst, mm on the sensor; all else is of its sharpest. Empty without one.
    """

    exercise: str
    aid: str
    scene: str
    seed: int
    stop: float
    distance_mm: float
    plane_mm: float
    error_deg: float
    error_mm: float
    blur_px: float
    blur_mm: float
    window_deg: float
    seconds: float
    passed: int
    path: tuple[tuple[float, float], ...]
    target_deg: float
    photo: TrialPicture
    view_stop: float | None = None
    step: float | None = None
    shown_mm: float | None = None
    z: float | None = None
    burst_mm: tuple[float, ...] = ()

    @property
    def near_enough_to_tell(self) -> bool:
        """Whether both distances are finite, so that the miss has a length."""
        return max(self.distance_mm, self.plane_mm) < FAR_MM

    @property
    def hit(self) -> bool:
        """Whether the plane lay within the sharp window."""
        return abs(self.error_deg) <= self.window_deg / 2 * (1 + 1e-9)

    @property
    def side(self) -> str:
        """Where the plane lay: ``sharp``, ``front`` or ``behind``."""
        return "sharp" if self.hit else "behind" if self.error_deg > 0 else "front"

    @property
    def doubtful(self) -> str:
        """Why it looks released by accident; empty when it does not. Only where focus was to be found."""
        if self.exercise not in COUNTING:
            return ""
        if self.seconds < HASTY_S:
            return "Released within a second of the start"
        places = [place for _, place in self.path]
        if places and max(places) - min(places) < _TURN_BACK_DEG:
            return "Released with the ring untouched"
        return ""

    @property
    def counts(self) -> bool:
        """Whether it tells how finely the ring was placed and against what: traps, leaning and old rounds do not."""
        return self.exercise in COUNTING and self.z is not None


def best_path(trial: Trial) -> tuple[tuple[float, float], ...]:
    """Return how the ring would best have been turned in the time taken: through sharp, seen soft again, and back.

    Seconds and degrees, as the path; empty where the ring was never turned.

    Parameters
    ----------
    trial
        The round as it was kept.
    """
    if len(trial.path) < 2:
        return ()
    (_, start), (end, _) = trial.path[0], trial.path[-1]
    past = trial.target_deg + math.copysign(_PAST_WINDOWS * trial.window_deg, trial.target_deg - start)
    return (0.0, start), (0.5 * end, past), (0.8 * end, trial.target_deg), (end, trial.target_deg)


def check_path(path: Sequence[tuple[float, float]]) -> tuple[tuple[float, float], ...]:
    """Return the path with times in order, at most 2000 points.

    Parameters
    ----------
    path
        Seconds and degrees of the ring, in order.

    Raises
    ------
    OutOfRangeError
        When it is longer, a figure is not finite, or time runs backwards.
    """
    if len(path) > MAX_PATH:
        raise OutOfRangeError("path", f"{len(path)} points", "that is too long", f"Send at most {MAX_PATH}")
    last = 0.0
    for seconds, place in path:
        if not (math.isfinite(seconds) and math.isfinite(place) and last <= seconds <= 3600):
            raise OutOfRangeError("path", f"{seconds:g} s", "time must run forwards", "Send seconds and degrees")
        last = seconds
    return tuple((float(seconds), float(place)) for seconds, place in path)


def crossings(path: Sequence[tuple[float, float]], target: float) -> int:
    """Count how often a path crossed the target and went on by a third of a degree at least.

    Parameters
    ----------
    path
        Seconds and degrees of the ring, in order.
    target
        Angle of the ring in degrees at which the subject is sharp.
    """
    count, side = 0, 0
    for _, place in path:
        now = 0 if abs(place - target) < _TURN_BACK_DEG else 1 if place > target else -1
        if now and side and now != side:
            count += 1
        side = now or side
    return count


@dataclass(frozen=True, kw_only=True)
class TrialEvidence:
    """A trial as far as it bears on whether it counts.

    Parameters
    ----------
    person, whose
        Who did it, and whose hand is asked for; empty for the owner.
    taken_at, measured_at
        When it was done, and when its lens was measured again after that; None when it was not.
    in_degrees
        Whether its error was turned into extension by what was then known of the ring.
    at_stop, scored
        Whether it ended at an end of the travel, and whether it is scored at all.
    """

    person: str = ""
    whose: str = ""
    taken_at: dt.datetime
    measured_at: dt.datetime | None = None
    in_degrees: bool = False
    at_stop: bool = False
    scored: bool = True


def _rule(id: str, when: str, text: str, source: str, speaks: Callable[[TrialEvidence], bool]) -> Rule[TrialEvidence]:
    def says(case: TrialEvidence) -> Finding | None:
        return Finding(text=text) if speaks(case) else None

    return Rule(id=id, when=when, says=says, source=source)


SET_ASIDE_RULES: tuple[Rule[TrialEvidence], ...] = (
    _rule("aside-person", "somebody else did it", "somebody else’s hand", "two hands are not one",
          lambda case: case.person != case.whose),
    _rule("aside-unscored", "what was shown was not noted", "what the picture showed was not noted then",
          "without it a miss has no measure", lambda case: not case.scored),
    _rule("aside-measured-again", "the lens was measured again since, and its error was read in degrees",
          "read on a ring that was measured again since", "degrees mean another extension now",
          lambda case: case.in_degrees and case.measured_at is not None),
    _rule("aside-at-stop", "the ring stood at an end of its travel",
          "the ring stood at an end of its travel, where sharp cannot be passed",
          "an end is found by the hand, not by the eye", lambda case: case.at_stop),
)  # fmt: skip


def why_aside(tried: TrialEvidence) -> str:
    """Return why a trial is set aside; empty when it counts.

    Parameters
    ----------
    tried
        What the rules need of the trial.
    """
    found = findings(SET_ASIDE_RULES, tried)
    return found[0].text if found else ""
