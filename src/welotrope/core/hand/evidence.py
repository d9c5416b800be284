"""How likely shots are under an explanation, its size and the scatter integrated out.

The scatter goes with what the aid shows, with the window, or is one length; the three are averaged. Size and scatter
are integrated by Laplace's approximation about the most probable (Gelman et al., *Bayesian Data Analysis*, ch. 13).
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from welotrope.core.hand.grid import MISJUDGED
from welotrope.core.hand.shot import Settings
from welotrope.core.optics.elementwise import FloatArray

# Beforehand: size in half windows, Student's t; logarithm of the scatter over what the aid shows, normal.
_SIZE, _SIZE_DOF, _LOG_SCATTER_SD = 2.0, 3.0, 1.0
LogDensity = Callable[[FloatArray], FloatArray]  # of points, each a size and a log scatter
_STEPS, _DELTA, _ENOUGH = 40, 1e-3, 1e-3
_STARTS: FloatArray = np.array([[size, scatter] for size in (-6, -2, -0.5, 0, 0.5, 2, 6) for scatter in (-1, 0, 1)])


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


def fit(settings: Settings, shape: FloatArray | None) -> tuple[Fit, ...]:
    """Hold an error of a shape, mm by setting (None for no error), against shots: once for each kind of scatter."""
    return tuple(_fit(settings, shape, unit) for unit in _units(settings))


def _units(settings: Settings) -> Sequence[FloatArray]:
    """Return what scatter may be a multiple of, each as large as what the aids show on the whole."""
    whole = math.sqrt(float(np.mean(settings.defocus**2)))
    kinds = (settings.defocus, settings.halves, np.ones(len(settings.stops)))
    return [kind * whole / math.sqrt(float(np.mean(kind**2))) for kind in kinds]


def _fit(settings: Settings, shape: FloatArray | None, unit: FloatArray) -> Fit:
    free = 2 if shape is not None else 1
    used = np.zeros(len(unit)) if shape is None else shape

    def log_posterior(points: FloatArray) -> FloatArray:
        found: FloatArray = _log_likelihood(settings, used, unit, points) - (points[:, 1] / _LOG_SCATTER_SD) ** 2 / 2
        tail = (_SIZE_DOF + 1) / 2 * np.log1p((points[:, 0] / _SIZE) ** 2 / _SIZE_DOF)
        return found - tail if shape is not None else found - points[:, 0] ** 2

    starts = _STARTS if shape is not None else _STARTS[_STARTS[:, 0] == 0]
    values = log_posterior(starts)
    at, value = starts[int(np.argmax(values))], float(values.max())
    at, value, curvature = _climb(log_posterior, at, value, free)
    prior = -math.log(_LOG_SCATTER_SD * math.sqrt(2 * math.pi))
    if shape is not None:
        prior += math.log(_T_HEIGHT / _SIZE)
    # The size of no error is held by a parabola of its own, which the evidence must not count.
    block = curvature if shape is not None else curvature[1:, 1:]
    log_evidence = value + prior + free / 2 * math.log(2 * math.pi) - math.log(max(np.linalg.det(block), 1e-12)) / 2
    size_sd = math.sqrt(max(float(np.linalg.inv(curvature)[0, 0]), 0.0)) if shape is not None else 0.0
    return Fit(log_evidence=log_evidence, size=float(at[0]), size_sd=size_sd, log_scatter=float(at[1]), unit=unit)


_T_HEIGHT = math.gamma((_SIZE_DOF + 1) / 2) / (math.gamma(_SIZE_DOF / 2) * math.sqrt(_SIZE_DOF * math.pi))


def _log_likelihood(settings: Settings, shape: FloatArray, unit: FloatArray, points: FloatArray) -> FloatArray:
    """Return the log likelihood at points, each a size and a log scatter: shape (n,)."""
    from scipy.special import ndtr  # slow to import, so only where it is asked for

    mean = points[:, :1] * shape[None, :]
    scatter = np.exp(points[:, 1:]) * unit[None, :]
    about = settings.squares - 2 * mean * settings.errors + mean**2 * settings.exact
    found = -settings.exact * np.log(scatter * math.sqrt(2 * math.pi)) - about / (2 * scatter**2)
    if np.any(settings.front + settings.hit + settings.behind):
        front, behind = ndtr((-settings.halves - mean) / scatter), ndtr((mean - settings.halves) / scatter)
        shares = front, np.clip(1 - front - behind, 0, 1), behind
        for count, share in zip((settings.front, settings.hit, settings.behind), shares, strict=True):
            found = found + count * np.log((1 - 1.5 * MISJUDGED) * share + MISJUDGED / 2)
    total: FloatArray = found.sum(axis=1)
    return total


def _climb(log_posterior: LogDensity, at: FloatArray, value: float, free: int) -> tuple[FloatArray, float, FloatArray]:
    """Return the most probable point near one, its log density and the curvature there: damped Newton steps."""
    damping = 1e-3
    curvature = np.eye(2)
    for _ in range(_STEPS):
        gradient, curvature = _slopes(log_posterior, at)
        step = np.linalg.solve(_positive(curvature) + damping * np.eye(2), gradient)
        if free == 1:
            step[0] = 0.0
        step *= min(1.0, 1.5 / max(float(np.abs(step).max()), 1e-12))
        trial = float(log_posterior((at + step)[None, :])[0])
        if trial >= value:
            at, gained, value = at + step, trial - value, trial
            damping /= 4
            if gained < _ENOUGH:
                break
        else:
            damping = damping * 8 + 1e-2
            if damping > 1e8:
                break
    return at, value, _positive(curvature)


def _slopes(log_posterior: LogDensity, at: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Return gradient and negative second derivatives at a point, by central differences."""
    d = _DELTA
    offsets = d * np.array([[0, 0], [1, 0], [-1, 0], [0, 1], [0, -1], [1, 1], [-1, -1], [1, -1], [-1, 1]])
    v = log_posterior(at[None, :] + offsets)
    gradient = np.array([v[1] - v[2], v[3] - v[4]]) / (2 * d)
    cross = (v[5] + v[6] - v[7] - v[8]) / (4 * d * d)
    curvature = -np.array([[(v[1] + v[2] - 2 * v[0]) / d**2, cross], [cross, (v[3] + v[4] - 2 * v[0]) / d**2]])
    return gradient, curvature


def _positive(curvature: FloatArray) -> FloatArray:
    """Return a curvature with its directions kept and none bent the wrong way."""
    values, vectors = np.linalg.eigh(curvature)
    found: FloatArray = (vectors * np.maximum(np.abs(values), 1e-3)) @ vectors.T
    return found
