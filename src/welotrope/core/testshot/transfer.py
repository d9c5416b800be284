"""What a picture kept of the detail of a sheet: its transfer of contrast, patch by patch.

What was printed is known. Each patch of the picture is compared with the same patch of the page, seen through the
homography: the part of each spatial frequency that was kept, by sign, is their cross spectrum over the power of the
page. Noise is not alike in both and averages out, so that a blurred patch in noise is not taken for a sharp one.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache, lru_cache

import numpy as np
from numpy.typing import NDArray

from welotrope.core.optics.elementwise import AnyArray
from welotrope.core.testshot.find_sheet import FoundSheet, mapped
from welotrope.core.testshot.sheets import CELL_MM, DOT_MM, Sheet, SheetKind, SheetPaper, dots_of, sheets_of

Grid = NDArray[np.float64]
_FINE, _EXACT, _DOTTED = 4, 7, 3  # points a pixel, each way, at which the page is looked up
_DOTS_FROM, _DOTS_TO = 0.65, 1.1  # cells to a pixel where few points, between dots, come nearest to the whole area
_SIZES = 7
BANDS = (1.5, 2.5, 3.5, 5.0, 7.0, 9.5, 12.5, 16.0, 20.0, 24.5, 29.0)  # limits, in periods across 64 pixels
_OF = 64
_UNKNOWN, _NEVER_LESS = 1e6, 1e-5  # variance where the page has nothing, and at least
SECTORS = 4  # directions of the frequencies, the first about horizontal


@dataclass(frozen=True, kw_only=True)
class Patches:
    """Patches of a picture compared with the page; one row a patch.

    Parameters
    ----------
    centres_mm
        On the page, shape (n, 2).
    per_px
        Pixels of the picture for one of the patch's.
    frequency
        Middle of each band, periods a pixel of the patch, shape (bands,).
    kept
        The share of contrast kept, by direction and band, but for one factor a patch, shape (n, sectors, bands).
    variance
        Of it, the same shape; huge where the page has nothing.
    shift_px
        How far each lies from where the homography puts it, pixels of the picture, shape (n, 2).
    likeness
        Correlation of patch and page at the best shift, 0 to 1.
    """

    centres_mm: Grid
    per_px: int
    frequency: Grid
    kept: Grid
    variance: Grid
    shift_px: Grid
    likeness: Grid


def compare(picture: AnyArray, found: FoundSheet, centres_mm: Grid, *, per_px: int, side: int, linear: bool) -> Patches:
    """Compare patches of a picture with the page.

    Parameters
    ----------
    picture
        Grey values, shape (height, width).
    found
        The sheet in it.
    centres_mm
        Middles of the patches on the page, shape (n, 2).
    per_px, side
        Pixels of the picture for one of a patch, and pixels of a patch each way.
    linear
        Whether the values stand for light as they are; otherwise they went through the usual tone curve.
    """
    size = side * per_px
    corners = np.rint(found.px(centres_mm) - (size - 1) / 2).astype(int)
    inside = ((corners >= 0) & (corners + size <= np.array(found.size_px))).all(axis=1)
    corners, centres_mm = corners[inside], centres_mm[inside]
    seen = (
        np.stack([light_patch(picture, corner, side, per_px, linear=linear) for corner in corners])
        if len(corners)
        else np.empty((0, side, side))
    )
    meant = np.stack([page_patch(found, corner, per_px, side) for corner in corners]) if len(corners) else seen
    return _compared(seen, meant, centres_mm, per_px)


def light_patch(
    picture: AnyArray, corner: NDArray[np.int_], side: int, per_px: int, *, linear: bool
) -> NDArray[np.float32]:
    """Return a patch of the picture as light, from its top left corner, each of its pixels the mean of several.

    Parameters
    ----------
    picture
        Grey values, shape (height, width), of 8 or 16 bits or as floats.
    corner
        Row and column of the patch's top left pixel.
    side
        Length of a patch's side, in its own pixels.
    per_px
        Pixels of the picture for one of a patch's.
    linear
        Whether grey values are in proportion to light, as in a raw file; else they follow the usual tone curve.
    """
    import cv2

    size = side * per_px
    light = light_of(picture[corner[1] : corner[1] + size, corner[0] : corner[0] + size], linear=linear)
    return light if per_px == 1 else np.asarray(cv2.resize(light, (side, side), interpolation=cv2.INTER_AREA))


def as_shares(picture: AnyArray) -> AnyArray:
    """Return grey values as they are where they have 8 bits, otherwise as shares of white, 0 to 1.

    What white is follows from the whole picture: a dark part of one with 16 bits is not one with 8.

    Parameters
    ----------
    picture
        Grey values, shape (height, width), of 8 or 16 bits or as floats.
    """
    if picture.dtype == np.uint8:
        return picture
    top = float(picture.max())
    white = 1.0 if top <= 1 else 255.0 if top <= 255 else 65535.0
    return np.clip(picture / np.float32(white), 0, 1).astype(np.float32)


def as_bytes(picture: AnyArray) -> NDArray[np.uint8]:
    """Return grey values as 8 bit, the brightest of a deeper picture white: markers are found in dark ones too.

    Parameters
    ----------
    picture
        Grey values, shape (height, width), of 8 or 16 bits or as floats.
    """
    if picture.dtype == np.uint8:
        return np.asarray(picture)
    top = float(picture.max()) or 1.0
    return np.asarray(np.clip(picture * (255 / top), 0, 255), dtype=np.uint8)


def light_of(piece: AnyArray, *, linear: bool) -> NDArray[np.float32]:
    """Return part of a picture, of 8 bits or from :func:`as_shares`, as light, 0 to 1.

    Parameters
    ----------
    piece
        Part of the picture: 8 bit, or shares of white from 0 to 1.
    linear
        Whether grey values are in proportion to light, as in a raw file; else they follow the usual tone curve.
    """
    if piece.dtype == np.uint8:
        return light_table(linear=linear)[piece]
    return np.asarray(piece) if linear else _untoned(np.asarray(piece))


@cache
def light_table(*, linear: bool) -> NDArray[np.float32]:
    """Return the light, 0 to 1, of each of 256 grey values; ``linear`` as in :func:`light_of`.

    Parameters
    ----------
    linear
        Whether grey values are in proportion to light, as in a raw file; else they follow the usual tone curve.
    """
    share = (np.arange(256) / 255).astype(np.float32)
    return share if linear else _untoned(share)


def _untoned(share: NDArray[np.float32]) -> NDArray[np.float32]:
    """Return light behind the tone curve of the usual colour space (IEC 61966-2-1)."""
    return np.where(share <= 0.04045, share / 12.92, ((share + 0.055) / 1.055) ** 2.4).astype(np.float32)


def _pages(sheet: Sheet) -> list[NDArray[np.uint8]]:
    """Return the page at one value a cell, and halved again and again."""
    return _pages_of(sheet.kind, sheet.paper, sheet.number)


@lru_cache(maxsize=12)  # more than the sheets of a row or wall
def _pages_of(kind: SheetKind, paper: SheetPaper, number: int) -> list[NDArray[np.uint8]]:
    pages = [_shrunk(dots_of(_sheet(kind, paper, number)), 3)]
    for _ in range(_SIZES - 1):
        pages.append(_shrunk(pages[-1], 2))
    return pages


def _dots(sheet: Sheet) -> NDArray[np.uint8]:
    return _dots_of(sheet.kind, sheet.paper, sheet.number)


@lru_cache(maxsize=2)  # tens of megabytes each
def _dots_of(kind: SheetKind, paper: SheetPaper, number: int) -> NDArray[np.uint8]:
    return dots_of(_sheet(kind, paper, number))


def _sheet(kind: SheetKind, paper: SheetPaper, number: int) -> Sheet:
    return next(one for one in sheets_of(kind, paper) if one.number == number)


def _shrunk(page: NDArray[np.uint8], by: int) -> NDArray[np.uint8]:
    import cv2

    height, width = (side // by for side in page.shape)
    return np.asarray(cv2.resize(page[: height * by, : width * by], (width, height), interpolation=cv2.INTER_AREA))


def page_patch(
    found: FoundSheet, corner: NDArray[np.int_], per_px: int, side: int, *, exact: bool = False
) -> NDArray[np.float32]:
    """Return a patch of the page as the picture's pixels would see it without blur, 0 for ink to 1 for paper.

    ``exact`` looks up more points where the cells of the page are large.

    Parameters
    ----------
    found
        The sheet as it lies in the picture.
    corner
        Row and column of the patch's top left pixel.
    per_px
        Pixels of the picture for one of a patch's.
    side
        Length of a patch's side, in its own pixels.
    exact
        Whether to take longer and look closer.
    """
    import cv2

    to_mm = np.asarray(np.linalg.inv(found.to_px), dtype=np.float64)
    middle = corner + (side * per_px - 1) / 2
    ends = mapped(to_mm, middle + per_px * np.array([[0, 0], [1, 0], [0, 1.0]]))
    pixel_mm = min(np.linalg.norm(ends[1] - ends[0]), np.linalg.norm(ends[2] - ends[0]))
    level = int(np.clip(np.floor(np.log2(pixel_mm / _FINE / CELL_MM)), 0, _SIZES - 1))
    page, page_mm, fine = _pages(found.sheet)[level], CELL_MM * 2**level, _EXACT if exact and level == 0 else _FINE
    between = level > 0
    if exact and _DOTS_FROM < pixel_mm / CELL_MM < _DOTS_TO:
        page, page_mm, fine, between = _dots(found.sheet), DOT_MM, _DOTTED, True
    step = per_px / fine
    to_picture = np.array([[step, 0, corner[0] - 0.5 + step / 2], [0, step, corner[1] - 0.5 + step / 2], [0, 0, 1.0]])
    to_page = np.array([[1 / page_mm, 0, -0.5], [0, 1 / page_mm, -0.5], [0, 0, 1.0]]) @ to_mm @ to_picture
    points = cv2.warpPerspective(
        page, to_page, (side * fine, side * fine), borderMode=cv2.BORDER_REPLICATE,
        flags=cv2.WARP_INVERSE_MAP | (cv2.INTER_LINEAR if between else cv2.INTER_NEAREST),
    )  # fmt: skip
    mean = cv2.resize(points, (side, side), interpolation=cv2.INTER_AREA)
    return np.asarray(mean, dtype=np.float32) / np.float32(255)


@cache
def _window(side: int) -> NDArray[np.float32]:
    one = np.hanning(side + 2)[1:-1]
    return np.asarray(np.outer(one, one), dtype=np.float32)


@cache
def _places(side: int) -> tuple[Grid, Grid, NDArray[np.intp], Grid]:
    """Return a transform's frequencies across and down, their place among sectors and bands, the bands' middles."""
    across, down = np.meshgrid(np.fft.rfftfreq(side), np.fft.fftfreq(side))
    radius = np.hypot(across, down)
    limits = np.array(BANDS) / _OF
    band = np.digitize(radius, limits) - 1
    sector = np.rint(np.arctan2(down, across) / (np.pi / SECTORS)).astype(int) % SECTORS
    place = np.where((band >= 0) & (band < len(limits) - 1), sector * (len(limits) - 1) + band, -1)
    middles = np.array(
        [radius[band == one].mean() if (band == one).any() else np.nan for one in range(len(limits) - 1)]
    )
    return across, down, place, middles


def _compared(seen: AnyArray, meant: AnyArray, centres_mm: Grid, per_px: int) -> Patches:
    side = meant.shape[-1]
    across, down, place, middles = _places(side)
    window = _window(side)
    both = [np.fft.rfft2((one - one.mean(axis=(1, 2), keepdims=True)) * window) for one in (seen, meant)]
    picture, page = both
    shift, likeness = _shifts(picture, page, side)
    turn = np.exp(2j * np.pi * (across * shift[:, 0, None, None] + down * shift[:, 1, None, None]))
    cross, power, energy = (page.conj() * picture * turn).real, np.abs(page) ** 2, np.abs(picture) ** 2
    count = SECTORS * (len(BANDS) - 1)
    flat = place.ravel()
    used = flat >= 0
    sums = np.zeros((3, len(seen), count))
    order = np.argsort(flat[used], kind="stable")
    starts = np.searchsorted(flat[used][order], np.arange(count))
    numbers = np.bincount(flat[used], minlength=count)
    for index, grid in enumerate((cross, power, energy)):
        held = grid.reshape(len(seen), -1)[:, used][:, order]
        sums[index] = np.where(numbers > 0, np.add.reduceat(held, np.minimum(starts, held.shape[1] - 1), axis=1), 0.0)
    crossed, powered, energetic = sums
    known = powered > 1e-6
    kept = np.divide(crossed, powered, out=np.zeros_like(crossed), where=known)
    rest = np.maximum(energetic - kept * crossed, 0) / np.maximum(numbers, 1)
    variance = np.divide(rest, 2 * powered, out=np.full_like(rest, _UNKNOWN), where=known) + _NEVER_LESS
    shape = (len(seen), SECTORS, len(BANDS) - 1)
    return Patches(
        centres_mm=centres_mm, per_px=per_px, frequency=middles, kept=kept.reshape(shape),
        variance=variance.reshape(shape), shift_px=shift * per_px, likeness=likeness,
    )  # fmt: skip


def _shifts(picture: AnyArray, page: AnyArray, side: int) -> tuple[Grid, Grid]:
    """Return how far each patch lies from its page, its own pixels, and how alike they are there."""
    likeness = np.fft.irfft2(page.conj() * picture, s=(side, side))
    norm = np.sqrt(
        (np.abs(np.fft.irfft2(np.abs(page) ** 2, s=(side, side))[:, 0, 0]))
        * np.fft.irfft2(np.abs(picture) ** 2, s=(side, side))[:, 0, 0]
    )
    reach = side // 4
    rolled = np.roll(likeness, (reach, reach), axis=(1, 2))[:, : 2 * reach + 1, : 2 * reach + 1]
    best = rolled.reshape(len(rolled), -1).argmax(axis=1)
    row, column = np.divmod(best, 2 * reach + 1)
    every = np.arange(len(rolled))
    peak = rolled[every, row, column]
    shifts = np.empty((len(rolled), 2))
    for axis, (at, step) in enumerate(((column, (0, 1)), (row, (1, 0)))):
        before, after = (
            rolled[every, np.clip(row + sign * step[0], 0, 2 * reach), np.clip(column + sign * step[1], 0, 2 * reach)]
            for sign in (-1, 1)
        )
        bend = before - 2 * peak + after
        part = np.divide(before - after, 2 * bend, out=np.zeros_like(peak), where=bend != 0)
        shifts[:, axis] = at - reach + np.clip(part, -0.5, 0.5)
    return shifts, np.divide(peak, norm, out=np.zeros_like(peak), where=norm > 0)
