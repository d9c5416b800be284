"""Taking a series in, picture by picture, and keeping what it told."""

from __future__ import annotations

import datetime as dt
import json
import secrets
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path

from welotrope.core.errors import WelotropeError
from welotrope.core.json_values import JsonObject
from welotrope.core.testshot.aid_series import MeasuredShot
from welotrope.core.testshot.camera import SimulatedCamera
from welotrope.core.testshot.series_record import SeriesCurve, SeriesFigure, SeriesPoint, SeriesRecord
from welotrope.core.testshot.series_words import PLANE, TURN, SeriesKind
from welotrope.core.testshot.settled import is_settled
from welotrope.core.testshot.sheets import Sheet
from welotrope.core.testshot.shift_series import read_shift
from welotrope.interchange.made_up_pictures import asked_text
from welotrope.interchange.pictures.workers import PictureError, PictureWorkers
from welotrope.store import cache
from welotrope.store.queries import history, test_shots
from welotrope.store.queries.kit import StoredSetup
from welotrope.store.session import Database
from welotrope.web.request.jobs import turn
from welotrope.web.request.shot_taking import shot_from, slope_said
from welotrope.web.request.watching import FolderWatch

# Pictures from which on it is worth asking.
_LEAST_TO_SETTLE = {SeriesKind.STOPS: 5, SeriesKind.RING: 5, SeriesKind.SHIFT: 3, SeriesKind.LEVEL: 2}
_INTERVALS = ("tilt", "deg"), ("tip", "deg"), ("across", "mm"), ("upright", "mm"), ("curvature", "mm")


@contextmanager
def made_up_picture(
    workers: PictureWorkers, placed: Sequence[tuple[Sheet, SimulatedCamera]], folder: Path
) -> Iterator[Path]:
    """Write a picture of sheets, each with the camera as it stands to it, for as long as it is used."""
    path = cache.cached(folder, f"made-up-{secrets.token_hex(6)}.jpg")
    try:
        workers.ask("render", path, placed=asked_text(placed))
        yield path
    finally:
        path.unlink(missing_ok=True)


@dataclass(frozen=True, kw_only=True)
class SeriesOrder:
    """What a series is taken with: its places in order, the stop of all of it where that is one, and by whom."""

    kind: SeriesKind
    stored: StoredSetup
    places: tuple[float, ...]
    stop: float | None = None
    in_degrees: bool = False
    at_infinity: bool = False
    person: str = ""
    made_up: bool = False


@dataclass(kw_only=True)
class SeriesTaking:
    """A series as its pictures come."""

    order: SeriesOrder
    database: Database
    workers: PictureWorkers
    now: Callable[[], dt.datetime]
    came: list[tuple[Path, str]] = field(default_factory=list)
    shots: list[MeasuredShot] = field(default_factory=list)
    _told: tuple[int, SeriesRecord] | None = None  # how many pictures, and what they told

    @property
    def is_whole(self) -> bool:
        """Whether as many came as were asked for."""
        return len(self.came) >= len(self.order.places)

    def add(self, path: Path, name: str) -> None:
        """Take the next picture; raises PictureError when it cannot be read."""
        order = self.order
        if order.kind is SeriesKind.SHIFT:
            stop = order.places[len(self.came)]
            said = json.dumps(slope_said(order.stored.setup, stop))
            self.shots.append(shot_from(self.workers.ask("plane", path, said=said), name, stop))
        else:
            self.workers.ask("size", path)
        self.came.append((path, name))

    @property
    def is_settled(self) -> bool:
        """Whether what came tells what the series is taken for, so that the rest need not be taken."""
        order = self.order
        if self.is_whole or len(self.came) < _LEAST_TO_SETTLE[order.kind]:
            return False
        try:
            return is_settled(order.kind, self._record(), order.stored.setup)
        except (PictureError, WelotropeError):
            return False

    def finish(self) -> int:
        """Measure what came, store what it told and return its key.

        Raises
        ------
        PictureError, WelotropeError
            When the pictures do not make a series.
        """
        order, now = self.order, self.now()
        record = self._record()
        new = test_shots.NewShot(
            series=secrets.token_hex(8), person=order.person, setup_id=order.stored.id,
            body_name=order.stored.setup.body.name, lens_name=order.stored.setup.lens.name, taken_at=now,
            made_up=order.made_up,
        )  # fmt: skip
        with turn(self.database) as uow, history.recorded(uow, "Measured a series", now):
            return test_shots.add_series(uow, new, order.kind.value, record)

    def _record(self) -> SeriesRecord:
        if self._told is None or self._told[0] != len(self.came):
            self._told = len(self.came), self._measured()
        return self._told[1]

    def _measured(self) -> SeriesRecord:
        order, names = self.order, tuple(name for _, name in self.came)
        if order.kind is SeriesKind.SHIFT:
            return _shift_record(order, names, self.shots)
        places = order.places[: len(self.came)]
        placed = json.dumps([(str(path), place) for (path, _), place in zip(self.came, places, strict=True)])
        said = slope_said(order.stored.setup, order.stop or order.stored.setup.lens.widest)
        found = self.workers.ask(
            "series", self.came[0][0].parent, of=order.kind.value, placed=placed, said=json.dumps(said)
        )
        curves: list[SeriesCurve] = []
        if order.kind is not SeriesKind.LEVEL:
            curves = [_ring_curve(found)] if order.kind is SeriesKind.RING else _stop_curves(found)
        figures = _figures(found) if order.kind is SeriesKind.LEVEL else _own_blurs(found, said["width_mm"])
        return SeriesRecord(
            pictures=names, curves=tuple(curves), figures=figures, stop=order.stop, in_degrees=order.in_degrees,
            at_infinity=order.at_infinity, warnings=tuple(found["warnings"]),
        )  # fmt: skip


def _shift_record(order: SeriesOrder, names: tuple[str, ...], shots: list[MeasuredShot]) -> SeriesRecord:
    found = read_shift(shots, ring=order.stored.setup.known.true)
    plane = tuple(SeriesPoint(at=one.stop, score=one.shift_mm, low=one.low_mm, high=one.high_mm) for one in found.stops)
    turned = tuple(
        SeriesPoint(at=one.stop, score=one.turn_deg, low=one.turn_deg - one.wide_deg, high=one.turn_deg + one.wide_deg)
        for one in found.stops
    )
    return SeriesRecord(
        pictures=names, curves=(SeriesCurve(part=PLANE, points=plane), SeriesCurve(part=TURN, points=turned)),
        trials=found.trials, warnings=found.warnings,
        distance_mm=next((one.distance_mm for one in shots if one.counts), None),
    )  # fmt: skip


def _ring_curve(found: JsonObject) -> SeriesCurve:
    points = tuple(SeriesPoint(at=one["at"], score=one["score"]) for one in found["curve"])
    return SeriesCurve(part="middle", points=points, best=found["best"], low=found["low"], high=found["high"])


def _stop_curves(found: JsonObject) -> list[SeriesCurve]:
    best = {"centre": found["best_centre"], "corner": found["best_corner"]}
    curves = []
    for part, scores in found["zones"].items():
        points = tuple(
            SeriesPoint(at=one["stop"], score=one["score"], low=one["low"], high=one["high"]) for one in scores
        )
        if points:
            curves.append(SeriesCurve(part=part, points=points, best=best.get(part)))
    return curves


def _own_blurs(found: JsonObject, width_mm: float) -> tuple[SeriesFigure, ...]:
    """Return what a series of stops told of the lens's own blur, mm, and of left and right; nothing for others."""
    pitch = width_mm / max(found.get("width_px") or 1, 1)
    figures = [
        SeriesFigure(
            name=f"blur_{zone}_mm", value=one["value"] * pitch, low=one["low"] * pitch, high=one["high"] * pitch
        )
        for zone, one in (found.get("wide_blur_px") or {}).items()
    ]
    if sides := found.get("sides"):
        softer = {"left": -1.0, "right": 1.0}.get(sides["softer"] or "", 0.0)
        for name in ("left", "right"):
            figures.append(SeriesFigure(name=f"{name}_share", value=sides[name], low=sides[name], high=sides[name]))
        figures.append(SeriesFigure(name="softer_side", value=softer, low=softer, high=softer))
    return tuple(figures)


def _figures(found: JsonObject) -> tuple[SeriesFigure, ...]:
    figures = [
        SeriesFigure(
            name=f"{stem}_{unit}", value=found[f"{stem}_{unit}"], low=found[f"{stem}_low_{unit}"],
            high=found[f"{stem}_high_{unit}"],
        )
        for stem, unit in _INTERVALS if found[f"{stem}_{unit}"] is not None
    ]  # fmt: skip
    for name in ("half_depth_mm", "soft_px"):
        if found[name] is not None:
            figures.append(SeriesFigure(name=name, value=found[name], low=found[name], high=found[name]))
    return tuple(figures)


class SeriesWatch(FolderWatch):
    """Takes the next place of a series with every picture that lands, and measures it when it is settled or all came.

    Parameters
    ----------
    folder
        What is watched.
    taking
        The series.
    """

    def __init__(self, folder: Path, taking: SeriesTaking) -> None:
        self.taking = taking
        self.result: int | None = None
        self.said = ""
        super().__init__(folder, self._next, begin=taking.workers.make_ready)

    def _next(self, path: Path) -> None:
        if self.taking.is_whole:
            return
        try:
            self.taking.add(path, path.name)
        except PictureError as error:
            self.said = f"{path.name} was left out. {error.sentence}"
            return
        self.said = ""
        if self.taking.is_whole or self.taking.is_settled:
            self.finish()

    def finish(self) -> None:
        """Measure what has come and stop; what is wrong with it is said."""
        try:
            self.result = self.taking.finish()
        except PictureError as error:
            self.said = error.sentence
        except WelotropeError as error:
            self.said = error.sentence
        self.stop()
