"""What a session of a drill is done with, and what is read of a trial, as sent."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from dataclasses import replace
from urllib.parse import urlencode

from welotrope.core.errors import UnreadableError, WelotropeError
from welotrope.core.hand.skill_trial import MissSide
from welotrope.core.kit.aids.models import Eye
from welotrope.core.kit.aids.registry import kind_names
from welotrope.core.kit.aids.viewing_optics import LightLevel
from welotrope.core.kit.setup import Setup
from welotrope.core.plan.own_measures import OwnMeasures
from welotrope.core.practice import drill_readings
from welotrope.core.practice.drill_readings import ReadIn, RingError, Stands, error_of_reading, error_of_turning
from welotrope.core.practice.drills import Drill, DrillId, DrillTrial, Throw, distance_of, drill_called, throw_of
from welotrope.core.review.frame import Technique
from welotrope.core.units.distance import Unit, parse_distance
from welotrope.core.units.exposure import parse_stop
from welotrope.core.units.text import number
from welotrope.web.forms import TextForm

_SESSION = re.compile(r"[A-Za-z0-9_-]{1,40}")


class SessionForm(TextForm):
    """What a session is done with; it stays in the address."""

    session: str = ""
    aid: str = ""
    stop: str = ""
    distance: str = ""
    technique: str = ""
    light: str = LightLevel.BRIGHT.value
    finer: str = ""

    @property
    def key(self) -> str:
        """The session, or empty when none has begun."""
        return self.session if _SESSION.fullmatch(self.session) else ""

    def query(self, **more: str) -> str:
        """Return it as an address says it."""
        return urlencode({name: value for name, value in {**self.model_dump(), **more}.items() if value})

    def begun(self, drill: Drill, setup: Setup, bare: Unit) -> tuple[DrillTrial | None, dict[str, str]]:
        """Return what every trial of it has, or None with an error sentence per field.

        A distance is asked for where it stays the same; the others come from the drill or are measured.
        """
        errors: dict[str, str] = {}
        stop, distance = setup.lens.widest, None
        try:
            stop = parse_stop(self.stop) if self.stop else stop
        except WelotropeError as error:
            errors["stop"] = error.sentence
        if drill.on_the_ring:
            try:
                distance = parse_distance(self.distance, bare=bare)
                setup.ring(stop).check_reach(distance)
            except WelotropeError as error:
                errors["distance"] = error.sentence
        names = kind_names()
        if drill.aided and self.aid not in names:
            errors["aid"] = UnreadableError(
                "aid", self.aid, "there is none of that name", f"Choose from {', '.join(names.values()).lower()}"
            ).sentence
        if errors:
            return None, errors
        light = LightLevel(self.light) if self.light in set(LightLevel) else LightLevel.BRIGHT
        technique = self.technique if self.technique in set(Technique) else ""
        against = self.key if drill.on_the_ring and not self.finer else ""
        return DrillTrial(
            drill=drill.id, aid=self.aid, technique=technique, light=light, stop=stop, distance_mm=distance,
            against=against,
        ), {}  # fmt: skip


class TrialForm(SessionForm):
    """What was read of a trial."""

    reading: str = ""
    unit: str = ""  # empty until chosen: millimetres of ring where its diameter is known
    where: str = ""
    guess: str = ""
    taped: str = ""
    side: str = ""

    def trial(
        self, drill: Drill, setup: Setup, index: int, bare: Unit, eye: Eye
    ) -> tuple[DrillTrial | None, dict[str, str]]:
        """Return the trial, or None with an error sentence per field."""
        base, errors = self.begun(drill, setup, bare)
        if base is None:
            return None, errors
        try:
            return _MADE[drill.id](self, base, setup, index, bare, eye), {}
        except WelotropeError as error:
            key = error.key if error.key in type(self).model_fields else drill.answer
            return None, {key: error.sentence}

    def _measured(self, bare: Unit, eye: Eye) -> float:
        return OwnMeasures.of(eye).read(self.taped, field="measured distance", bare=bare)


def throw_now(form: SessionForm, index: int) -> Throw:
    """Return how the focus is to be thrown off before the next trial."""
    return throw_of(form.key, index)


def distance_now(drill: Drill, form: SessionForm, setup: Setup, index: int) -> float:
    """Return the distance that the next trial is to be at, mm."""
    return distance_of(form.key, index, 1.05 * setup.lens.closest_mm, farthest_mm=drill.farthest_mm)


def _tape(form: TrialForm, base: DrillTrial, setup: Setup, index: int, bare: Unit, eye: Eye) -> DrillTrial:
    left = _read_off(form, base, setup, bare)
    thrown = throw_now(form, index).thrown_deg(drill_readings.half_window_deg(setup, base, eye=eye))
    return drill_readings.on_the_ring(
        setup, replace(base, thrown_deg=thrown), left.error_deg, eye=eye, left_deg=left.at_deg
    )


def _read_off(form: TrialForm, base: DrillTrial, setup: Setup, bare: Unit) -> RingError:
    if form.unit == ReadIn.SCALE:
        return error_of_reading(setup, base, parse_distance(form.reading, field="reading", bare=bare))
    if form.where not in set(Stands):
        raise UnreadableError(
            "where", form.where, "it is not told which way the ring stands", "Choose one of the three"
        )
    stands, read_in = Stands(form.where), ReadIn.MM if form.unit == ReadIn.MM else ReadIn.DEGREES
    size = 0.0 if stands is Stands.ON else number(form.reading, "reading", unit="mm" if read_in is ReadIn.MM else "°")
    return error_of_turning(setup, base, size, read_in, stands)


def _guess(form: TrialForm, _base: DrillTrial, _setup: Setup, _index: int, bare: Unit, eye: Eye) -> DrillTrial:
    believed = OwnMeasures.of(eye).read(form.guess, field="guess", bare=bare)
    light = LightLevel(form.light) if form.light in set(LightLevel) else LightLevel.BRIGHT
    return drill_readings.guessed(DrillId.GUESS, believed, form._measured(bare, eye), light, eye=eye)


def _approach(form: TrialForm, base: DrillTrial, setup: Setup, index: int, bare: Unit, eye: Eye) -> DrillTrial:
    return drill_readings.guessed(
        DrillId.APPROACH,
        distance_now(drill_called(DrillId.APPROACH), form, setup, index),
        form._measured(bare, eye),
        base.light,
        eye=eye,
    )


def _lean(form: TrialForm, base: DrillTrial, setup: Setup, index: int, bare: Unit, eye: Eye) -> DrillTrial:
    at = replace(base, distance_mm=form._measured(bare, eye), technique=Technique.LEAN.value)
    return drill_readings.by_lean(setup, at, distance_now(drill_called(DrillId.LEAN), form, setup, index), eye=eye)


def _daily(form: TrialForm, base: DrillTrial, setup: Setup, index: int, _bare: Unit, eye: Eye) -> DrillTrial:
    if form.side not in set(MissSide):
        raise UnreadableError("side", form.side, "it is not told where focus fell", "Choose one of the three")
    at = replace(base, distance_mm=distance_now(drill_called(DrillId.DAILY), form, setup, index))
    return drill_readings.by_side(setup, at, MissSide(form.side), eye=eye)


_Made = Callable[[TrialForm, DrillTrial, Setup, int, Unit, Eye], DrillTrial]
_MADE: Mapping[DrillId, _Made] = {
    DrillId.TAPE: _tape, DrillId.GUESS: _guess, DrillId.APPROACH: _approach, DrillId.LEAN: _lean, DrillId.DAILY: _daily,
}  # fmt: skip
