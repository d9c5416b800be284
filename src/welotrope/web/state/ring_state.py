"""Where the ring stands, as the URL says it: ``?at=2.4m&stop=5.6&subject=Ida@2300``."""

from __future__ import annotations

import functools
import math
from dataclasses import dataclass, field
from urllib.parse import urlencode

from starlette.datastructures import QueryParams

from welotrope.core.errors import WelotropeError
from welotrope.core.kit.setup import Setup
from welotrope.core.plan.field_settings import Preset
from welotrope.core.plan.setting import MAX_SUBJECTS, Subject, hyperfocal_angle, parse_subject_token, subject_token
from welotrope.core.units.distance import Unit, parse_distance
from welotrope.core.units.exposure import parse_stop, snap_stop
from welotrope.web.state.aim import Aim

USUAL_STOP = 5.6
# Where a ring stands at first: sharp to the horizon, or with a long lens where a person fills half the picture.
_FIRST_FAR_MM, _FIRST_FOCALS = 20_000.0, 50.0


@dataclass(frozen=True, kw_only=True)
class RingState:
    """Ring position and stop of the set-up in hand, with the subjects in view and what is focused on.

    ``problems`` holds a sentence for each field of the URL that could not be used, ``asked`` what was written.
    """

    distance_mm: float
    angle_deg: float
    stop: float
    subjects: tuple[Subject, ...] = ()
    aim: Aim = field(default_factory=Aim)
    problems: dict[str, str] = field(default_factory=dict)
    asked: dict[str, str] = field(default_factory=dict)

    @property
    def query(self) -> str:
        """The state as a query string."""
        return ring_query(self.distance_mm, self.stop, subjects=self.subjects, aim=self.aim)


def at_token(distance_mm: float) -> str:
    """Write where the ring stands for a URL or a form: ``2400.0mm``, ``inf``.

    To 0.1 mm, nearer than a metre to 1/1000: at life size a ring turns far for little of it.
    """
    return "inf" if math.isinf(distance_mm) else f"{distance_mm:.{1 if distance_mm >= 1000 else 3}f}mm"


@functools.lru_cache(512)
def ring_query(distance_mm: float, stop: float, *, subjects: tuple[Subject, ...] = (), aim: Aim | None = None) -> str:
    """Write a setting of the ring, with the subjects it is for and what is focused on, as a query string."""
    pairs = [("at", at_token(distance_mm)), ("stop", f"{stop:g}")]
    pairs += [("subject", subject_token(subject)) for subject in subjects]
    return urlencode([*pairs, *(aim.pairs if aim else ())])


def ring_state(query: QueryParams, setup: Setup, presets: list[Preset], bare: Unit) -> RingState:
    """Read the state, starting from the newest preset or else a usual setting; never fails.

    A distance without a unit is read in ``bare``.
    """
    problems: dict[str, str] = {}
    asked = {name: query[name][:200] for name in ("at", "stop") if name in query}
    start = presets[-1] if presets else None
    stop = start.stop if start else snap_stop(USUAL_STOP, setup.lens.stops)
    try:
        stop = setup.lens.check_has(parse_stop(query["stop"])) if query.get("stop") else stop
    except WelotropeError as error:
        problems["stop"] = error.sentence
    angle = _angle(query.get("at", ""), bare, setup, stop, start, problems)
    if "at" in problems and query.get("was"):  # what cannot be read moves nothing
        angle = _angle(query["was"], bare, setup, stop, start, {})
    distance = setup.ring(stop).distance_at_angle(angle)
    subjects = _subjects(query.getlist("subject"), problems)
    if not subjects and start and "at" not in query:
        subjects = start.subjects
    return RingState(
        distance_mm=distance, angle_deg=angle, stop=stop, subjects=subjects, aim=Aim.read(query), problems=problems,
        asked=asked,
    )  # fmt: skip


def _angle(text: str, bare: Unit, setup: Setup, stop: float, start: Preset | None, problems: dict[str, str]) -> float:
    ring = setup.ring(stop)
    if text:
        try:
            distance = ring.check_reach(
                parse_distance(text, field="focus distance", bare=bare), field="focus distance", read=text
            )
            return ring.clamp(ring.angle_at_distance(distance))
        except WelotropeError as error:
            problems["at"] = error.sentence
    if start is not None and start.distance_mm >= ring.closest_mm:
        return ring.setting_for(start.distance_mm)
    far = hyperfocal_angle(setup, stop)
    if ring.distance_at_angle(far) <= _FIRST_FAR_MM:
        return far
    return ring.clamp(ring.angle_at_distance(max(_FIRST_FOCALS * ring.focal_mm, ring.closest_mm)))


def _subjects(tokens: list[str], problems: dict[str, str]) -> tuple[Subject, ...]:
    subjects = []
    for token in tokens[:MAX_SUBJECTS]:
        try:
            subjects.append(parse_subject_token(token))
        except WelotropeError as error:
            problems["subject"] = error.sentence
    return tuple(subjects)
