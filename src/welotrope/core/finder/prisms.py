"""What prisms in a screen and the mirrors of a rangefinder do to the middle of the picture.

A wedge of deviation ``d`` moves its half of the picture by ``δ·tan d`` for a layer imaged ``δ`` behind the screen,
the other half by as much the other way, so that the two part by ``2·δ·tan d``. It passes only a thin pencil of
light, so the picture in it has the depth of the stop at which it goes dark.
"""

from __future__ import annotations

import functools
import math
from dataclasses import replace

import cv2
import numpy as np
from numpy.typing import NDArray

from welotrope.core.finder.canvas import View
from welotrope.core.finder.light import Picture, coded, light_of
from welotrope.core.finder.stage import Focus, Shift, Stage
from welotrope.core.optics.wedge import wedge_limit

# In picture units.
SPLIT_RADIUS, MICROPRISM_RADIUS, COLLAR_RADIUS, PATCH_SIZE = 1.7, 1.8, 2.5, (4.8, 3.2)
# Inner and outer radius of a patch of prisms, and of one round a split.
SPOT, COLLAR = (0.0, MICROPRISM_RADIUS), (SPLIT_RADIUS, COLLAR_RADIUS)
FACET = 0.08
_ROOM_PX = 16
_DARK = 0.96
_AMBER = 0.65  # share of blue that the mirror of a rangefinder lets through


def split_image(
    stage: Stage, frame: Picture, view: View, focus: Focus, deviation_deg: float, dark: float, along_deg: float
) -> None:
    """Draw a split image into the middle of a frame; its split runs ``along_deg`` degrees from level.

    ``dark`` is how dark one half has gone, 0 to 1.

    Parameters
    ----------
    stage
        The scene before the lens.
    frame
        Picture of the finder, BGR, 8 bit, shape (height, width, 3); changed in place.
    view
        Which part of the frame is looked at, and how large.
    focus
        Where the lens is focused, and its stop.
    deviation_deg
        Angle in degrees by which a prism bends light.
    dark
        How dark one half has gone, 0 to 1.
    along_deg
        Direction of the split in degrees from level.
    """
    radius = _pixels(SPLIT_RADIUS, view)
    patch = _patch(view, radius)
    thin = replace(focus, stop=max(focus.stop, wedge_limit(deviation_deg)))
    along = math.cos(math.radians(along_deg)), math.sin(math.radians(along_deg))
    ways = (along, (-along[0], -along[1]))
    halves = stage.render_parted(patch, thin, [wedge_shift(stage, focus, deviation_deg, way) for way in ways])
    upper, lower = _half_masks(radius, along_deg)
    _put(frame, halves[0], upper)
    _put(frame, cv2.convertScaleAbs(halves[1], alpha=1 - _DARK * dark), lower)
    cx, cy = frame.shape[1] / 2, frame.shape[0] / 2
    ends = [(round(cx + s * along[0] * radius), round(cy + s * along[1] * radius)) for s in (-1, 1)]
    cv2.line(frame, ends[0], ends[1], (30, 30, 30), 1, cv2.LINE_AA)
    cv2.circle(frame, (round(cx), round(cy)), radius, (30, 30, 30), 1, cv2.LINE_AA)


def microprism(
    stage: Stage,
    frame: Picture,
    view: View,
    focus: Focus,
    deviation_deg: float,
    dark: float,
    *,
    inner: float = 0.0,
    outer: float = MICROPRISM_RADIUS,
) -> None:
    """Draw a field of small four-sided prisms into the middle of a frame, between two radii in picture units.

    Parameters
    ----------
    stage
        The scene before the lens.
    frame
        Picture of the finder, BGR, 8 bit, shape (height, width, 3); changed in place.
    view
        Which part of the frame is looked at, and how large.
    focus
        Where the lens is focused, and its stop.
    deviation_deg
        Angle in degrees by which a prism bends light.
    dark
        How dark one half has gone, 0 to 1.
    inner
        Radius in picture units at which the field begins.
    outer
        Radius in picture units at which the field ends.
    """
    inner_px, outer_px, facet_px = (_pixels(size, view) for size in (inner, outer, FACET))
    facet_px = max(facet_px, 4)
    patch = _patch(view, outer_px)
    thin = replace(focus, stop=max(focus.stop, wedge_limit(deviation_deg)))
    ways = ((1.0, 0.0), (-1.0, 0.0), (0.0, 1.0), (0.0, -1.0))
    shown = stage.render_parted(patch, thin, [wedge_shift(stage, focus, deviation_deg, way) for way in ways])
    for index, (picture, mask) in enumerate(zip(shown, _facet_masks(inner_px, outer_px, facet_px), strict=True)):
        _put(frame, cv2.convertScaleAbs(picture, alpha=1 - _DARK * dark) if index % 2 and dark else picture, mask)


def wedge_shift(stage: Stage, focus: Focus, deviation_deg: float, way: tuple[float, float]) -> Shift:
    """Return what a wedge that bends light along ``way`` (right, down) does to each layer, mm on the screen.

    Parameters
    ----------
    stage
        The scene before the lens.
    focus
        Where the lens is focused, and its stop.
    deviation_deg
        Angle in degrees by which a prism bends light.
    way
        Direction that light is bent in: right and down.
    """
    bend = math.tan(math.radians(deviation_deg))

    def shift(index: int) -> tuple[float, float]:
        amount = stage.defocus_mm(index, focus) * bend
        return amount * way[0], amount * way[1]

    return shift


def rangefinder_patch(
    stage: Stage, frame: Picture, view: View, focus: Focus, ring_mm: float, base_mm: float, off_rad: float,
    *, upright: bool = False,
) -> None:  # fmt: skip
    """Lay the second picture of a rangefinder over the middle of a frame, half and half.

    A layer at ``s`` is displaced by ``base·(1/s − 1/s_ring) − off`` radians: nothing when the ring stands on it.
    Along the camera, which is level in the scene, or plumb when the camera is held ``upright``.

    Parameters
    ----------
    stage
        The scene before the lens.
    frame
        Picture of the finder, BGR, 8 bit, shape (height, width, 3); changed in place.
    view
        Which part of the frame is looked at, and how large.
    focus
        Where the lens is focused, and its stop.
    ring_mm
        Object distance in mm that the ring stands at.
    base_mm
        Base of the rangefinder in mm.
    off_rad
        Error of the rangefinder in radians.
    upright
        Whether the camera is held upright.
    """
    width, height = (2 * _pixels(size / 2, view) for size in (PATCH_SIZE[::-1] if upright else PATCH_SIZE))
    patch = replace(view, width_px=width, height_px=height)

    def shift(index: int) -> tuple[float, float]:
        s = stage.distance(index, focus)
        angle = base_mm * (1 / s - 1 / ring_mm) - off_rad
        return (0.0, angle * stage.focal_mm) if upright else (angle * stage.focal_mm, 0.0)

    second = stage.render(patch, focus, shift=shift)
    y, x = (frame.shape[0] - height) // 2, (frame.shape[1] - width) // 2
    under = frame[y : y + height, x : x + width]
    mixed = (light_of(under) + light_of(second)) / np.float32(2)
    mixed[0] *= _AMBER
    under[:] = coded(mixed)


def _pixels(units: float, view: View) -> int:
    return round(units / view.units_per_px)


def _patch(view: View, radius: int) -> View:
    """Return the view of a disc in the middle of a frame, with room for what prisms move into it."""
    side = 2 * radius + 2 * _ROOM_PX
    return replace(view, width_px=side, height_px=side)


def _put(frame: Picture, patch: object, where: Picture) -> None:
    side = where.shape[0]
    y, x = (frame.shape[0] - side) // 2, (frame.shape[1] - side) // 2
    middle = np.asarray(patch, np.uint8)[_ROOM_PX : _ROOM_PX + side, _ROOM_PX : _ROOM_PX + side]
    cv2.copyTo(middle, where, frame[y : y + side, x : x + side])


@functools.lru_cache(maxsize=16)
def _half_masks(radius: int, along_deg: float) -> tuple[Picture, Picture]:
    """Masks of the two halves of a disc parted by a line at ``along_deg`` from level, the upper first."""
    y, x = _grid(radius)
    inside = x**2 + y**2 < radius**2
    above = x * math.sin(math.radians(along_deg)) - y * math.cos(math.radians(along_deg)) > 0
    return _mask(inside & above), _mask(inside & ~above)


@functools.lru_cache(maxsize=16)
def _facet_masks(inner_px: int, outer_px: int, facet_px: int) -> tuple[Picture, ...]:
    """Masks of the four sides of the prisms in a ring between two radii: right, left, lower, upper."""
    y, x = _grid(outer_px)
    squares = x**2 + y**2
    ring = (squares < outer_px**2) & (squares >= inner_px**2)
    u = (x + outer_px - 0.5) % facet_px - (facet_px - 1) / 2
    v = (y + outer_px - 0.5) % facet_px - (facet_px - 1) / 2
    level = np.abs(u) > np.abs(v)
    return tuple(
        _mask(ring & side) for side in (level & (u > 0), level & (u <= 0), ~level & (v > 0), ~level & (v <= 0))
    )


def _grid(radius: int) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    y, x = np.mgrid[0 : 2 * radius, 0 : 2 * radius] - (radius - 0.5)
    return y, x


def _mask(where: NDArray[np.bool_]) -> Picture:
    return where.astype(np.uint8) * np.uint8(255)
