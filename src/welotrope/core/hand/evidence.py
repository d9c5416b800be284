"""Frames as evidence: where focus fell at which setting, and how likely that is under an explanation."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, field
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from welotrope.core.hand.grid import as_seen
from welotrope.core.hand.skill_trial import MissSide
from welotrope.core.optics.elementwise import FloatArray

_DISTANCE_STEP = 0.08  # of the logarithm of distance within which settings count as one
# Beforehand: size in half windows, Student's t; logarithm of the scatter over what the aid shows, normal.
_SIZE, _SIZE_DOF, _LOG_SCATTER_SD = 2.0, 3.0, 1.0
_STEPS, _DELTA, _ENOUGH = 40, 1e-3, 1e-3
_HELD = 1.0  # curvature that holds the size of no error at none
_LONGEST, _HOPELESS = 1.5, 1e8


class ShownBy(StrEnum):
    """What shows where focus lies, by which an error of one part of the camera reaches it or not."""

    PICTURE = "the picture itself"
    PEAKS = "a mark on the picture itself"
    SCREEN = "a screen beside the film"
    LAMP = "a signal from beside the film"
    RANGEFINDER = "a rangefinder"
    SCALE = "the scale of the lens"
    OTHER = "something else"


@dataclass(frozen=True, kw_only=True)
class FocusSample:
    """A frame of which it is known where focus fell.

    Parameters
    ----------
    aid, by
        Key of the aid it was focused with, and what that shows focus by.
    stop, object_mm
        f-number, and the subject's distance from the principal plane, mm; infinite for the stars.
    half_mm, defocus_mm
        Half the sharp window there and what the aid shows, mm of extension.
    error_mm
        How far off the plane fell, mm of extension, positive behind; None when only the side is known.
    side
        Which side it fell on.
    """

    aid: str
    by: ShownBy = ShownBy.OTHER
    stop: float
    object_mm: float
    half_mm: float
    defocus_mm: float
    error_mm: float | None = None
    side: MissSide = MissSide.HIT


@dataclass(frozen=True, kw_only=True)
class Settings:
    """Shots with one lens summed up by setting: arrays of one length, lengths in mm.

    ``focal_mm`` and ``widest`` are those of the lens, mm and f-number.
    ``front``, ``hit`` and ``behind`` count shots of which only the side is known; ``exact`` those that were measured,
    with sum and sum of squares of their errors.
    """

    focal_mm: float
    widest: float
    aids: tuple[str, ...]
    by: tuple[ShownBy, ...]
    stops: FloatArray
    objects: FloatArray
    half_windows: FloatArray
    defocus: FloatArray
    front: FloatArray
    hit: FloatArray
    behind: FloatArray
    exact: FloatArray
    errors: FloatArray
    squares: FloatArray

    @property
    def shots(self) -> FloatArray:
        """Shots of each setting, each a pure number."""
        return self.front + self.hit + self.behind + self.exact


@dataclass(kw_only=True)
class SampleGroup:
    """Shots at one setting, counted as they come: by side where only that is known, else with their errors, mm."""

    aid: str
    by: ShownBy
    stop: float
    object_mm: float
    half_mm: float
    defocus_mm: float
    sides: dict[MissSide, int] = field(default_factory=lambda: dict.fromkeys(MissSide, 0))
    exact: int = 0
    errors: float = 0.0
    squares: float = 0.0

    def add(self, error_mm: float | None, side: MissSide) -> None:
        """Count a shot by its error in mm, or by its side where that is not known."""
        if error_mm is None:
            self.sides[side] += 1
        else:
            self.exact, self.errors = self.exact + 1, self.errors + error_mm
            self.squares += error_mm**2

    @property
    def count(self) -> int:
        """How many there are, a pure number."""
        return self.exact + sum(self.sides.values())


def settings_of(shots: Iterable[FocusSample], focal_mm: float, *, widest: float | None = None) -> Settings:
    """Sum up shots by setting; focal length in mm. Without its widest stop the lens was open in the widest of them.

    Parameters
    ----------
    shots
        Shots of which it is known where focus fell.
    focal_mm
        Focal length in mm, 1 to 5000.
    widest
        Widest f-number of the lens.
    """
    groups = []
    for shot in shots:
        group = SampleGroup(
            aid=shot.aid,
            by=shot.by,
            stop=shot.stop,
            object_mm=shot.object_mm,
            half_mm=shot.half_mm,
            defocus_mm=shot.defocus_mm,
        )
        group.add(shot.error_mm, shot.side)
        groups.append(group)
    return settings_of_groups(groups, focal_mm, widest=widest)


def settings_of_groups(groups: Iterable[SampleGroup], focal_mm: float, *, widest: float | None = None) -> Settings:
    """Sum up groups; those of an aid and stop that differ in distance by less than 8 % count as one setting.

    Focal length in mm; without its widest stop the lens was open in the widest of the groups.

    Parameters
    ----------
    groups
        Shots summed up by aid, stop and distance in mm.
    focal_mm
        Focal length in mm, 1 to 5000.
    widest
        Widest f-number of the lens.
    """
    alike: dict[tuple[str, float, float], list[SampleGroup]] = {}
    for group in groups:
        near = math.inf if math.isinf(group.object_mm) else round(math.log(group.object_mm) / _DISTANCE_STEP)
        alike.setdefault((group.aid, group.stop, near), []).append(group)
    merged = list(alike.values())

    def mean(name: str) -> FloatArray:
        return np.array(
            [sum(getattr(one, name) * one.count for one in held) / sum(one.count for one in held) for held in merged]
        )

    def total(value: Callable[[SampleGroup], float]) -> FloatArray:
        return np.array([sum(value(one) for one in held) for held in merged], dtype=float)

    stops = mean("stop")
    open_stop = float(np.min(stops)) if len(stops) else 1.0
    return Settings(
        focal_mm=focal_mm, widest=open_stop if widest is None else min(widest, open_stop),
        aids=tuple(held[0].aid for held in merged), by=tuple(held[0].by for held in merged), stops=stops,
        objects=mean("object_mm"), half_windows=mean("half_mm"), defocus=mean("defocus_mm"),
        front=total(lambda one: one.sides[MissSide.FRONT]),
        hit=total(lambda one: one.sides[MissSide.HIT]), behind=total(lambda one: one.sides[MissSide.BEHIND]),
        exact=total(lambda one: one.exact), errors=total(lambda one: one.errors),
        squares=total(lambda one: one.squares),
    )  # fmt: skip


_STARTS: FloatArray = np.array(
    [[size, scatter] for size in (-5, -1.5, 0, 1.5, 5) for scatter in (-0.8, 0.4)], dtype=float
)
_STENCIL: FloatArray = np.array([[0, 0], [1, 0], [-1, 0], [0, 1], [0, -1], [1, 1], [-1, -1], [1, -1], [-1, 1]])


@dataclass(frozen=True, kw_only=True)
class Fit:
    """An explanation held against shots.

    Parameters
    ----------
    log_evidence
        Natural logarithm of how likely the shots are under it.
    size, size_sd
        Of its shape, in half windows, positive behind; and how sure it is.
    log_scatter
        Natural logarithm of the scatter, in units of ``unit``.
    unit
        What the scatter is a multiple of, mm by setting.
    """

    log_evidence: float
    size: float
    size_sd: float
    log_scatter: float
    unit: FloatArray

    @property
    def scatter(self) -> FloatArray:
        """The scatter by setting, mm of extension."""
        found: FloatArray = self.unit * math.exp(self.log_scatter)
        return found


def fit_all(settings: Settings, shapes: Sequence[FloatArray | None]) -> list[tuple[Fit, ...]]:
    """Hold errors of some shapes, mm by setting (None for no error), against shots: each once for each kind of scatter.

    All of them climb at once, since each is little work.

    Parameters
    ----------
    settings
        Settings that shots were taken at, summed up; focal length, distances and blur in mm.
    shapes
        Errors in mm by setting, one for each shape; None for no error.
    """
    units = _units(settings)
    models = [(shape, unit) for shape in shapes for unit in units]
    nothing = np.zeros(len(settings.stops))
    density = _Density(
        settings=settings, shapes=np.array([nothing if shape is None else shape for shape, _ in models]),
        units=np.array([unit for _, unit in models]), free=np.array([shape is not None for shape, _ in models]),
    )  # fmt: skip
    at, values, curvatures = _climb(density)
    fits = [
        _fit(shape is not None, at[place], float(values[place]), curvatures[place], unit)
        for place, (shape, unit) in enumerate(models)
    ]
    return [tuple(fits[start : start + len(units)]) for start in range(0, len(fits), len(units))]


def _units(settings: Settings) -> Sequence[FloatArray]:
    """Return what scatter may be a multiple of, each as large as what the aids show on the whole."""
    whole = math.sqrt(float(np.mean(settings.defocus**2)))
    kinds = (settings.defocus, settings.half_windows, np.ones(len(settings.stops)))
    return [kind * whole / math.sqrt(float(np.mean(kind**2))) for kind in kinds]


def _fit(has_size: bool, at: FloatArray, value: float, curvature: FloatArray, unit: FloatArray) -> Fit:
    prior = -math.log(_LOG_SCATTER_SD * math.sqrt(2 * math.pi))
    # The size of no error is held by a parabola of its own, which the evidence must not count.
    block, free = (curvature, 2) if has_size else (curvature[1:, 1:], 1)
    if has_size:
        prior += math.log(_T_HEIGHT / _SIZE)
    log_evidence = value + prior + free / 2 * math.log(2 * math.pi) - math.log(max(np.linalg.det(block), 1e-12)) / 2
    size_sd = math.sqrt(max(float(np.linalg.inv(curvature)[0, 0]), 0.0)) if has_size else 0.0
    return Fit(log_evidence=log_evidence, size=float(at[0]), size_sd=size_sd, log_scatter=float(at[1]), unit=unit)


_T_HEIGHT = math.gamma((_SIZE_DOF + 1) / 2) / (math.gamma(_SIZE_DOF / 2) * math.sqrt(_SIZE_DOF * math.pi))


@dataclass(frozen=True, kw_only=True)
class _Density:
    """The log posterior of several models over size and log scatter; shapes and units by model and setting, mm."""

    settings: Settings
    shapes: FloatArray
    units: FloatArray
    free: NDArray[np.bool_]

    def __call__(self, points: FloatArray, which: NDArray[np.bool_]) -> FloatArray:
        """Return it for the models that are wanted, shape (models, points), at points (models, points, 2)."""
        size, log_scatter = points[..., 0], points[..., 1]
        found = self._log_likelihood(size, log_scatter, which) - (log_scatter / _LOG_SCATTER_SD) ** 2 / 2
        tail = (_SIZE_DOF + 1) / 2 * np.log1p((size / _SIZE) ** 2 / _SIZE_DOF)
        return found - np.where(self.free[which][:, None], tail, _HELD * size**2)

    def _log_likelihood(self, size: FloatArray, log_scatter: FloatArray, which: NDArray[np.bool_]) -> FloatArray:
        from scipy.special import ndtr  # slow to import, so only where it is asked for

        told = self.settings
        mean = size[..., None] * self.shapes[which][:, None, :]
        scatter = np.exp(log_scatter)[..., None] * self.units[which][:, None, :]
        about = told.squares - 2 * mean * told.errors + mean**2 * told.exact
        found = -told.exact * np.log(scatter * math.sqrt(2 * math.pi)) - about / (2 * scatter**2)
        if np.any(told.front + told.hit + told.behind):
            front, behind = ndtr((-told.half_windows - mean) / scatter), ndtr((mean - told.half_windows) / scatter)
            shares = front, np.clip(1 - front - behind, 0, 1), behind
            for count, share in zip((told.front, told.hit, told.behind), shares, strict=True):
                if np.any(count):
                    found = found + count * np.log(as_seen(share))
        total: FloatArray = found.sum(axis=-1)
        return total


def _climb(density: _Density) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Return the most probable point of each model, its log density and the curvature there: damped Newton steps."""
    count = len(density.free)
    every = np.ones(count, dtype=bool)
    starts = density(np.broadcast_to(_STARTS, (count, *_STARTS.shape)), every)
    best = np.argmax(starts, axis=1)
    at, values = _STARTS[best].copy(), starts[np.arange(count), best]
    damping, curvatures = np.full(count, 1e-3), np.tile(np.eye(2), (count, 1, 1))
    going = every.copy()
    for _ in range(_STEPS):
        gradient, curvature = _slopes(density, at, going)
        curvatures[going] = curvature
        step = np.linalg.solve(curvature + damping[going, None, None] * np.eye(2), gradient[..., None])[..., 0]
        step *= np.minimum(1.0, _LONGEST / np.maximum(np.abs(step).max(axis=1), 1e-12))[:, None]
        trial = density((at[going] + step)[:, None, :], going)[:, 0]
        gained = trial - values[going]
        better = gained >= 0
        places = np.flatnonzero(going)
        at[places[better]] += step[better]
        values[places[better]] = trial[better]
        damping[places] = np.where(better, damping[places] / 4, damping[places] * 8 + 1e-2)
        going[places] = np.where(better, gained >= _ENOUGH, damping[places] < _HOPELESS)
        if not going.any():
            break
    return at, values, curvatures


def _slopes(density: _Density, at: FloatArray, which: NDArray[np.bool_]) -> tuple[FloatArray, FloatArray]:
    """Return gradients and negative second derivatives, none bent the wrong way, by central differences."""
    d = _DELTA
    v = density(at[which][:, None, :] + d * _STENCIL, which).T
    gradient = np.stack([v[1] - v[2], v[3] - v[4]], axis=-1) / (2 * d)
    cross = -(v[5] + v[6] - v[7] - v[8]) / (4 * d * d)
    across, along = -(v[1] + v[2] - 2 * v[0]) / d**2, -(v[3] + v[4] - 2 * v[0]) / d**2
    curvature = np.stack([np.stack([across, cross], axis=-1), np.stack([cross, along], axis=-1)], axis=-2)
    values, vectors = np.linalg.eigh(curvature)
    bent = vectors * np.maximum(np.abs(values), 1e-3)[:, None, :]
    return gradient, bent @ np.swapaxes(vectors, -1, -2)
