"""How blurred each patch of a sheet is, by the page itself blurred as much; and the plane of focus behind that.

Once it is known about where the plane lies, the page can be blurred as each patch should be and laid on the picture.
What is left is even in contrast, brightness, a shift of parts of a pixel, and the square of the blur, so that least
squares give the blur of each patch with hardly any noise. Over the sheet its square is a parabola of the difference of
the reciprocal distances: its lowest place is the plane of focus.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from functools import cache

import numpy as np
from numpy.typing import NDArray

from welotrope.core.optics.elementwise import AnyArray
from welotrope.core.testshot.find_sheet import FoundSheet
from welotrope.core.testshot.plane_fit import PlaneFit, disc_kept, off_axis
from welotrope.core.testshot.pose import Pose
from welotrope.core.testshot.robust_fit import robust_fit
from welotrope.core.testshot.transfer import light_patch, page_patch

Grid = NDArray[np.float64]
Light = NDArray[np.float32]
SIDE, SMALL_SIDE, _PAD = 48, 24, 16
_ROUNDS, _LEAST_SQUARED = 3, 0.25  # times a patch is laid on by itself; squared px it begins at, at least
MOST_PX = 14.0  # blur that is laid on, pixels of the patch
# How much the square of the blur that is everywhere alike may differ from the middle to an end of the sheet, squared
# px: print and sensor are not quite even.
_UNEVEN_ACROSS, _UNEVEN_ALONG = 0.1, 0.06
# Usual field curvature: how far focus lies off the film at the end of the half diagonal, as a share of that.
_USUAL_SAG, _NO_SAG = 0.008, 1e-9


@dataclass(frozen=True, kw_only=True)
class Blurs:
    """What was found of each patch; lengths in pixels of the patch unless said.

    Parameters
    ----------
    centres_mm
        On the page, shape (n, 2).
    squared, variance
        The square of the blur's diameter, mean over the patch, and the variance of that.
    shift_px
        How far it lies from where the homography puts it, pixels of the picture, shape (n, 2).
    contrast, left
        Factor on the page's light, and scatter of what is left.
    """

    centres_mm: Grid
    squared: Grid
    variance: Grid
    shift_px: Grid
    contrast: Grid
    left: Grid


def lay_on(
    picture: AnyArray,
    found: FoundSheet,
    pose: Pose,
    fit: PlaneFit,
    centres_mm: Grid,
    *,
    per_px: int,
    side: int,
    linear: bool,
    exact: bool = False,
) -> Blurs:
    """Return the blur of each patch, from about where the plane of focus is; ``exact`` takes longer."""
    corners = np.rint(found.px(centres_mm) - (side * per_px - 1) / 2).astype(int)
    signed, slopes = signed_blur(found, pose, fit, centres_mm, per_px)
    axis = np.arange(side) - (side - 1) / 2
    transforms = _transforms(found, corners, per_px, side, fit.own_px / per_px, exact=exact)
    rows = [
        _one(
            light_patch(picture, corner, side, per_px, linear=linear), transforms[index],
            (signed[index] + slopes[index, 0] * axis[None, :] + slopes[index, 1] * axis[:, None]) ** 2,
        )
        for index, corner in enumerate(corners)
    ]  # fmt: skip
    squared, variance, x, y, contrast, left = np.array(rows).T if rows else np.empty((6, 0))
    return Blurs(
        centres_mm=centres_mm, squared=squared, variance=variance, shift_px=np.column_stack((x, y)) * per_px,
        contrast=contrast, left=left,
    )  # fmt: skip


def blurs_alone(
    picture: AnyArray, found: FoundSheet, centres_mm: Grid, squared: float, *, own_px: float, per_px: int, side: int,
    linear: bool,
) -> Blurs:  # fmt: skip
    """Return the blur of each patch by itself, where nothing says how it grows; as in :func:`lay_on`.

    Parameters
    ----------
    squared
        About how blurred they are, the square of a diameter, squared px of the patch.
    own_px
        What lens and sensor blur of themselves, a standard deviation, px of the picture.
    """
    corners = np.rint(found.px(centres_mm) - (side * per_px - 1) / 2).astype(int)
    transforms = _transforms(found, corners, per_px, side, own_px / per_px, exact=False)
    rows = []
    for corner, transform in zip(corners, transforms, strict=True):
        light = light_patch(picture, corner, side, per_px, linear=linear)
        here = max(squared, _LEAST_SQUARED)
        for _ in range(_ROUNDS):
            row = _one(light, transform, np.full((side, side), here))
            here = float(np.clip(row[0], max(here / 3, _LEAST_SQUARED), 3 * here))
        rows.append(row)
    found_of = np.array(rows).T if rows else np.empty((6, 0))
    return Blurs(
        centres_mm=centres_mm, squared=found_of[0], variance=found_of[1],
        shift_px=np.column_stack((found_of[2], found_of[3])) * per_px, contrast=found_of[4], left=found_of[5],
    )  # fmt: skip


def _transforms(
    found: FoundSheet, corners: NDArray[np.int_], per_px: int, side: int, own: float, *, exact: bool
) -> NDArray[np.complex64]:
    """Return the transforms of the page about each patch, blurred by what lens and sensor do everywhere alike."""
    from scipy.fft import rfft2

    whole = side + 2 * _PAD
    pages = np.stack([page_patch(found, corner - _PAD * per_px, per_px, whole, exact=exact) for corner in corners])
    alike = np.exp(-2 * math.pi**2 * own**2 * _radius(whole) ** 2).astype(np.float32)
    return np.asarray(rfft2(pages) * alike)


def signed_blur(found: FoundSheet, pose: Pose, fit: PlaneFit, centres_mm: Grid, per_px: int) -> tuple[Grid, Grid]:
    """Return the blur of each patch with its side, and how it grows from pixel to pixel, across and down."""
    lens = pose.in_lens(centres_mm)
    mark = pose.in_lens(np.array([found.sheet.mark_mm]))[0]
    plane, per_px_slope = fit.plane_z - fit.lean * mark[0], pose.pitch_mm / pose.image_mm
    leaning = np.array([-fit.lean / plane * per_px_slope, 0.0])  # the plane on the axis
    bending = 2 * fit.bend * per_px_slope * (lens[:, :2] / lens[:, 2:] - mark[:2] / mark[2])
    signed = fit.rate / per_px * (fit.nearness(lens, mark) - 1 / lens[:, 2])
    return signed, fit.rate * (leaning - pose.nearness_slope + bending)


_STEPS = 200  # of the table, to a period
_DISC = disc_kept(np.arange(int((MOST_PX + 8) * _STEPS)) / _STEPS).astype(np.float32)


@cache
def _radius(whole: int) -> Light:
    return np.asarray(np.hypot(np.fft.rfftfreq(whole)[None, :], np.fft.fftfreq(whole)[:, None]).astype(np.float32))


def _laid(transform: NDArray[np.complex64], squared: float) -> Light:
    from scipy.fft import irfft2

    whole = transform.shape[0]
    kept = _DISC[(math.sqrt(squared) * _STEPS * _radius(whole) + 0.5).astype(np.intp)]
    return np.asarray(irfft2(transform * kept, s=(whole, whole)))


def _one(light: Light, transform: NDArray[np.complex64], field: Grid) -> tuple[float, ...]:
    """Return squared blur, its variance, shift across and down, contrast and what is left, of one patch."""
    side = light.shape[0]
    squared = max(float(field.mean()), 0.1)
    more = squared + max(0.4, 0.15 * squared)
    whole, wider = _laid(transform, squared), _laid(transform, more)
    inner = slice(_PAD, _PAD + side)
    per_squared = ((wider - whole) / (more - squared))[inner, inner]
    across = ((whole[:, 2:] - whole[:, :-2]) / 2)[inner, _PAD - 1 : _PAD - 1 + side]
    down = ((whole[2:, :] - whole[:-2, :]) / 2)[_PAD - 1 : _PAD - 1 + side, inner]
    meant = whole[inner, inner] + per_squared * (field - squared).astype(np.float32)
    columns = (
        np.stack([meant, per_squared, across, down, np.ones_like(meant)], axis=-1).reshape(-1, 5).astype(np.float64)
    )
    target = light.reshape(-1).astype(np.float64)
    product = columns.T @ columns
    product[np.diag_indices(5)] += 1e-9 * np.trace(product)
    inverse = np.linalg.inv(product)
    answer = inverse @ (columns.T @ target)
    left = float(((target - columns @ answer) ** 2).sum()) / (len(target) - 5)
    contrast = answer[0] if abs(answer[0]) > 1e-6 else 1e-6
    return (
        squared + answer[1] / contrast, left * inverse[1, 1] / contrast**2, -answer[2] / contrast,
        -answer[3] / contrast, answer[0], math.sqrt(left),
    )  # fmt: skip


def _spanned(values: Grid) -> Grid:
    """Return values on a scale from -1 to 1."""
    low, high = float(values.min()), float(values.max())
    return (2 * values - low - high) / (high - low) if high > low else np.zeros_like(values)


def fit_parabola(
    blurs: Blurs, found: FoundSheet, pose: Pose, fit: PlaneFit, *, per_px: int, side: int, rate: tuple[float, float],
    curved: bool = False,
) -> PlaneFit | None:  # fmt: skip
    """Return the plane of focus that the blurs tell; None when too few do.

    Parameters
    ----------
    blurs
        Of the patches.
    found, pose
        The sheet, and how the camera stood.
    fit
        About where the plane is.
    per_px, side
        Pixels of the picture for one of the patches', and of those each way.
    rate
        What is known beforehand of the rate: its logarithm and the scatter of that.
    curved
        Whether the field may be curved; a plane is found more exactly where it may not.
    """
    lens = pose.in_lens(blurs.centres_mm)
    mark = pose.in_lens(np.array([found.sheet.mark_mm]))[0]
    contrast = float(np.median(blurs.contrast))
    good = (blurs.contrast > 0.5 * contrast) & (blurs.contrast < 2 * contrast) & np.isfinite(blurs.squared)
    if contrast <= 0 or good.sum() < 8:
        return None
    x, away = lens[good, 0] - mark[0], 1 / lens[good, 2]
    outward = off_axis(lens[good], mark)
    squared = blurs.squared[good]
    _, slopes = signed_blur(found, pose, fit, blurs.centres_mm[:1], per_px)
    spread = (slopes[0] ** 2).sum() * (side**2 - 1) / 12 / (fit.rate / per_px) ** 2
    scatter = np.sqrt(blurs.variance[good] + 0.02**2 + (0.03 * squared) ** 2)
    sag = (_USUAL_SAG if curved else _NO_SAG) / (math.hypot(*found.size_px) / 2 * pose.pitch_mm)
    deep = float(np.ptp(lens[good, 2])) or 1.0
    unit = np.array([deep, 0.1, 1.0, 1.0, _UNEVEN_ACROSS, _UNEVEN_ALONG, sag])
    across, along = (_spanned(one) for one in (x, away))

    def residuals(params: Grid) -> Grid:
        plane, lean, log_rate, own, uneven_across, uneven_along, bend = params
        apart = 1 / np.maximum(plane + lean * x, 1.0) + bend * outward - away
        meant = (math.exp(log_rate) / per_px) ** 2 * (apart**2 + spread) + own
        meant = meant + uneven_across * across + uneven_along * along
        return np.concatenate(((squared - meant) / scatter, [(log_rate - rate[0]) / rate[1]], (params / unit)[4:]))

    begin = np.array([fit.plane_z, fit.lean, math.log(fit.rate), 0.0, 0.0, 0.0, fit.bend])
    told = robust_fit(residuals, begin, unit, measured=int(good.sum()))
    plane, lean, log_rate, own = told.params[:4]
    return replace(
        fit, plane_z=float(plane), lean=float(lean), rate=math.exp(float(log_rate)),
        covariance=told.covariance[:4, :4], misfit=float(np.sqrt(np.mean(told.left**2))), patches=len(told.left),
        own_px=math.sqrt(max(fit.own_px**2 + float(own) * per_px**2 / 16, 0.0)),
        bend=float(told.params[6]), bend_error=math.sqrt(max(float(told.covariance[6, 6]), 0.0)),
    )  # fmt: skip
