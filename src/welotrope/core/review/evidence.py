"""Frames as evidence of the hand and of the kit: where focus fell, in extension, and what the aid could show there."""

from __future__ import annotations

import datetime as dt
import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

from welotrope.core.errors import WelotropeError
from welotrope.core.hand.evidence import SampleGroup, Settings, settings_of_groups
from welotrope.core.hand.skill_trial import MissSide, SkillTrial
from welotrope.core.kit.aids.models import AVERAGE_EYE, Eye
from welotrope.core.kit.aids.registry import kind_of, shown_by
from welotrope.core.kit.aids.viewing_optics import LightLevel
from welotrope.core.kit.setup import Resolved, Setup, resolved
from welotrope.core.optics.thin_lens import image_of_film_distance, shortest_film_distance
from welotrope.core.review.frame import Ambient, Frame
from welotrope.core.review.outcomes import Outcome
from welotrope.core.ring.window import sharp_window

SIDES = {Outcome.HIT: MissSide.HIT, Outcome.FRONT: MissSide.FRONT, Outcome.BEHIND: MissSide.BEHIND}
_LIGHTS = {
    Ambient.SUN: LightLevel.BRIGHT, Ambient.SHADE: LightLevel.BRIGHT, Ambient.FLASH: LightLevel.ROOM,
    Ambient.INDOORS: LightLevel.ROOM,
    Ambient.DUSK: LightLevel.DIM, Ambient.NIGHT: LightLevel.DARK,
}  # fmt: skip
_STEP = 0.08  # of the logarithm of distance within which what an aid shows is taken as one


@dataclass(frozen=True, kw_only=True)
class RingMiss:
    """A miss: where focus fell, mm from the film plane, and in degrees of ring, positive behind the subject.

    ``windows`` is the same in half widths of the sharp window at the subject: beyond 1 the subject is not sharp.
    """

    plane_mm: float
    error_deg: float
    windows: float


def plane_of(subject_mm: float, error_mm: float, outcome: Outcome) -> float:
    """Return where focus fell, mm from the film plane, of a subject missed in front or behind by ``error_mm``.

    How far off from infinity is where it fell.

    Parameters
    ----------
    subject_mm
        Distance of the subject in mm from the film plane; infinity allowed.
    error_mm
        How far off focus fell, mm, without sign.
    outcome
        What the frame showed.

    Examples
    --------
    >>> plane_of(2000, 90, Outcome.BEHIND), plane_of(math.inf, 30000, Outcome.FRONT)
    (2090, 30000)
    """
    if math.isinf(subject_mm):
        return error_mm if outcome is Outcome.FRONT else subject_mm
    return subject_mm + error_mm if outcome is Outcome.BEHIND else subject_mm - error_mm


def ring_miss(setup: Setup, frame: Frame) -> RingMiss | None:
    """Return the miss of a frame on the ring of its set-up; None where too little of it is known.

    The subject is where it was believed to be, else where the ring was set. A zoom is taken at the focal length the
    frame has, wherever it stands now.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    frame
        The frame.

    Examples
    --------
    See ``tests/core/review/test_miss.py``, where the ring of a thin lens is turned by hand.
    """
    subject, off = frame.said_mm, frame.miss_mm
    if subject is None or off is None or frame.stop is None or frame.outcome is None or not frame.outcome.is_miss:
        return None
    setup = setup if frame.focal_mm is None else setup.at_focal(frame.focal_mm)
    ring = setup.ring(frame.stop)
    plane = plane_of(subject, off, frame.outcome)
    try:
        right = float(ring.angle_at_distance(ring.check_reach(subject)))
        error = right - float(ring.angle_at_distance(plane))  # degrees are counted from infinity
    except WelotropeError:  # the subject is nearer than the ring goes, or the plane than a lens can image
        return None
    window = float(sharp_window(ring, right, frame.stop, setup.blur_mm).width_deg)
    return RingMiss(plane_mm=plane, error_deg=error, windows=error / (window / 2))


class EvidenceFrame(NamedTuple):
    """What of a frame bears on where focus fell; distances in mm from the film plane.

    ``distance_mm`` is where the subject was believed to be, else where the ring was set; ``link`` is where it is shown.
    """

    id: int
    aid: str
    technique: str
    light: str
    stop: float
    distance_mm: float
    focal_mm: float | None
    outcome: Outcome
    miss_mm: float | None
    taken_at: dt.datetime
    outing: str = ""
    link: str = ""


class Evidence(NamedTuple):
    """A frame, what its aid could show, and how far off it was, mm of defocus; None where only its side is known."""

    frame: EvidenceFrame
    shown: Resolved
    error_mm: float | None

    @property
    def side(self) -> MissSide:
        """Which side it fell on."""
        return SIDES[self.frame.outcome]

    @property
    def half_window_errors(self) -> float:
        """Its error in half windows, a ratio; 0 where only the side is known."""
        return 0.0 if self.error_mm is None else self.error_mm / self.shown.half_mm

    def attempt(self, setup: str, days_ago: float) -> SkillTrial:
        """Return it as a trial of the hand with a set-up, by key, so many days ago."""
        shown = self.shown
        return SkillTrial(
            z=None if self.error_mm is None else self.error_mm / shown.defocus_mm, side=self.side, half_z=shown.half_z,
            setup=setup, technique=self.frame.technique, light=self.frame.light,
            days_ago=days_ago,
        )  # fmt: skip


def evidence_of(setup: Setup, frames: Sequence[EvidenceFrame], *, eye: Eye = AVERAGE_EYE) -> list[Evidence]:
    """Return what frames with a set-up tell; those of which the ring cannot tell are left out.

    A zoom is taken at the focal length a frame has. Without an aid noted it is the only one the body has, else the
    distance was judged and set.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    frames
        Frames that were taken with the set-up.
    eye
        Constants of the eye and of the aids; those of an average eye where none are given.
    """
    assumed = assumed_aid(setup)
    frames = [frame if frame.aid else frame._replace(aid=assumed) for frame in frames]
    known: dict[tuple[object, ...], Resolved | None] = {}
    found: list[tuple[EvidenceFrame, Resolved]] = []
    for frame in frames:
        near = math.inf if math.isinf(frame.distance_mm) else round(math.log(frame.distance_mm) / _STEP)
        key = frame.aid, frame.stop, near, frame.light, frame.focal_mm
        if key not in known:
            known[key] = _resolved(_at(setup, frame.focal_mm), frame, eye)
        shown = known[key]
        if shown is not None:
            found.append((frame, shown))
    errors = _errors(setup, [frame for frame, _ in found])
    return [Evidence(frame, shown, errors.get(place)) for place, (frame, shown) in enumerate(found)]


def assumed_aid(setup: Setup) -> str:
    """Return the aid that a frame was focused with when none is noted: the body's only one, else its distance scale.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    """
    own = [kind_of(aid).tag for aid in setup.body.shown_aids]
    return own[0] if len(own) == 1 else "scale"


def settings_told(evidence: Iterable[Evidence], focal_mm: float, widest: float) -> Settings:
    """Sum up what frames tell by setting; focal length in mm and the widest stop are those of the lens.

    Parameters
    ----------
    evidence
        What frames tell, one by one.
    focal_mm
        Focal length in mm, 1 to 5000.
    widest
        Widest f-number of the lens.
    """
    groups: dict[tuple[str, float, int], SampleGroup] = {}
    for frame, shown, error in evidence:
        key = frame.aid, frame.stop, id(shown)
        group = groups.get(key)
        if group is None:
            group = groups[key] = SampleGroup(
                aid=frame.aid, by=shown_by(frame.aid), stop=frame.stop,
                object_mm=shown.object_mm, half_mm=shown.half_mm, defocus_mm=shown.defocus_mm,
            )  # fmt: skip
        group.add(error, SIDES[frame.outcome])
    return settings_of_groups(groups.values(), focal_mm, widest=widest)


def _at(setup: Setup, focal_mm: float | None) -> Setup:
    return setup if focal_mm is None else setup.at_focal(focal_mm)


def _resolved(setup: Setup, frame: EvidenceFrame, eye: Eye) -> Resolved | None:
    light = _LIGHTS.get(Ambient(frame.light), LightLevel.BRIGHT) if frame.light in set(Ambient) else LightLevel.BRIGHT
    try:
        return resolved(setup, frame.aid, frame.distance_mm, frame.stop, light=light, eye=eye)
    except WelotropeError:  # nearer than the ring goes, or beyond its end
        return None


def _errors(setup: Setup, frames: Sequence[EvidenceFrame]) -> dict[int, float]:
    """Return by place how far off focus fell, mm of defocus, where it was said and a lens could be so.

    Where focus fell may lie beyond the ring's ends: a rangefinder that is out puts it there by its own cam, and an
    amount judged in a picture is no reading of the ring.
    """
    by_ring: dict[tuple[float | None, float], list[tuple[int, float, float]]] = {}
    for place, frame in enumerate(frames):
        if frame.miss_mm is None or not frame.outcome.is_miss:
            continue
        plane = plane_of(frame.distance_mm, frame.miss_mm, frame.outcome)
        by_ring.setdefault((frame.focal_mm, frame.stop), []).append((place, frame.distance_mm, plane))
    found: dict[int, float] = {}
    for (focal, stop), held in by_ring.items():
        ring = _at(setup, focal).ring(stop)
        imaged = [one for one in held if min(one[1:]) >= shortest_film_distance(ring.focal_mm, h=ring.h_mm)]
        if not imaged:
            continue
        places, subjects, planes = zip(*imaged, strict=True)
        fell = ring.extension_at_distance(np.array(planes))
        at = image_of_film_distance(np.array(subjects), fell, ring.focal_mm, h=ring.h_mm)
        found.update(zip(places, (at - fell).tolist(), strict=True))
    return found
