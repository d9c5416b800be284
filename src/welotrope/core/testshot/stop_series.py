"""One flat, detailed subject at each stop: which is the sharpest, in the middle, at the edge and in the corners.

Tiles of the picture are compared with themselves from stop to stop, so that it does not matter what each shows. Noise
is not alike in two pictures: what one tile has in common in pairs of them is the subject, as each stop kept it. Of a
table of what all pairs have in common the share of each picture follows, and noise has no part in it. What counts is
the share kept of fine detail over that of coarse detail; the interval is over the tiles.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from welotrope.core.errors import OutOfRangeError
from welotrope.core.fields import PICTURES
from welotrope.core.optics.elementwise import AnyArray
from welotrope.core.picture.shake import highest_within
from welotrope.core.testshot.facing import TILE_PX, by_band, frequencies, tile_transforms
from welotrope.core.testshot.transfer import as_shares

Grid = NDArray[np.float64]
LEAST_PICTURES = 3
_COLUMNS, _ROWS = 15, 10
_COARSE, _FINE = slice(0, 2), slice(3, 6)
_WIDE = 1.96
_SMALL_PX = 600
_LEAST_TILES = 4
_ROUNDS = 12
_REACH_PX = 6
_SIDE, _SURE, _LEAST_APART = 0.5, 2.58, 0.1  # share of half the width; standard errors; logarithm of what is kept
_LEAST_KEPT, _TOLD_BANDS = 0.25, 6  # share of a band, and bands, that tell how large blur is
_CLEAR = 0.08  # share of a tile's fine power in the sharpest picture that must be the subject's


class PictureZone(StrEnum):
    """A part of the picture, by how far it lies from the middle."""

    CENTRE = "centre"
    EDGE = "edge"
    CORNER = "corner"


# Shares of half the diagonal.
ZONES: Mapping[PictureZone, tuple[float, float]] = {
    PictureZone.CENTRE: (0.0, 0.33), PictureZone.EDGE: (0.45, 0.75), PictureZone.CORNER: (0.78, 1.01),
}  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class StopScore:
    """How sharp a zone is at a stop, 1 for its best, with its 95 % interval."""

    stop: float
    score: float
    low: float
    high: float


@dataclass(frozen=True, kw_only=True)
class Ranged:
    """A value with its 95 % interval."""

    value: float
    low: float
    high: float


@dataclass(frozen=True, kw_only=True)
class Sides:
    """How much of its fine detail each side of the picture keeps at the widest stop, 1 as at its best.

    ``softer`` is the side that keeps less, where that is sure; empty otherwise.
    """

    left: float
    right: float
    softer: str


@dataclass(frozen=True, kw_only=True)
class StopReading:
    """Which stop is sharpest, where the interval leaves at most its neighbours beside it; None otherwise.

    ``wide_blur_px`` is how much more the lens blurs at the widest stop than at the sharpest of a zone: the diameter of
    a disc, pixels. ``sides`` is None where there is too little detail on one of them; ``width_px`` is the longer side
    of the pictures.
    """

    best_centre: float | None
    best_corner: float | None
    zones: Mapping[PictureZone, tuple[StopScore, ...]]
    wide_blur_px: Mapping[PictureZone, Ranged] = field(default_factory=dict)
    sides: Sides | None = None
    width_px: int = 0
    warnings: tuple[str, ...] = ()


@dataclass(frozen=True, kw_only=True)
class StopShot:
    """A picture at a stop, as what is needed of it: the transforms of its tiles, and its size."""

    stop: float
    tiles: NDArray[np.complex64]
    size_px: tuple[int, int]


def tiles_of(size_px: tuple[int, int]) -> NDArray[np.int_]:
    """Return the top left corners of the tiles of a picture, clear of its border, shape (n, 2).

    Parameters
    ----------
    size_px
        Width and height of the picture in pixels.
    """
    width, height = size_px
    border = TILE_PX // 4
    if min(size_px) < 4 * TILE_PX:
        raise OutOfRangeError(
            PICTURES, f"{width} × {height} px", "that is too small to be measured", "Take larger ones"
        )
    across, down = (
        np.linspace(border, length - TILE_PX - border, count).astype(int)
        for length, count in ((width, min(_COLUMNS, width // TILE_PX)), (height, min(_ROWS, height // TILE_PX)))
    )
    return np.array([(x, y) for y in down for x in across])


class StopSeries:
    """The pictures of a series, one after another; the first is what the others are laid on."""

    def __init__(self) -> None:
        self.shots: list[StopShot] = []
        self._small: NDArray[np.float32] | None = None

    def add(self, picture: AnyArray, stop: float) -> None:
        """Take a picture at a stop.

        Raises
        ------
        OutOfRangeError
            When it is too small, or of another size than the first.
        """
        height, width = picture.shape
        corners = tiles_of((width, height))
        small = _small(picture)
        if self._small is None:
            self._small = small
        if self.shots and self.shots[0].size_px != (width, height):
            read = " and ".join(f"{w} × {h}" for w, h in (self.shots[0].size_px, (width, height)))
            raise OutOfRangeError(PICTURES, read, "the pictures are of different sizes", "Take all with one setting")
        corners = corners + np.rint(_shift(self._small, small) * max(picture.shape) / _SMALL_PX).astype(int)
        tiles = tile_transforms(as_shares(picture), np.clip(corners, 0, np.array([width, height]) - TILE_PX))
        if self.shots:
            tiles = _laid_on(self.shots[0].tiles, tiles)
        self.shots.append(StopShot(stop=stop, tiles=tiles, size_px=(width, height)))

    def read(self) -> StopReading:
        """Return which stop is the sharpest, zone by zone.

        Raises
        ------
        OutOfRangeError
            When there are too few pictures, or two of one stop.
        """
        shots = sorted(self.shots, key=lambda one: one.stop)
        _check([one.stop for one in shots])
        shares = _shares(shots)
        kept, clear = _kept(shares)
        radius = _radius(shots[0].size_px)
        blurs: dict[PictureZone, Ranged] = {}
        zones: dict[PictureZone, tuple[StopScore, ...]] = {}
        best: dict[PictureZone, float | None] = {}
        warnings = []
        for zone, (inner, outer) in ZONES.items():
            chosen = (radius >= inner) & (radius < outer) & clear
            if chosen.sum() < _LEAST_TILES:
                zones[zone], best[zone] = (), None
                warnings.append(
                    f"There is too little detail in the {zone.value} to compare stops. Take a subject with more."
                )
                continue
            zones[zone], best[zone] = compared([one.stop for one in shots], kept[:, chosen])
            blurs[zone] = _wide_blur(shares, kept, chosen)
        return StopReading(
            best_centre=best[PictureZone.CENTRE], best_corner=best[PictureZone.CORNER], zones=zones,
            wide_blur_px=blurs, sides=_sides(kept, clear, shots[0].size_px),
            width_px=max(shots[0].size_px), warnings=tuple(warnings),
        )  # fmt: skip


def _small(picture: AnyArray) -> NDArray[np.float32]:
    import cv2

    scale = _SMALL_PX / max(picture.shape)
    return np.asarray(cv2.resize(picture, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA), dtype=np.float32)


def _shift(first: NDArray[np.float32], here: NDArray[np.float32]) -> Grid:
    """Return how far a small picture is shifted against another, right and down, its pixels."""
    import cv2

    if first.shape != here.shape:
        return np.zeros(2)
    window = cv2.createHanningWindow((here.shape[1], here.shape[0]), cv2.CV_32F)
    found, sure = cv2.phaseCorrelate(first, here, window)
    return np.array(found) if sure > 0.05 else np.zeros(2)


def _laid_on(first: NDArray[np.complex64], here: NDArray[np.complex64]) -> NDArray[np.complex64]:
    """Return tiles turned in phase so that they lie on those of the first picture, to parts of a pixel."""
    across, down = np.meshgrid(np.fft.rfftfreq(TILE_PX), np.fft.fftfreq(TILE_PX))
    for _ in range(2):
        likeness = np.fft.irfft2((first.conj() * here).sum(axis=0), s=(TILE_PX, TILE_PX))
        shift = highest_within(likeness, _REACH_PX)
        if shift is None:
            return here
        x, y = shift
        here = (here * np.exp(2j * np.pi * (across * x + down * y))).astype(np.complex64)
    return here


def _check(stops: Sequence[float]) -> None:
    if len(stops) < LEAST_PICTURES:
        raise OutOfRangeError(
            PICTURES, len(stops), "that is too few to compare", f"Take one at each stop, {LEAST_PICTURES} at least"
        )
    twice = next((stop for stop in stops if stops.count(stop) > 1), None)
    if twice is not None:
        raise OutOfRangeError(PICTURES, f"f/{twice:g}", "that stop is there twice", "Send one picture of each stop")


@dataclass(frozen=True, kw_only=True)
class _Shares:
    """What each stop kept of each tile by band, (bands, stops, tiles); the tiles' power, (stops, tiles, bands)."""

    by_band: Grid
    fine: Grid
    coarse: Grid
    power: Grid


def _shares(shots: Sequence[StopShot]) -> _Shares:
    count = len(shots)
    common = np.zeros((count, count, len(shots[0].tiles), len(frequencies())))
    for i in range(count):
        for j in range(i, count):
            common[i, j] = common[j, i] = by_band((shots[i].tiles.conj() * shots[j].tiles).real)
    return _Shares(
        by_band=np.stack([_share_of_each(common[..., band]) for band in range(common.shape[-1])]),
        fine=_share_of_each(common[..., _FINE].mean(axis=-1)),
        coarse=_share_of_each(common[..., _COARSE].mean(axis=-1)),
        power=np.stack([common[k, k] for k in range(count)]),
    )  # fmt: skip


def _kept(shares: _Shares) -> tuple[Grid, NDArray[np.bool_]]:
    """Return the logarithm of the share of fine over coarse detail each stop kept of each tile, and which tiles tell.

    Shapes (stops, tiles) and (tiles,).
    """
    fine, coarse = shares.fine, shares.coarse
    top = fine.max(axis=0)
    power = shares.power[..., _FINE].mean(axis=-1)[fine.argmax(axis=0), np.arange(fine.shape[1])]
    clear = (fine > 0).all(axis=0) & (coarse > 0).all(axis=0) & (top**2 > _CLEAR * power)
    return np.log(np.maximum(fine, 1e-12) / np.maximum(coarse, 1e-12)), clear


def _wide_blur(shares: _Shares, kept: Grid, chosen: NDArray[np.bool_]) -> Ranged:
    """Return how much more the widest stop blurs than the sharpest, the diameter of a disc, px.

    Blur of a variance ``v`` keeps ``exp(-2 π² v f²)`` of a frequency ``f``, whatever its shape as long as little is
    lost; exposure keeps the same of all. So the logarithm of what was kept falls with ``f²``, tile by tile.
    """
    best = int(np.median(kept[:, chosen] - kept[:, chosen].mean(axis=0), axis=1).argmax())
    lost = np.log(np.maximum(shares.by_band[:, 0, chosen], 1e-9) / np.maximum(shares.by_band[:, best, chosen], 1e-9))
    squares = 2 * math.pi**2 * frequencies() ** 2
    told = (np.median(lost, axis=1) > math.log(_LEAST_KEPT)) & (np.arange(len(squares)) < _TOLD_BANDS)
    if told.sum() < 2:
        told = np.arange(len(squares)) < 2
    off = squares[told] - squares[told].mean()
    variances = -(off @ lost[told]) / (off @ off)
    middle = float(np.median(variances))
    wide = _WIDE * 1.253 * 1.4826 * float(np.median(np.abs(variances - middle))) / math.sqrt(len(variances))
    value, low, high = (4 * math.sqrt(max(one, 0.0)) for one in (middle, middle - wide, middle + wide))
    return Ranged(value=value, low=low, high=high)


def _sides(kept: Grid, clear: NDArray[np.bool_], size_px: tuple[int, int]) -> Sides | None:
    """Return how the widest stop does on both sides of the picture."""
    across = (tiles_of(size_px)[:, 0] + TILE_PX / 2) / size_px[0] * 2 - 1
    sides = [clear & (across < -_SIDE), clear & (across > _SIDE)]
    if min(side.sum() for side in sides) < _LEAST_TILES:
        return None
    outer = sides[0] | sides[1]
    best = int(np.median(kept[:, outer] - kept[:, outer].mean(axis=0), axis=1).argmax())
    lost = [kept[0, side] - kept[best, side] for side in sides]
    left, right = (float(np.median(one)) for one in lost)
    errors = [1.253 * 1.4826 * float(np.median(np.abs(one - np.median(one)))) / math.sqrt(len(one)) for one in lost]
    sure = abs(left - right) > max(_SURE * math.hypot(*errors), _LEAST_APART)
    softer = ("left" if left < right else "right") if sure else ""
    return Sides(left=min(math.exp(left), 1.0), right=min(math.exp(right), 1.0), softer=softer)


def _share_of_each(common: Grid) -> Grid:
    """Return what each picture holds of what pairs of them have in common, shape (pictures, tiles).

    ``common[i, j]`` is ``share[i] * share[j]``, but for ``i = j``, where noise is added.
    """
    count = len(common)
    off = common * (1 - np.eye(count))[:, :, None]
    share = np.sqrt(np.maximum(off.sum(axis=(0, 1)) / (count * (count - 1)), 1e-30))[None, :].repeat(count, axis=0)
    for _ in range(_ROUNDS):
        total = (share**2).sum(axis=0)
        share = 0.5 * share + 0.5 * np.einsum("ijt,jt->it", off, share) / np.maximum(total - share**2, 1e-30)
    return np.asarray(share)


def _radius(size_px: tuple[int, int]) -> Grid:
    middles = tiles_of(size_px) + TILE_PX / 2 - np.array(size_px) / 2
    return np.asarray(np.linalg.norm(middles, axis=1) / (np.linalg.norm(size_px) / 2))


def compared(stops: Sequence[float], logs: Grid) -> tuple[tuple[StopScore, ...], float | None]:
    """Return the scores of each stop, and the best where it stands clear of all but its neighbours.

    Parameters
    ----------
    stops
        F-number of each picture.
    logs
        Logarithm of the sharpness, shape (pictures, tiles).
    """
    middle = logs - logs.mean(axis=0)
    top = int(np.median(middle, axis=1).argmax())
    count = logs.shape[1]
    apart = middle[top] - middle  # tile by tile
    less = np.median(apart, axis=1)
    error = 1.253 * 1.4826 * np.median(np.abs(apart - less[:, None]), axis=1) / math.sqrt(count)
    error[top] = 0.0
    scores = tuple(
        StopScore(
            stop=stop, score=min(math.exp(-lower), 1.0), low=math.exp(-lower - _WIDE * off),
            high=math.exp(-lower + _WIDE * off),
        )
        for stop, lower, off in zip(stops, less.tolist(), error.tolist(), strict=True)
    )  # fmt: skip
    clear = all(one.high < 1 for k, one in enumerate(scores) if abs(k - top) > 1)
    return scores, stops[top] if clear else None
