"""What readings say of a ring, every explanation weighed: straight or curved, with what ``h``, with which error.

Ring angle is a line over extension, ``θ = θ∞ + x(D, h)·360/L``, and on a curved ring some waves more,
``Σ bⱼ·sin(jπ·x/x_end)``. Readings carry an error on the ring and one in distance; one of them may be gross. All
of it is linear in ``(θ∞, 360/L, b)`` once ``h``, the size of the errors, the kind of ring and the gross reading are
supposed, so each supposition is solved exactly and weighed by how well it foretells the readings (Bayesian model
averaging: Hoeting et al., *Statistical Science* 14 (1999) 382). ``θ∞`` and ``360/L`` have flat priors.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from welotrope.core.optics.elementwise import FloatArray
from welotrope.core.optics.thin_lens import (
    extension_at_film_distance,
    extension_at_object_distance,
    shortest_film_distance,
)
from welotrope.core.stats import Mixture

H_PRIOR = 0.4  # standard deviation of h in focal lengths
_H_CELLS, _H_REACH = 33, 3.0
_REFINEMENTS, _CELLS_IN_SD, _REFINED_REACH = 6, 1.5, 6.0
_WAVES = 5
_SIZE = 2 + _WAVES
_RISE, _POWER = 10.0, 0.75
# Chance of a curved ring beforehand, a third of it each: gently, strongly, and smoothly but for a bend next to infinity
# (standard deviations of the waves as shares of the angle between the outermost readings). Without the last a ring that
# bends there looks like a gentle one whose reading at infinity is wrong.
CURVED_BEFOREHAND = 0.3
_CURVES = ((0.04, 0.006, 0.003, 0.003, 0.05), (0.2, 0.08, 0.03, 0.5, 0.5), (0.04, 0.006, 0.003, 0.003, 0.8))
# Chance of a gross reading beforehand, and how far off one is, degrees.
_GROSS, _GROSS_DEG = 0.03, 15.0
_TOLD = ((1.0, 0.9), (2.0, 0.1))
_RING_ERRORS = ((0.5, 0.25), (1.0, 0.6), (2.0, 0.13), (4.0, 0.02))
_DISTANCE_ERRORS = ((0.1, 0.3), (0.5, 0.2), (1.0, 0.25), (2.0, 0.25))


@dataclass(frozen=True, kw_only=True)
class Readings:
    """Readings of a ring and what is known beforehand.

    Parameters
    ----------
    angles_deg, distances_mm
        Where the ring stood and what was in focus, shape (n,); infinity allowed.
    angle_error_deg, distance_errors_mm
        Standard errors of each; 0 at infinity.
    angle_error_told, distance_error_told
        Whether those were told by the photographer, else they are only where to start from.
    focal_mm
        Focal length, mm.
    from_film
        Whether distances start at the film plane, else at the front principal plane.
    h_mm
        Separation of the principal planes when it is known.
    beyond
        Whether the lens works beyond life size.
    may_be_gross
        Which readings may be left out, shape (n,).
    """

    angles_deg: FloatArray
    distances_mm: FloatArray
    angle_error_deg: float
    distance_errors_mm: FloatArray
    focal_mm: float
    angle_error_told: bool = False
    distance_error_told: bool = False
    from_film: bool = True
    h_mm: float | None = None
    beyond: bool = False
    may_be_gross: tuple[bool, ...] = ()

    def extensions(self, distances_mm: FloatArray, h_mm: float | FloatArray) -> FloatArray:
        """Extensions in mm that focus distances with planes ``h_mm`` apart; arrays go with each other as in NumPy."""
        if not self.from_film:
            found = np.asarray(extension_at_object_distance(distances_mm, self.focal_mm))
            return np.broadcast_to(found, np.broadcast_shapes(found.shape, np.shape(h_mm)))
        # A lens with planes apart sees a thin one's distances, less what lies between its planes.
        reached = np.maximum(distances_mm - h_mm, shortest_film_distance(self.focal_mm))
        return np.asarray(extension_at_film_distance(reached, self.focal_mm, beyond=self.beyond))

    def without(self, left_out: set[int]) -> Readings:
        """Return the readings but for those at some indices."""
        kept = [i for i in range(len(self.angles_deg)) if i not in left_out]
        return Readings(
            angles_deg=self.angles_deg[kept], distances_mm=self.distances_mm[kept],
            angle_error_deg=self.angle_error_deg, distance_errors_mm=self.distance_errors_mm[kept],
            focal_mm=self.focal_mm, angle_error_told=self.angle_error_told,
            distance_error_told=self.distance_error_told, from_film=self.from_film, h_mm=self.h_mm,
            beyond=self.beyond, may_be_gross=tuple(self.may_be_gross[i] for i in kept),
        )  # fmt: skip

    @cached_property
    def h_cells(self) -> tuple[FloatArray, FloatArray]:
        """Values of h that are supposed, mm, and their prior weights."""
        if not self.from_film or self.h_mm is not None:
            return np.array([self.h_mm or 0.0]), np.array([1.0])
        shares = np.linspace(-_H_REACH, _H_REACH, _H_CELLS)
        cells = shares * H_PRIOR * self.focal_mm
        weights = np.exp(-(shares**2) / 2)
        # Nothing nearer than 4f + h can have been in focus.
        possible = cells <= float(np.min(self.distances_mm)) - shortest_film_distance(self.focal_mm)
        if not np.any(possible):
            return np.array([float(np.min(self.distances_mm)) - 4 * self.focal_mm]), np.array([1.0])
        return cells[possible], weights[possible] / float(np.sum(weights[possible]))


@dataclass(frozen=True, kw_only=True)
class RingFit:
    """What is believed of a ring; arrays run over suppositions.

    Parameters
    ----------
    readings
        What it rests on.
    weights
        Posterior weight of each supposition, shape (m,), summing to 1.
    curved, gross, h_mm
        Of each supposition: whether the ring is curved, which reading is gross (−1 for none), and h.
    means, covariances
        Of ``(θ∞, 360/L, b…)``, shapes (m, p) and (m, p, p).
    precisions
        Believed inverse variance of each reading, 1/degrees², shape (n,).
    span_mm, own_h_mm
        Extension at which the waves end, and the h with which it is counted.
    """

    readings: Readings
    weights: FloatArray
    curved: FloatArray
    gross: FloatArray
    h_mm: FloatArray
    means: FloatArray
    covariances: FloatArray
    precisions: FloatArray
    span_mm: float
    own_h_mm: float

    @cached_property
    def chance_curved(self) -> float:
        """Posterior chance, a fraction, that the ring is no plain helicoid."""
        return float(self.weights @ self.curved)

    def chance_gross(self, index: int) -> float:
        """Posterior chance, a fraction, that a reading is gross."""
        return float(np.sum(self.weights[self.gross == index]))

    @cached_property
    def infinity_deg(self) -> Mixture:
        """Where infinity lies, degrees."""
        return Mixture.of(self.weights, self.means[:, 0], self.covariances[:, 0, 0])

    @cached_property
    def slope(self) -> Mixture:
        """Degrees of ring for a millimetre of extension, from infinity to the nearest reading."""
        return Mixture.of(self.weights, self.means[:, 1], self.covariances[:, 1, 1])

    def h_known(self) -> tuple[float, float]:
        """Mean and standard deviation of h over straight rings, mm."""
        weights = self.weights * (1 - self.curved)
        total = float(np.sum(weights))
        if total <= 0:
            return 0.0, H_PRIOR * self.readings.focal_mm
        mean = float(weights @ self.h_mm) / total
        return mean, float(np.sqrt(weights @ (self.h_mm - mean) ** 2 / total))

    def angle_at(self, distance_mm: float, *, curved: bool | None = None) -> Mixture:
        """Return what is believed of the setting for a distance, degrees; of straight or curved rings only if asked."""
        weights = self.weights
        if curved is not None:
            weights = weights * (self.curved if curved else 1 - self.curved)
        cells, which = np.unique(self.h_mm, return_inverse=True)
        x = self.readings.extensions(np.array([distance_mm]), cells)
        rows = _design(x, self.span_mm)[which]
        rows[:, 2:] *= self.curved[:, None]
        means = np.einsum("mp,mp->m", rows, self.means)
        variances = np.einsum("mp,mpq,mq->m", rows, self.covariances, rows)
        return Mixture.of(weights, means, variances)

    def even(self) -> RingFit:
        """Return the same with straight and curved rings weighing alike, for when nothing can tell them apart."""
        chance = self.chance_curved
        if not 0 < chance < 1:
            return self
        weights = self.weights * np.where(self.curved > 0, 0.5 / chance, 0.5 / (1 - chance))
        return replace(self, weights=weights)

    def bow_per_h(self) -> float:
        """How far, in degrees for a millimetre of h, the ring bows from the line of another h at the middle."""
        if not self.readings.from_film:
            return 0.0
        f = self.readings.focal_mm
        # To first order h moves the extension by x²/f²·h, a parabola that rises a quarter of its end over its chord.
        return abs(self.slope.mean) * (self.span_mm / f) ** 2 / 4

    def line_at(self, h_mm: float) -> tuple[float, float]:
        """Return infinity in degrees and slope in degrees per mm of the straight ring with an h, by least squares."""
        x, y = self.readings.extensions(self.readings.distances_mm, h_mm), self.readings.angles_deg
        slope, infinity = np.polyfit(x, y, 1, w=np.sqrt(self.precisions))
        return float(infinity), float(slope)


def fit_ring(readings: Readings) -> RingFit:
    """Weigh every supposition against the readings; at least two at different distances.

    Parameters
    ----------
    readings
        What was read of the ring.
    """
    cells, h_weights = _refined(readings)
    own_h = min(max(0.0, float(cells[0])), float(cells[-1]))
    x = readings.extensions(readings.distances_mm, cells[:, None])
    own_x = readings.extensions(readings.distances_mm, own_h)
    span = float(np.max(own_x))
    noise = _noise(readings, own_x)
    gross, gross_weights = _gross(readings)
    extra = np.where(gross[:, None] == np.arange(len(own_x)), _GROSS_DEG**2, 0.0)
    W = 1 / (noise.variances[:, None, :] + extra)  # noise, gross, reading
    beforehand = noise.weights[:, None, None] * gross_weights[:, None]
    straight = _straight(W, x, readings.angles_deg)
    waved = _waved(W, _design(own_x, span), readings.angles_deg)
    logs = np.concatenate(
        [
            straight.evidence + np.log(beforehand * h_weights * (1 - CURVED_BEFOREHAND)),
            waved.evidence + np.log(beforehand * CURVED_BEFOREHAND / len(_CURVES)),
        ],
        axis=-1,
    )
    weights = np.exp(logs - np.max(logs))
    kept = weights > 1e-7 * np.sum(weights)
    h_of = np.append(cells, [own_h] * len(_CURVES))
    return RingFit(
        readings=readings, weights=weights[kept] / float(np.sum(weights[kept])),
        curved=np.broadcast_to(np.arange(len(h_of)) >= len(cells), weights.shape)[kept].astype(np.float64),
        gross=np.broadcast_to(gross[:, None], weights.shape)[kept], h_mm=np.broadcast_to(h_of, weights.shape)[kept],
        means=np.concatenate([straight.means, waved.means], axis=2)[kept],
        covariances=np.concatenate([straight.covariances, waved.covariances], axis=2)[kept],
        precisions=np.einsum("jgs,jgn->n", weights, W) / float(np.sum(weights)), span_mm=span, own_h_mm=own_h,
    )  # fmt: skip


def _refined(readings: Readings) -> tuple[FloatArray, FloatArray]:
    """Return values of h, mm, as close as the readings tell them apart, and their prior weights.

    Readings taped well tell h to a fraction of a cell of the first grid: it is laid anew, closer, about what is likely,
    until several cells share the belief. What lies outside then is believed of nobody.
    """
    cells, weights = readings.h_cells
    if len(cells) < 3:
        return cells, weights
    total = float(np.sum(np.exp(-((cells / (H_PRIOR * readings.focal_mm)) ** 2) / 2))) * float(cells[1] - cells[0])
    for _ in range(_REFINEMENTS):
        believed = _belief_in_h(readings, cells, weights)
        width = float(cells[1] - cells[0])
        mean = float(believed @ cells)
        sd = math.sqrt(float(believed @ (cells - mean) ** 2))
        if sd > _CELLS_IN_SD * width:
            break
        reach = _REFINED_REACH * max(sd, width / 2)
        low, high = max(mean - reach, float(readings.h_cells[0][0])), min(mean + reach, float(readings.h_cells[0][-1]))
        if high - low < 1e-9 * readings.focal_mm:
            break
        cells = np.linspace(low, high, _H_CELLS)
        density = np.exp(-((cells / (H_PRIOR * readings.focal_mm)) ** 2) / 2) / total
        weights = density * float(cells[1] - cells[0])
    return cells, weights


def _belief_in_h(readings: Readings, cells: FloatArray, weights: FloatArray) -> FloatArray:
    """Return how much each value of h is believed, of straight rings; shares of one."""
    x = readings.extensions(readings.distances_mm, cells[:, None])
    gross, gross_weights = _gross(readings)
    noise = _noise(readings, x[len(x) // 2])
    extra = np.where(gross[:, None] == np.arange(x.shape[1]), _GROSS_DEG**2, 0.0)
    solved = _straight(1 / (noise.variances[:, None, :] + extra), x, readings.angles_deg)
    logs = solved.evidence + np.log(noise.weights[:, None, None] * gross_weights[:, None] * weights)
    found: FloatArray = np.exp(logs - np.max(logs)).sum(axis=(0, 1))
    return found / float(found.sum())


@dataclass(frozen=True)
class _Solved:
    """Solutions per noise, gross reading and shape: log evidence, and means and covariances of the parameters."""

    evidence: FloatArray
    means: FloatArray
    covariances: FloatArray


def _straight(W: FloatArray, x: FloatArray, y: FloatArray) -> _Solved:
    """Solve the lines through readings at extensions ``x`` (h, reading); two parameters, so in closed form."""
    w, wx, wxx, wxy = (np.einsum("jgn,sn->jgs", W, part) for part in (np.ones_like(x), x, x * x, x * y))
    wy, wyy = (np.einsum("jgn,n->jg", W, part)[:, :, None] for part in (y, y * y))
    determinant = np.maximum(w * wxx - wx * wx, 1e-300)
    infinity, slope = (wxx * wy - wx * wxy) / determinant, (w * wxy - wx * wy) / determinant
    squares = np.maximum(wyy - infinity * wy - slope * wxy, 0.0)
    means = np.zeros((*w.shape, _SIZE))
    means[..., 0], means[..., 1] = infinity, slope
    covariances = np.zeros((*w.shape, _SIZE, _SIZE))
    covariances[..., 0, 0], covariances[..., 1, 1] = wxx / determinant, w / determinant
    covariances[..., 0, 1] = covariances[..., 1, 0] = -wx / determinant
    return _Solved(_evidence(W, np.log(determinant), squares), means, covariances)


def _waved(W: FloatArray, X: FloatArray, y: FloatArray) -> _Solved:
    """Solve the curves, each family of them, through readings with design ``X`` (reading, parameter)."""
    prior = np.zeros((len(_CURVES), _SIZE))
    prior[:, 2:] = 1 / (np.array(_CURVES) * float(np.ptp(y))) ** 2
    A = np.einsum("jgn,np,nq->jgpq", W, X, X)[:, :, None] + prior[:, :, None] * np.eye(_SIZE)
    b = np.einsum("jgn,np,n->jgp", W, X, y)[:, :, None]
    covariances = np.linalg.inv(A)
    means = np.einsum("jgspq,jgsq->jgsp", covariances, np.broadcast_to(b, A.shape[:-1]))
    squares = np.einsum("jgn,n,n->jg", W, y, y)[:, :, None] - np.sum(means * b, axis=-1)
    determinants = np.linalg.slogdet(A)[1] - np.sum(np.log(prior[:, 2:]), axis=-1)
    return _Solved(_evidence(W, determinants, np.maximum(squares, 0.0)), means, covariances)


def _evidence(W: FloatArray, log_determinants: FloatArray, squares: FloatArray) -> FloatArray:
    """Log of the chance of the readings, but for a constant."""
    return np.asarray(0.5 * (np.sum(np.log(W), axis=-1)[:, :, None] - log_determinants - squares))


def _gross(readings: Readings) -> tuple[FloatArray, FloatArray]:
    """Which reading is supposed gross (−1 for none) and the prior weight of each; never with fewer than four."""
    may = [i for i, may in enumerate(readings.may_be_gross) if may] if len(readings.angles_deg) >= 4 else []
    gross = np.array([-1, *may])
    return gross, np.where(gross < 0, 1 - _GROSS * len(may), _GROSS)


def _design(x: FloatArray, span_mm: float) -> FloatArray:
    """Return what multiplies ``(θ∞, 360/L, b…)`` at extensions, shape (n, 2 + waves)."""
    share = np.clip(x / span_mm, 0.0, 1.0)
    waves = [np.sin(np.pi * (j + 1) * share) for j in range(_WAVES - 2)]
    # Internally focusing rings move the image slowly at first: much ring for little extension, and cams may bend most
    # next to infinity.
    waves.append(np.log1p(_RISE * share) / math.log1p(_RISE) - share)
    waves.append(share**_POWER - share)
    return np.stack([np.ones_like(x), x, *waves], axis=-1)


@dataclass(frozen=True)
class _Noise:
    """Variance of each reading in degrees² for each supposed size of the errors, and its prior weight."""

    variances: FloatArray
    weights: FloatArray


def _noise(readings: Readings, x: FloatArray) -> _Noise:
    """Suppose sizes of the errors: those given, times factors that the readings may choose from."""
    D, errors = readings.distances_mm, readings.distance_errors_mm
    finite = np.isfinite(D)
    moved = np.zeros_like(x)
    low, high = (readings.extensions(np.where(finite, D + side * errors, 1e9), 0.0) for side in (-1, 1))
    moved[finite] = np.abs(low - high)[finite] / 2
    per_mm = float(np.polyfit(x, readings.angles_deg, 1)[0])
    by_distance = (moved * per_mm) ** 2
    ring = _TOLD if readings.angle_error_told else _RING_ERRORS
    distance = _TOLD if readings.distance_error_told else _DISTANCE_ERRORS
    sizes = [(a, d, wa * wd) for a, wa in ring for d, wd in distance]
    variances = np.stack([(a * readings.angle_error_deg) ** 2 + d * d * by_distance for a, d, _ in sizes])
    return _Noise(variances, np.array([weight for *_, weight in sizes]))
