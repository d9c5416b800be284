"""Why frames with a set-up missed: evidence gathered, what lies far off set aside, and the frames that would decide."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from welotrope.core.errors import WelotropeError
from welotrope.core.hand.deciding import frames_needed, plan_test
from welotrope.core.hand.diagnosis import Diagnosis, Verdict, diagnose
from welotrope.core.hand.shot import Settings, Shot, settings_of
from welotrope.core.hand.slips import far_off
from welotrope.core.kit.aids.constants import AVERAGE_EYE, Eye
from welotrope.core.kit.aids.registry import shown_by
from welotrope.core.kit.setup import Setup
from welotrope.core.kit.sight_of import resolved
from welotrope.core.review.evidence import FieldFrame, evidence_of, settings_told
from welotrope.core.review.outcomes import Outcome, Tally

TEST_DISTANCES_MM = (700.0, 1000.0, 2000.0, 5000.0, 12_000.0)
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
    slips: tuple[FieldFrame, ...]
    untold: int
    settings: Settings


@dataclass(frozen=True, kw_only=True)
class FramesToTake:
    """Frames of a test: how many, with which aid, at which stop and distance, mm from the film plane."""

    frames: int
    aid: str
    stop: float
    distance_mm: float


def why_missed(setup: Setup, frames: Sequence[FieldFrame], eye: Eye = AVERAGE_EYE) -> Misses:
    """Tell where focus lands in frames with a set-up, and why."""
    known = evidence_of(setup, frames, eye)
    measured = [one for one in known if one.error_mm is not None]
    far = far_off([one.halves for one in measured])
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
    """
    if now is None or not before.hits or not since.hits:
        return None
    if now.diagnosis.verdict is Verdict.ONE_SIDED:
        return False
    return True if since.hits.low > before.hits.share else None


def frames_to_take(setup: Setup, misses: Misses, eye: Eye = AVERAGE_EYE) -> tuple[FramesToTake, ...]:
    """Return the frames that would decide, of what this set-up can do; empty when it is decided or none would."""
    if misses.needed == 0:
        return ()
    offered = _offers(setup, eye)
    settings = settings_of([shot for shot, _ in offered], setup.lens.focal_mm, setup.lens.widest)
    # Sums keep the order in which settings first come, and these differ from each other.
    wanted = plan_test(misses.diagnosis, settings)
    if not wanted:
        return _wide_open(misses, offered)
    return tuple(_taken(one.frames, *offered[one.index]) for one in wanted)


def _taken(frames: int, shot: Shot, distance_mm: float) -> FramesToTake:
    return FramesToTake(frames=frames, aid=shot.aid, stop=shot.stop, distance_mm=distance_mm)


def _wide_open(misses: Misses, offered: Sequence[tuple[Shot, float]]) -> tuple[FramesToTake, ...]:
    """Return the frames that tell most of the aid used most when nothing is suspected yet: wide open, near and far."""
    if misses.needed is None or not len(misses.settings.aids):
        return ()
    counts: dict[str, float] = {}
    for aid, shots in zip(misses.settings.aids, misses.settings.shots, strict=True):
        counts[aid] = counts.get(aid, 0.0) + float(shots)
    used = max(counts, key=lambda aid: counts[aid])
    own = [(shot, distance) for shot, distance in offered if shot.aid == used]
    widest = min((shot.stop for shot, _ in own), default=0.0)
    ends = [(shot, distance) for shot, distance in own if shot.stop == widest]
    each = max(math.ceil(misses.needed / 2), 2)
    return tuple(_taken(each, *one) for one in ([ends[0], ends[-1]] if len(ends) > 1 else ends))


def _offers(setup: Setup, eye: Eye) -> list[tuple[Shot, float]]:
    aids = dict.fromkeys([*setup.body.aids_by_tag, "scale"])
    offers = []
    for aid in aids:
        for stop in setup.lens.stops[:_MOST_STOPS]:
            for distance in TEST_DISTANCES_MM:
                try:
                    shown = resolved(setup, aid, distance, stop, eye=eye)
                except WelotropeError:
                    continue
                offers.append(
                    (
                        Shot(
                            aid=aid, by=shown_by(aid), stop=stop, object_mm=shown.object_mm,
                            half_mm=shown.half_mm, defocus_mm=shown.defocus_mm,
                        ),
                        distance,
                    )
                )  # fmt: skip
    return offers
