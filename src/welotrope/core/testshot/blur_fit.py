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
from welotrope.core.testshot.plane_fit import PlaneFit, disc_kept, off_axis, robust_fit
from welotrope.core.testshot.pose import Pose
from welotrope.core.testshot.transfer import light_patch, page_patch

Grid = NDArray[np.float64]
Light = NDArray[np.float32]
SIDE, SMALL_SIDE, _PAD = 48, 24, 8
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
    """Return the blur of each patch, from about where the plane of focus is; ``exact`` takes longer.

    Parameters
    ----------
    picture
        Grey values, shape (height, width), of 8 or 16 bits or as floats.
    found
        The sheet as it lies in the picture.
    pose
        How the camera stood before the sheet.
    fit
        The plane of focus as it is known so far.
    centres_mm
        Middles of the patches on the page in mm, shape (n, 2).
    per_px
        Pixels of the picture for one of a patch's.
    side
        Length of a patch's side, in its own pixels.
    linear
        Whether grey values are in proportion to light, as in a raw file; else they follow the usual tone curve.
    exact
        Whether to take longer and look closer.
    """
    corners = np.rint(found.px(centres_mm) - (side * per_px - 1) / 2).astype(int)
    signed, slopes = signed_blur(found, pose, fit, centres_mm, per_px)
    axis = np.arange(side) - (side - 1) / 2
    field = signed[:, None, None] + slopes[:, 0, None, None] * axis + slopes[:, 1, None, None] * axis[:, None]
    transforms = _transforms(found, corners, per_px, side, fit.own_px / per_px, exact=exact)
    lights = _lights(picture, corners, per_px, side, linear=linear)
    return _blurs(centres_mm, _found(lights, transforms, field**2), per_px)


def blurs_alone(
    picture: AnyArray, found: FoundSheet, centres_mm: Grid, squared: float, *, own_px: float, per_px: int, side: int,
    linear: bool,
) -> Blurs:  # fmt: skip
    """Return the blur of each patch by itself, where nothing says how it grows; as in :func:`lay_on`.

    Parameters
    ----------
    picture, found, centres_mm, per_px, side, linear
        As in :func:`lay_on`.
    squared
        About how blurred they are, the square of a diameter, squared px of the patch.
    own_px
        What lens and sensor blur of themselves, a standard deviation, px of the picture.
    """
    corners = np.rint(found.px(centres_mm) - (side * per_px - 1) / 2).astype(int)
    transforms = _transforms(found, corners, per_px, side, own_px / per_px, exact=False)
    lights = _lights(picture, corners, per_px, side, linear=linear)
    here = np.full((len(corners), 1, 1), max(squared, _LEAST_SQUARED))
    for _ in range(_ROUNDS):
        rows = _found(lights, transforms, here)
        here = np.clip(rows[0][:, None, None], np.maximum(here / 3, _LEAST_SQUARED), 3 * here)
    return _blurs(centres_mm, rows, per_px)


def _blurs(centres_mm: Grid, rows: Grid, per_px: int) -> Blurs:
    return Blurs(
        centres_mm=centres_mm, squared=rows[0], variance=rows[1], shift_px=rows[2:4].T * per_px, contrast=rows[4],
        left=rows[5],
    )  # fmt: skip


def _lights(picture: AnyArray, corners: NDArray[np.int_], per_px: int, side: int, *, linear: bool) -> Light:
    if not len(corners):
        return np.empty((0, side, side), np.float32)
    return np.stack([light_patch(picture, corner, side, per_px, linear=linear) for corner in corners])


def _transforms(
    found: FoundSheet, corners: NDArray[np.int_], per_px: int, side: int, own: float, *, exact: bool
) -> NDArray[np.complex64]:
    """Return the transforms of the page about each patch, blurred by what lens and sensor do everywhere alike."""
    from scipy.fft import rfft2

    whole = side + 2 * _PAD
    if not len(corners):
        return np.empty((0, whole, whole // 2 + 1), np.complex64)
    pages = np.stack([page_patch(found, corner - _PAD * per_px, per_px, whole, exact=exact) for corner in corners])
    alike = np.exp(-2 * math.pi**2 * own**2 * _radius(whole) ** 2).astype(np.float32)
    return np.asarray(rfft2(pages) * alike)


def signed_blur(found: FoundSheet, pose: Pose, fit: PlaneFit, centres_mm: Grid, per_px: int) -> tuple[Grid, Grid]:
    """Return the blur of each patch with its side, and how it grows from pixel to pixel, across and down.

    Parameters
    ----------
    found
        The sheet as it lies in the picture.
    pose
        How the camera stood before the sheet.
    fit
        The plane of focus as it is known so far.
    centres_mm
        Middles of the patches on the page in mm, shape (n, 2).
    per_px
        Pixels of the picture for one of a patch's.
    """
    lens = pose.in_lens(centres_mm)
    mark = pose.in_lens(np.array([found.sheet.mark_mm]))[0]
    plane, per_px_slope = fit.plane_z - fit.lean * mark[0], pose.pitch_mm / pose.image_mm
    leaning = np.array([-fit.lean / plane * per_px_slope, 0.0])  # the plane on the axis
    bending = 2 * fit.bend * per_px_slope * (lens[:, :2] / lens[:, 2:] - mark[:2] / mark[2])
    signed = fit.rate / per_px * (fit.nearness(lens, mark) - 1 / lens[:, 2])
    return signed, fit.rate * (leaning - pose.nearness_slope + bending)


_STEPS = 200  # of the table, to a period


@cache
def _disc() -> NDArray[np.float32]:
    """Return what a disc keeps at steps of a period, made once and only where a picture is measured."""
    return disc_kept(np.arange(int((MOST_PX + 8) * _STEPS)) / _STEPS).astype(np.float32)


@cache
def _radius(whole: int) -> Light:
    return np.asarray(np.hypot(np.fft.rfftfreq(whole)[None, :], np.fft.fftfreq(whole)[:, None]).astype(np.float32))


def _laid(transforms: NDArray[np.complex64], squared: Grid) -> Light:
    """Return pages, shape (n, whole, whole), blurred by discs of diameters of these squares, shape (n,)."""
    from scipy.fft import irfft2

    whole = transforms.shape[1]
    steps = (np.sqrt(squared) * _STEPS).astype(np.float32)
    kept = _disc()[(steps[:, None, None] * _radius(whole) + np.float32(0.5)).astype(np.int32)]
    return np.asarray(irfft2(transforms * kept, s=(whole, whole)))


def _found(lights: Light, transforms: NDArray[np.complex64], fields: Grid) -> Grid:
    """Return squared blur, its variance, shift across and down, contrast and what is left, shape (6, n).

    Parameters
    ----------
    lights
        The patches as light, shape (n, side, side).
    transforms
        Of the page about each.
    fields
        About the square of the blur of each pixel, shape (n, side, side) or (n, 1, 1).
    """
    count, side = len(lights), lights.shape[-1]
    squared = np.maximum(fields.mean(axis=(1, 2)), 0.1)
    more = squared + np.maximum(0.4, 0.15 * squared)
    whole, wider = _laid(transforms, squared), _laid(transforms, more)
    inner, before, after = (slice(_PAD + k, _PAD + k + side) for k in (0, -1, 1))
    page = whole[:, inner, inner]
    columns = np.empty((5, count, side, side), np.float32)
    columns[1] = (wider[:, inner, inner] - page) / (more - squared).astype(np.float32)[:, None, None]
    columns[0] = page + columns[1] * (fields - squared[:, None, None]).astype(np.float32)
    columns[2] = (whole[:, inner, after] - whole[:, inner, before]) / 2
    columns[3] = (whole[:, after, inner] - whole[:, before, inner]) / 2
    columns[4] = 1.0
    each = columns.reshape(5, count, -1).transpose(1, 0, 2).astype(np.float64)
    target = lights.reshape(count, -1).astype(np.float64)
    product = each @ each.transpose(0, 2, 1)
    product += 1e-9 * np.trace(product, axis1=1, axis2=2)[:, None, None] * np.eye(5)
    inverse = np.linalg.inv(product)
    answer = (inverse @ (each @ target[:, :, None]))[:, :, 0]
    rest = target - (answer[:, None, :] @ each)[:, 0, :]
    left = (rest**2).sum(axis=1) / (side**2 - 5)
    contrast = np.where(np.abs(answer[:, 0]) > 1e-6, answer[:, 0], 1e-6)
    return np.stack([
        squared + answer[:, 1] / contrast, left * inverse[:, 1, 1] / contrast**2, -answer[:, 2] / contrast,
        -answer[:, 3] / contrast, answer[:, 0], np.sqrt(left),
    ])  # fmt: skip


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
