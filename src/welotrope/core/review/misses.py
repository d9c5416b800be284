"""Why frames with a set-up missed: evidence gathered, what lies far off set aside, and the frames that would decide."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from welotrope.core.errors import WelotropeError
from welotrope.core.hand.causes import CAUSES, Cause, Check
from welotrope.core.hand.deciding import frames_needed, plan_test
from welotrope.core.hand.diagnosis import Diagnosis, FocusPattern, diagnose
from welotrope.core.hand.evidence import FocusSample, Settings, settings_of
from welotrope.core.hand.skill_trial import far_off
from welotrope.core.kit.aids.models import AVERAGE_EYE, Eye
from welotrope.core.kit.aids.registry import shown_by
from welotrope.core.kit.setup import Setup, resolved
from welotrope.core.review.evidence import EvidenceFrame, evidence_of, settings_told
from welotrope.core.review.outcomes import Outcome, Tally
from welotrope.core.ring.window import ring_zone

# Where a slanted ruler is read without a ladder; and the deepest field of which its figures still show the middle, mm.
TEST_DISTANCES_MM = (1000.0, 1500.0, 2000.0, 3000.0)
MOST_TEST_FRAMES, _DEEPEST_MM = 6, 400.0
CORRECTED_AT_MM = (1000.0, 2000.0, 5000.0)
_IN_DOUBT, _MOST_DOUBTED = 0.1, 2
_MOST_STOPS = 4


@dataclass(frozen=True, kw_only=True)
class Misses:
    """What frames tell: the diagnosis, how many more would decide, and what was set aside.

    ``degrees_per_mm`` turns its errors into ring; ``slips`` are frames far from all the others, ``untold`` how many of
    which the ring cannot tell.
    """

    diagnosis: Diagnosis
    needed: int | None
    degrees_per_mm: float
    slips: tuple[EvidenceFrame, ...]
    untold: int
    settings: Settings


@dataclass(frozen=True, kw_only=True)
class FramesToTake:
    """Frames of a test: how many, with which aid, at which stop and distance, mm from the film plane."""

    frames: int
    aid: str
    stop: float
    distance_mm: float


def why_missed(setup: Setup, frames: Sequence[EvidenceFrame], *, eye: Eye = AVERAGE_EYE) -> Misses:
    """Tell where focus lands in frames with a set-up, and why.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    frames
        Frames that were taken with the set-up.
    eye
        Constants of the eye and of the aids; those of an average eye where none are given.
    """
    known = evidence_of(setup, frames, eye=eye)
    measured = [one for one in known if one.error_mm is not None]
    far = far_off([one.half_window_errors for one in measured])
    slips = tuple(measured[place].frame for place in sorted(far))
    aside = {frame.id for frame in slips}
    kept = [one for one in known if one.frame.id not in aside] if aside else known
    settings = settings_told(kept, setup.lens.focal_mm, setup.lens.widest)
    found = diagnose(settings, sum(one.frame.outcome is Outcome.HIT for one in kept))
    ring = setup.ring()
    return Misses(
        diagnosis=found, needed=frames_needed(found, settings),
        degrees_per_mm=float(ring.degrees_per_mm(ring.throw_deg / 2)), slips=slips, untold=len(frames) - len(known),
        settings=settings,
    )  # fmt: skip


def change_worked(before: Tally, since: Tally, now: Misses | None) -> bool | None:
    """Return whether a change of the kit did what it was for; None while that is not known.

    It did when more hit than before by more than chance, and not while focus still falls to one side.

    Parameters
    ----------
    before
        How frames came out before the change.
    since
        How frames came out since the change.
    now
        Why frames since the change miss, or None.
    """
    if now is None or not before.hits or not since.hits:
        return None
    if now.diagnosis.verdict is FocusPattern.ONE_SIDED:
        return False
    return True if since.hits.low > before.hits.share else None


@dataclass(frozen=True, kw_only=True)
class CorrectionRow:
    """Where focus falls at a distance, mm from the film plane, and how to put it right.

    Parameters
    ----------
    distance_mm
        Of the subject.
    error_mm
        Where focus falls now, mm behind it, negative in front; infinite when it runs to infinity.
    left_mm
        What is left after the correction, mm either way, 95 %.
    turn_deg
        How far to turn the ring after focusing, degrees towards the close end; negative towards infinity.
    """

    distance_mm: float
    error_mm: float
    left_mm: float
    turn_deg: float


def correction(setup: Setup, misses: Misses) -> tuple[CorrectionRow, ...]:
    """Return what the likeliest explanation amounts to at 1, 2 and 5 m, and the turn of the ring that puts it right.

    Empty where focus does not fall to one side.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    misses
        Why focus missed, as far as it is known.
    """
    found = misses.diagnosis
    if found.verdict is not FocusPattern.ONE_SIDED or not found.odds:
        return ()
    causes = found.causes or tuple(found.odds)[:1]
    best = next((each for each in found.explanations if set(each.causes) == set(causes)), None)
    if best is None:
        return ()
    touched = np.where(best.shape(misses.settings) != 0, misses.settings.shots, 0.0)
    place = int(np.argmax(touched))
    aid, by, stop = misses.settings.aids[place], misses.settings.by[place], float(misses.settings.stops[place])
    rows = []
    for distance in CORRECTED_AT_MM:
        try:
            shown = resolved(setup, aid, distance, stop)
        except WelotropeError:
            continue
        shot = FocusSample(aid=aid, by=by, stop=stop, object_mm=shown.object_mm, half_mm=shown.half_mm,
                    defocus_mm=shown.defocus_mm)  # fmt: skip
        at = settings_of([shot], setup.lens.focal_mm, widest=misses.settings.widest)
        error, sd = float(best.bias(at)[0]), abs(float(best.shape(at)[0])) * best.fit.size_sd
        ring = setup.ring(stop)
        right = float(ring.angle_at_distance(distance))
        turn, spread = error * shown.degrees_per_defocus, 1.96 * sd * shown.degrees_per_defocus
        off = float(ring.distance_at_angle(right - turn)) - distance
        left = ring.travel_mm(right, turn_deg=max(2 * spread, 1e-6)) / 2
        rows.append(CorrectionRow(distance_mm=distance, error_mm=off, left_mm=left, turn_deg=turn))
    return tuple(rows)


def checks_for(misses: Misses) -> tuple[tuple[Cause, Check], ...]:
    """Return the checks that take minutes, of the causes still in doubt, the likeliest first.

    Parameters
    ----------
    misses
        Why focus missed, as far as it is known.
    """
    found = misses.diagnosis
    if found.causes or found.verdict in (FocusPattern.ON_TARGET, FocusPattern.SCATTERED, FocusPattern.WINDOW):
        return ()
    doubted = [cause for cause, share in found.odds.items() if share >= _IN_DOUBT][:_MOST_DOUBTED]
    return tuple((cause, check) for cause in doubted for check in CAUSES[cause].checks)


def frames_to_take(setup: Setup, misses: Misses, *, eye: Eye = AVERAGE_EYE) -> tuple[FramesToTake, ...]:
    """Return the frames that tell most of what is in doubt, six at most, each at an arm's length to 3 m from a ruler.

    Empty when it is decided, or nothing this set-up can do would tell.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    misses
        Why focus missed, as far as it is known.
    eye
        Constants of the eye and of the aids; those of an average eye where none are given.
    """
    if misses.needed == 0:
        return ()
    offered = _offers(setup, eye)
    settings = settings_of([shot for shot, _ in offered], setup.lens.focal_mm, widest=setup.lens.widest)
    # Sums keep the order in which settings first come, and these differ from each other.
    wanted = plan_test(misses.diagnosis, settings, most=2)
    if not wanted:
        return _near_and_far(misses, offered)
    each = MOST_TEST_FRAMES // len(wanted)
    return tuple(_taken(min(max(one.frames, 2), each), *offered[one.index]) for one in wanted)


def _taken(frames: int, shot: FocusSample, distance_mm: float) -> FramesToTake:
    return FramesToTake(frames=frames, aid=shot.aid, stop=shot.stop, distance_mm=distance_mm)


def _near_and_far(misses: Misses, offered: Sequence[tuple[FocusSample, float]]) -> tuple[FramesToTake, ...]:
    """Return the frames that tell most of the aid used most when nothing is suspected yet: wide open, near and far."""
    if not len(misses.settings.aids):
        return ()
    counts: dict[str, float] = {}
    for aid, shots in zip(misses.settings.aids, misses.settings.shots, strict=True):
        counts[aid] = counts.get(aid, 0.0) + float(shots)
    used = max(counts, key=lambda aid: counts[aid])
    own = [(shot, distance) for shot, distance in offered if shot.aid == used]
    widest = min((shot.stop for shot, _ in own), default=0.0)
    ends = [(shot, distance) for shot, distance in own if shot.stop == widest]
    chosen = [ends[0], ends[-1]] if len(ends) > 1 else ends
    return tuple(_taken(MOST_TEST_FRAMES // max(len(chosen), 1), *one) for one in chosen)


def _offers(setup: Setup, eye: Eye) -> list[tuple[FocusSample, float]]:
    aids = dict.fromkeys([*setup.body.aids_by_tag, "scale"])
    offers = []
    for aid in aids:
        for stop in setup.lens.stops[:_MOST_STOPS]:
            for distance in TEST_DISTANCES_MM:
                try:
                    shown = resolved(setup, aid, distance, stop, eye=eye)
                except WelotropeError:
                    continue
                if _depth_mm(setup, distance, stop) > _DEEPEST_MM:
                    continue
                offers.append(
                    (
                        FocusSample(
                            aid=aid, by=shown_by(aid), stop=stop, object_mm=shown.object_mm,
                            half_mm=shown.half_mm, defocus_mm=shown.defocus_mm,
                        ),
                        distance,
                    )
                )  # fmt: skip
    return offers


def _depth_mm(setup: Setup, distance_mm: float, stop: float) -> float:
    ring = setup.ring(stop)
    zone = ring_zone(ring, float(ring.angle_at_distance(distance_mm)), stop, setup.blur_mm)
    return zone.far_mm - zone.near_mm
