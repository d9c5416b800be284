"""The ring moved by known amounts before one subject: where it is sharpest, with an interval.

Detail is the same in all pictures; what a blurred disc keeps of it is known by spatial frequency. Each picture's power
is the subject's, times what the blur of its place keeps, times its exposure, over noise: where blur is nothing, how
fast it grows, the subject and the noise are fitted to all pictures and bands at once.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from welotrope.core.errors import OutOfRangeError
from welotrope.core.fields import PICTURES
from welotrope.core.optics.elementwise import AnyArray
from welotrope.core.testshot.facing import TILE_PX, frequencies, tile_energies
from welotrope.core.testshot.find_sheet import markers_in, sheet_of
from welotrope.core.testshot.plane_fit import disc_kept
from welotrope.core.testshot.sheets import SheetKind
from welotrope.core.testshot.slope import ShotSettings, find_plane
from welotrope.core.testshot.transfer import as_bytes, as_shares

Grid = NDArray[np.float64]
LEAST_PICTURES = 4
_MIDDLE = 0.4  # of width and height that is looked at
_MOST_TILES = 144
_WIDE = 1.96
_ALIKE = 0.94  # score that the least sharp has where all are alike
_MODEL = 0.06  # scatter of the logarithm of power that the model leaves
_LEAST_ON_SHEET, _MOST_ERROR, _LEAST_SLOPE_DEG = 3, 0.05, 15.0  # pictures; share of the distance; degrees


@dataclass(frozen=True, kw_only=True)
class RingPoint:
    """A picture of a series: where the ring stood, and how sharp it is, 1 at the sharpest."""

    at: float
    score: float


@dataclass(frozen=True, kw_only=True)
class BestRingPosition:
    """Where a subject is sharpest, in the unit the ring was read in, with its 95 % interval; None for not told."""

    best: float | None
    low: float | None
    high: float | None
    curve: tuple[RingPoint, ...]
    warnings: tuple[str, ...] = ()


@dataclass(frozen=True, kw_only=True)
class RingShot:
    """A picture of a series, as what is needed of it.

    Parameters
    ----------
    power
        Power of each band in its middle.
    nearness, error
        Where it shows a slope sheet: the reciprocal distance of the plane of focus over that of the mark, and its
        standard error; None otherwise.
    """

    power: Grid
    nearness: float | None = None
    error: float = math.inf


def look(picture: AnyArray) -> RingShot:
    """Return what is needed of a picture of a series.

    Parameters
    ----------
    picture
        Grey values, shape (height, width), of 8 or 16 bits or as floats.
    """
    power = middle_power(picture)
    size = (picture.shape[1], picture.shape[0])
    found = sheet_of(markers_in(as_bytes(picture)), SheetKind.SLOPE, size)
    # Where the plane crosses a sheet does not depend on the focal length, which nobody has to tell.
    plane = None if found is None else find_plane(picture, found, ShotSettings(focal_mm=50.0, width_mm=36.0))
    if plane is None or plane.pose.slope_deg < _LEAST_SLOPE_DEG:
        return RingShot(power=power)
    nearness = float(plane.mark[2]) / plane.fit.plane_z
    error = math.sqrt(max(float(plane.fit.covariance[0, 0]), 0.0)) * nearness / plane.fit.plane_z
    return RingShot(power=power, nearness=nearness, error=error)


def middle_power(picture: AnyArray) -> Grid:
    """Return the power of each band in the middle of a picture, mean over its tiles.

    Parameters
    ----------
    picture
        Grey values, shape (height, width), of 8 or 16 bits or as floats.
    """
    height, width = picture.shape
    if min(height, width) < 2 * TILE_PX:
        raise OutOfRangeError(
            PICTURES, f"{width} × {height} px", "that is too small to be measured", "Take larger ones"
        )
    across, down = (_starts(length) for length in (width, height))
    corners = np.array([(x, y) for y in down for x in across])
    return np.asarray(tile_energies(as_shares(picture), corners).mean(axis=0))


def _starts(length: int) -> NDArray[np.int_]:
    size = max(int(length * _MIDDLE), TILE_PX)
    first = (length - size) // 2
    count = min(max(size // TILE_PX, 1), int(math.sqrt(_MOST_TILES)))
    return np.linspace(first, first + size - TILE_PX, count).astype(int)


def read_ring(places: Sequence[float], shots: Sequence[RingShot]) -> BestRingPosition:
    """Return where a subject is sharpest.

    Parameters
    ----------
    places
        Where the ring stood for each picture: degrees, mm or any other unit.
    shots
        The pictures, from :func:`look`.

    Raises
    ------
    OutOfRangeError
        When there are too few pictures or places.
    """
    at, power = np.array(places, dtype=float), np.array([one.power for one in shots])
    if len(at) < LEAST_PICTURES or len(np.unique(at)) < LEAST_PICTURES:
        raise OutOfRangeError(
            PICTURES,
            len(at),
            "that is too few places of the ring",
            f"Take {LEAST_PICTURES} or more, each at its own place",
        )
    order = np.argsort(at, kind="stable")
    at, power = at[order], np.maximum(power[order], 1e-12)
    curve = _curve(at, power)
    on_sheet = _on_sheet(at, [shots[k] for k in order])
    span = float(at[-1] - at[0])
    best, error = on_sheet or _fit(at, power)
    # A sloping sheet is sharp somewhere in every picture; it tells by where.
    alike = on_sheet is None and min(one.score for one in curve) > _ALIKE
    if alike or not math.isfinite(error) or _WIDE * error > span / 2:
        return BestRingPosition(
            best=None, low=None, high=None, curve=curve,
            warnings=("All places are alike sharp, or nothing has detail. Turn the ring farther between pictures.",),
        )  # fmt: skip
    if not at[0] <= best <= at[-1]:
        side = "first" if best < at[0] else "last"
        return BestRingPosition(
            best=None, low=None, high=None, curve=curve,
            warnings=(f"It is still getting sharper at the {side} place. Turn on that way, and take more pictures.",),
        )  # fmt: skip
    return BestRingPosition(best=best, low=best - _WIDE * error, high=best + _WIDE * error, curve=curve)


def _on_sheet(at: Grid, shots: Sequence[RingShot]) -> tuple[float, float] | None:
    """Return where the ring puts the plane of focus on the mark of a slope sheet, and its standard error.

    The ring moves the lens in proportion to the reciprocal distance in focus. None where fewer than three pictures
    show the plane.
    """
    known = [k for k, one in enumerate(shots) if one.nearness is not None and 0 < one.error < _MOST_ERROR]
    if len(known) < _LEAST_ON_SHEET or np.ptp(at[known]) == 0:
        return None
    x = at[known]
    y = np.array([shots[k].nearness for k in known], dtype=float) - 1
    floor = 0.01 * float(np.ptp(y))
    weight = 1 / (np.array([shots[k].error for k in known]) ** 2 + floor**2)
    design = np.column_stack((np.ones_like(x), x - x.mean()))
    inverse = np.linalg.inv((weight[:, None] * design).T @ design)
    level, slope = inverse @ (design.T @ (weight * y))
    if slope == 0:
        return None
    left = y - design @ np.array([level, slope])
    spread = max(float((weight * left**2).sum()) / max(len(x) - 2, 1), 1.0)
    back = -level / slope
    toward = np.array([-1 / slope, level / slope**2])
    return float(x.mean() + back), float(math.sqrt(toward @ inverse @ toward * spread))


def _curve(at: Grid, power: Grid) -> tuple[RingPoint, ...]:
    """Return how sharp each picture is: the contrast of its finer bands over that of the coarsest."""
    fine = np.sqrt(power[:, 2:6] / power[:, :1]).mean(axis=1)
    return tuple(RingPoint(at=float(one), score=float(score)) for one, score in zip(at, fine / fine.max(), strict=True))


def _kept(blur_px: Grid) -> Grid:
    """Return the share of power kept by band, shape (n, bands): of blurs a little larger and smaller too."""
    around = np.array([0.86, 0.93, 1.0, 1.07, 1.14])
    kept = disc_kept(blur_px[:, None, None] * around[None, :, None] * frequencies()[None, None, :]) ** 2
    return np.asarray(kept.mean(axis=1))


def _fit(at: Grid, power: Grid) -> tuple[float, float]:
    """Return the sharpest place and its standard error."""
    from scipy.optimize import least_squares

    count, bands = power.shape
    span = float(at[-1] - at[0])
    logs = np.log(power)
    noise = float(np.log(power[:, -1].min()))

    def residuals(params: Grid) -> Grid:
        best, rate = params[0] * span, math.exp(params[1]) / span
        subject, exposure = params[3 : 3 + bands], params[3 + bands :]
        exposures = np.append(exposure, -exposure.sum())
        kept = _kept(rate * np.hypot(at - best, 1e-3 * span))
        meant = np.logaddexp(np.log(np.maximum(kept, 1e-9)) + subject + exposures[:, None], params[2])
        held = (exposures / 0.3, [(params[2] - noise) / 1.5, (params[1] - math.log(20)) / 2.0])
        return np.concatenate((((logs - meant) / _MODEL).ravel(), *held))

    found = None
    sharp = at[int(np.argmax((power[:, 2:6] / power[:, :1]).mean(axis=1)))]
    for rate in (8.0, 30.0):
        begin = np.concatenate(([sharp / span, math.log(rate), noise - 0.3], logs.max(axis=0), np.zeros(count - 1)))
        tried = least_squares(residuals, begin, loss="soft_l1", f_scale=2.0, max_nfev=60)
        if found is None or tried.cost < found.cost:
            found = tried
    assert found is not None
    hessian = found.jac.T @ found.jac
    covariance = np.linalg.pinv(hessian, hermitian=True)
    free = count * bands - len(found.x)
    spread = max(2 * found.cost / max(free, 1), 0.05)
    return float(found.x[0] * span), float(math.sqrt(covariance[0, 0] * spread) * span)
