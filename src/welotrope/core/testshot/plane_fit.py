"""The plane of focus on a sloping sheet, from what each patch kept of its detail.

Blur is a disc on the film whose diameter grows with the difference of the reciprocal distances of the patch and of the
plane of focus; what a disc keeps of each spatial frequency is known (OPTICS: ``2 J1(πcν)/(πcν)``). Where the plane
lies, how it leans, how fast blur grows and what lens and sensor blur of themselves are fitted to all patches at once.
The interval is that of the sandwich estimator over patches, which asks of the model only that it fit alike before and
behind the plane: it holds where apertures have corners and lenses faults.
"""

from __future__ import annotations

import functools
import math
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from welotrope.core.testshot.transfer import Patches

Grid = NDArray[np.float64]
_ROBUST = 3.0  # residuals, in units of their scatter, from which on they count less
_STEP, _MOST_STEPS = 1e-5, 80
_MOST_PX = 18.0  # blur of a patch, its own pixels, up to which it is used
WITHIN = 0.15  # how far places of a window lie from its middle, root mean square, of its side
_FLOOR = 0.03  # of what is kept, to which the model holds
_GAIN_ALIKE = 0.25  # how much patches differ in contrast, as a share
_MOST_PERIODS, _PER_PERIOD = 256, 256  # of the table of what a disc keeps; beyond, it keeps less than 0.0001
_SMALLEST_PX = 0.25  # variance that looking pixels up adds, squared pixels of the patch


@dataclass(frozen=True, kw_only=True)
class RobustFit:
    """Parameters, their covariance, shape (n, n), and what they leave of each measured value."""

    params: Grid
    covariance: Grid
    left: Grid

    def error(self, slope: Grid) -> float:
        """Return the standard error of what grows with the parameters by a slope, shape (n,), in units of that."""
        return math.sqrt(max(float(slope @ self.covariance @ slope), 0.0))


def robust_fit(
    residuals: Callable[[Grid], Grid], begin: Grid, unit: Grid, *, measured: int, groups: NDArray[np.int_] | None = None
) -> RobustFit:
    """Fit parameters.

    Parameters
    ----------
    residuals
        What parameters leave, in units of its scatter: of measured values first, then of what is known beforehand.
    begin, unit
        Where to begin, and how far parameters may be expected to go, shape (n,).
    measured
        How many residuals are of measured values.
    groups
        Which of them are off together, shape (measured,); each alone when left out.
    """
    from scipy.optimize import least_squares

    def scaled(params: Grid) -> Grid:
        return residuals(params * unit)

    params = least_squares(scaled, begin / unit, loss="soft_l1", f_scale=_ROBUST, max_nfev=_MOST_STEPS).x
    base, count = scaled(params), len(begin)
    slope = np.stack(
        [(scaled(params + h) - scaled(params - h)) / (2 * _STEP) for h in _STEP * np.eye(count)], axis=-1
    )  # fmt: skip
    eased = 1 / np.sqrt(1 + (base / _ROBUST) ** 2)
    bread = np.linalg.pinv((eased[:, None] * slope).T @ slope, hermitian=True)
    scores = (eased * base)[:, None] * slope
    told = _summed(scores[:measured], groups)
    free = min(count - (len(base) - measured), len(told) - 1)  # parameters that nothing was known of
    told *= math.sqrt(len(told) / max(len(told) - free, 1))
    # What is known beforehand is so uncertain as it is said to be, wherever it came out.
    every = np.concatenate((told, slope[measured:]))
    covariance = (bread @ (every.T @ every) @ bread) * np.outer(unit, unit)
    return RobustFit(params=params * unit, covariance=covariance, left=base[:measured])


def _summed(scores: Grid, groups: NDArray[np.int_] | None) -> Grid:
    if groups is None:
        return scores.copy()
    return np.stack([scores[groups == one].sum(axis=0) for one in np.unique(groups)])


@dataclass(frozen=True, kw_only=True)
class Seen:
    """Patches of all sizes in one: one row a patch.

    Parameters
    ----------
    x, z
        Where each lies, seen from the lens, to the right and away, mm.
    per_px, within_mm
        Pixels of the picture for one of the patch's; how much of the reciprocal distance it spans, 1/mm, as a scatter.
    kept, variance, frequency
        As in :class:`Patches`, over all directions; shape (n, bands).
    """

    x: Grid
    z: Grid
    per_px: Grid
    within: Grid
    kept: Grid
    variance: Grid
    frequency: Grid

    def chosen(self, which: NDArray[np.bool_]) -> Seen:
        """Return some of them."""
        return replace(
            self, x=self.x[which], z=self.z[which], per_px=self.per_px[which], within=self.within[which],
            kept=self.kept[which], variance=self.variance[which],
        )  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class PlaneFit:
    """Where the plane of focus lies.

    Parameters
    ----------
    plane_z, lean
        Its distance from the lens along the axis at ``x_mark``, mm; how much farther it is for each mm to the right.
    rate
        Diameter of the blur for each difference of reciprocal distances, px·mm.
    own_px
        What lens and sensor blur of themselves, a standard deviation, px.
    covariance
        Of plane_z, lean, the logarithm of the rate and the own variance, shape (4, 4).
    misfit
        Root mean square of the residuals, in units of what was expected.
    patches
        How many were used.
    bend, bend_error
        How much the reciprocal distance of focus changes with the square of how far a ray's slope is from that of the
        ray to the mark (field curvature), and its standard error, 1/mm.
    """

    plane_z: float
    lean: float
    rate: float
    own_px: float
    covariance: Grid
    misfit: float
    patches: int
    bend: float = 0.0
    bend_error: float = 0.0

    def nearness(self, lens_mm: Grid, mark_mm: Grid) -> Grid:
        """Return the reciprocal distance of focus along the rays to points, 1/mm, shape (n,).

        Points and mark are as seen from the lens: right, down, away, mm; shapes (n, 3) and (3,).
        """
        flat = 1 / np.maximum(self.plane_z + self.lean * (lens_mm[:, 0] - mark_mm[0]), 1.0)
        return np.asarray(flat + self.bend * off_axis(lens_mm, mark_mm))


def off_axis(lens_mm: Grid, mark_mm: Grid) -> Grid:
    """Return the square of how far the slopes of the rays to points are from that of the ray to the mark, shape (n,).

    Counted from the mark, curvature has no part in how the plane leans there.

    Parameters
    ----------
    lens_mm
        Points seen from the lens in mm, shape (n, 3).
    mark_mm
        The mark seen from the lens in mm, shape (3,).
    """
    apart = lens_mm[:, :2] / lens_mm[:, 2:] - mark_mm[:2] / mark_mm[2]
    return np.asarray((apart**2).sum(axis=1))


def pooled(patches: Patches) -> tuple[Grid, Grid]:
    """Return what was kept over all directions, and its variance, shape (n, bands).

    Parameters
    ----------
    patches
        What was kept of the detail of each patch.
    """
    weight = 1 / patches.variance
    total = weight.sum(axis=1)
    return (weight * patches.kept).sum(axis=1) / total, 1 / total


def disc_kept(periods: Grid) -> Grid:
    """Return what a disc keeps of a frequency, by how many of its periods its diameter spans; from -0.13 to 1.

    Read from a table, to 0.00002: the Bessel function took a third of the time of a measurement.

    Parameters
    ----------
    periods
        How many periods the disc's diameter spans.
    """
    values, steps = _disc_table()
    at = np.minimum(periods * _PER_PERIOD, len(values) - 2.0)
    below = at.astype(np.int32)
    return np.asarray(values[below] + (at - below) * steps[below])


@functools.cache
def _disc_table() -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """Return what a disc keeps at steps of a period's share, and how much more at the next."""
    from scipy.special import j1

    angle = np.pi * np.maximum(np.arange(_MOST_PERIODS * _PER_PERIOD + 2) / _PER_PERIOD, 1e-4)
    values = 2 * j1(angle) / angle
    return values.astype(np.float32), np.append(np.diff(values), 0).astype(np.float32)


def _blur(seen: Seen, plane_z: float, lean: float, rate: float, x_mark: float) -> Grid:
    """Return the diameter of the blur of each patch, its own pixels."""
    apart = 1 / np.maximum(plane_z + lean * (seen.x - x_mark), 1.0) - 1 / seen.z
    return np.asarray(rate * np.hypot(apart, seen.within) / seen.per_px)


def _model(seen: Seen, blur: Grid, own: float) -> Grid:
    variance = np.maximum(own, 0.0) / seen.per_px**2 + _SMALLEST_PX
    kept = disc_kept(blur[:, None] * seen.frequency)
    return np.asarray(kept * np.exp(-2 * math.pi**2 * seen.frequency**2 * variance[:, None]))


def single_blurs(seen: Seen) -> Grid:
    """Return the blur that fits each patch alone best, its own pixels.

    Parameters
    ----------
    seen
        What was seen of each patch.
    """
    sizes = np.concatenate((np.arange(0, 6, 0.25), np.arange(6, 24, 0.5)))
    shape = disc_kept(sizes[:, None] * seen.frequency) * np.exp(-2 * math.pi**2 * seen.frequency**2 * 0.6)
    weight = 1 / (seen.variance + _FLOOR**2)
    both, own = (weight * seen.kept) @ shape.T, weight @ (shape**2).T
    gain = np.maximum(both / own, 0)
    left = (weight * seen.kept**2).sum(axis=1)[:, None] - gain * both
    return np.asarray(sizes[left.argmin(axis=1)])


def start(seen: Seen, *, rates: Grid) -> tuple[float, float]:
    """Return about where the plane is, mm from the lens, and how fast blur grows, px·mm: the V that most blurs fit.

    Parameters
    ----------
    seen
        What was seen of each patch.
    rates
        How fast blur may grow, px·mm.
    """
    blurs = single_blurs(seen) * seen.per_px
    nearness = 1 / seen.z
    low, high = nearness.min(), nearness.max()
    planes = np.linspace(low - 0.15 * (high - low), high + 0.15 * (high - low), 131)
    off = np.abs(planes[:, None] - nearness[None, :])
    allowed = 1.0 * seen.per_px + 0.1 * blurs
    best = (math.inf, 0.0, 0.0)
    for rate in rates:
        loss = np.minimum(np.abs(rate * off - blurs) / allowed, 3.0).sum(axis=1)
        index = int(loss.argmin())
        if loss[index] < best[0]:
            best = float(loss[index]), 1 / float(planes[index]), float(rate)
    return best[1], best[2]


def fit_plane(
    seen: Seen,
    *,
    x_mark: float,
    plane_z: float,
    rate: float,
    known: tuple[float, float],
    lean: float = 0.0,
    own: float = 0.3,
) -> PlaneFit | None:
    """Fit the plane of focus, from about where it is; None when too few patches are near it.

    Parameters
    ----------
    seen
        The patches.
    x_mark
        Where the mark lies to the right of the axis, mm.
    plane_z, rate, lean, own
        Where to begin: mm, px·mm, a pure number, squared px.
    known
        What is known beforehand of the rate: its logarithm and the scatter of that.
    """
    from scipy.optimize import least_squares

    scale = np.array([float(np.ptp(seen.z)) or 1.0, 0.1, 1.0, 1.0])
    params = np.array([plane_z, lean, math.log(rate), own])
    used = seen
    for _ in range(3):
        near = _blur(seen, params[0], params[1], math.exp(params[2]), x_mark) < _MOST_PX
        if near.sum() < 6:
            return None
        used = seen.chosen(near)
        sharp = _blur(used, params[0], params[1], math.exp(params[2]), x_mark) < 6
        usual = _usual_gain(used, params, x_mark, sharp)
        found = least_squares(
            lambda scaled, used=used, usual=usual: np.append(
                _residuals(scaled * scale, used, x_mark, usual).ravel(), (scaled[2] - known[0]) / known[1]
            ),
            params / scale, loss="soft_l1", f_scale=3.0, max_nfev=60,
        )  # fmt: skip
        if np.allclose(found.x * scale, params, rtol=1e-5):
            break
        params = found.x * scale
    return _told(params, scale, used, x_mark, usual)


def _usual_gain(seen: Seen, params: Grid, x_mark: float, sharp: NDArray[np.bool_]) -> float:
    model = _model(seen, _blur(seen, params[0], params[1], math.exp(params[2]), x_mark), params[3])
    weight = 1 / (seen.variance + _FLOOR**2)
    gains = (weight * seen.kept * model).sum(axis=1) / (weight * model**2).sum(axis=1)
    return float(np.median(gains[sharp] if sharp.sum() >= 3 else gains))


def _residuals(params: Grid, seen: Seen, x_mark: float, usual: float) -> Grid:
    """Return what the model leaves, in units of its scatter, shape (n, bands + 1); each patch has its own contrast."""
    model = _model(seen, _blur(seen, params[0], params[1], math.exp(params[2]), x_mark), params[3])
    weight = 1 / (seen.variance + (_FLOOR * usual) ** 2)
    held = 1 / (_GAIN_ALIKE * usual) ** 2
    gain = ((weight * seen.kept * model).sum(axis=1) + held * usual) / ((weight * model**2).sum(axis=1) + held)
    left = np.sqrt(weight) * (seen.kept - gain[:, None] * model)
    return np.column_stack((left, math.sqrt(held) * (gain - usual)))


def _told(params: Grid, scale: Grid, seen: Seen, x_mark: float, usual: float) -> PlaneFit:
    base = _residuals(params, seen, x_mark, usual)
    step = 1e-4 * scale * np.array([0.1, 0.1, 1.0, 1.0])
    slopes = np.stack(
        [
            (
                _residuals(params + step * unit, seen, x_mark, usual)
                - _residuals(params - step * unit, seen, x_mark, usual)
            )
            / (2 * step[k])
            for k, unit in enumerate(np.eye(4))
        ],
        axis=-1,
    )  # (n, bands + 1, 4)
    eased = 1 / np.sqrt(1 + (base / 3.0) ** 2)  # of the loss
    bread = np.einsum("nb,nbi,nbj->ij", eased, slopes, slopes)
    scores = np.einsum("nb,nb,nbi->ni", eased, base, slopes)
    count = len(base)
    meat = scores.T @ scores * count / max(count - 4, 1)
    inverse = np.linalg.pinv(bread, hermitian=True)
    return PlaneFit(
        plane_z=float(params[0]), lean=float(params[1]), rate=math.exp(params[2]),
        own_px=math.sqrt(max(float(params[3]) + _SMALLEST_PX, 0.0)), covariance=inverse @ meat @ inverse,
        misfit=float(np.sqrt(np.mean(base[:, :-1] ** 2))), patches=count,
    )  # fmt: skip
