"""One picture of a sloping sheet, measured: where the plane of focus fell, with an interval."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from welotrope.core.optics.elementwise import AnyArray
from welotrope.core.testshot.blur_fit import MOST_PX, SIDE, SMALL_SIDE, Blurs, fit_parabola, lay_on
from welotrope.core.testshot.find_sheet import FoundSheet
from welotrope.core.testshot.patch_places import coarsest, middles_of, put_right, put_right_closely
from welotrope.core.testshot.plane_fit import WITHIN, PlaneFit, Seen, fit_plane, off_axis, pooled, start
from welotrope.core.testshot.pose import Pose, pose_of
from welotrope.core.testshot.transfer import Patches, as_shares, compare

Grid = NDArray[np.float64]
_COARSE_SIDES, _COARSE_PATCHES, _COARSE_ACROSS_PX = (64, 32), 110, 6.0
_COARSE_TRIES, _OFF_PX = 3, 0.8  # times the page is looked for, until patches lie as near as this to it
_NEAR_PX = 14.0  # blur up to which a coarse patch is used again
_ALIKE = 0.3
_STOP_KNOWN_TO, _UNKNOWN_TO = 0.1, 1.0  # scatter of the logarithm of how fast blur grows: marked stop, none
_FEW_PATCHES, _PATCHES, _MOST_TRIES = 40, 96, 9  # the page is laid on: while it comes nearer, at last; times at most
_SETTLED, _NEAR_ENOUGH = 0.25, 3e-5  # that the plane may still move: of its standard error, of its distance
_MOST_ACROSS_PX = 3.0  # how much blur may differ from side to side of a large patch
_ODD_MISFIT, _ODD_RATE = 3.0, 0.25
_BENT_TRIES, _BENT_ERRORS, _BENT_SHARE = 2, 5.0, 0.1  # the last of what counts as sharp


@dataclass(frozen=True, kw_only=True)
class ShotSettings:
    """What is known of a picture before it is measured.

    Parameters
    ----------
    focal_mm, width_mm
        Focal length, and the longer side of the picture on film or sensor, mm.
    stop
        f-number; None where it is not known.
    blur_mm
        Diameter of the largest blur that counts as sharp, mm on the film.
    """

    focal_mm: float
    width_mm: float
    stop: float | None = None
    blur_mm: float = 0.03


@dataclass(frozen=True, kw_only=True)
class PlaneOnSheet:
    """Where the plane of focus was found.

    Parameters
    ----------
    found, pose
        The sheet in the picture, and how the camera stood.
    fit
        The plane of focus.
    mark
        The mark as seen from the lens: right, down, away, mm.
    expected_rate
        How fast blur would grow by the formula, px·mm; by f/2.8 where no stop is known.
    blurs, per_px
        The patches it was last read from, and pixels of the picture for one of theirs.
    """

    found: FoundSheet
    pose: Pose
    fit: PlaneFit
    mark: Grid
    expected_rate: float
    blurs: Blurs | None
    per_px: int

    @property
    def plane_mm(self) -> float:
        """Where the plane crosses, behind the mark (+) or before it (-), mm along the axis."""
        return float(self.fit.plane_z - self.mark[2])


def find_plane(picture: AnyArray, found: FoundSheet, shot: ShotSettings) -> PlaneOnSheet | None:
    """Return where the plane of focus crosses a sheet; None where too little of it is sharp enough to tell.

    Parameters
    ----------
    picture
        Grey values, shape (height, width), of 8 or 16 bits or as floats.
    found
        The sheet as it lies in the picture.
    shot
        How the picture was taken.
    """
    best: PlaneOnSheet | None = None
    for other_patches in (False, True):
        search = _Search(picture, found, shot)
        if not search.begin(other_patches=other_patches) or search.fit is None:
            continue
        blurs, per_px = search.settle()
        here = PlaneOnSheet(
            found=search.found, pose=search.pose, fit=search.fit, mark=search.mark, expected_rate=search.rate,
            blurs=blurs, per_px=per_px,
        )  # fmt: skip
        if best is None or _strangeness(here, shot) < _strangeness(best, shot):
            best = here
        if _strangeness(best, shot) < 1:
            break
    return best


def _strangeness(plane: PlaneOnSheet, shot: ShotSettings) -> float:
    """Return how unlike a lens's a plane of focus is that was found; from 1 on it is sought anew from elsewhere."""
    odd = plane.fit.misfit / _ODD_MISFIT
    return max(odd, abs(math.log(plane.fit.rate / plane.expected_rate)) / _ODD_RATE) if shot.stop else odd


class _Search:
    """The search for the plane of focus, which puts the place of the sheet right as it goes."""

    def __init__(self, picture: AnyArray, found: FoundSheet, shot: ShotSettings) -> None:
        self.picture, self.found, self.shot = as_shares(picture), found, shot
        self.linear = False
        self.fit: PlaneFit | None = None
        self.pose: Pose
        self.mark: Grid
        self._stand()

    def _stand(self) -> None:
        """Work out anew how the camera stood; the plane stays where it crosses the sheet."""
        shot = self.shot
        before = (self.pose, self.mark) if self.fit is not None else None
        self.pose = pose_of(self.found, focal_mm=shot.focal_mm, width_mm=shot.width_mm, focus=self._focus())
        self.mark = self.pose.in_lens(np.array([self.found.sheet.mark_mm]))[0]
        self.rate = shot.focal_mm / (shot.stop or 2.8) * self.pose.image_mm / self.pose.pitch_mm
        self.known = math.log(self.rate), _STOP_KNOWN_TO if shot.stop else _UNKNOWN_TO
        if self.fit is not None and before is not None:
            steeper = math.sin(math.radians(self.pose.slope_deg)) / math.sin(math.radians(before[0].slope_deg))
            behind = (self.fit.plane_z - float(before[1][2])) * steeper
            self.fit = replace(self.fit, plane_z=max(float(self.mark[2]) + behind, 1.0))

    def _focus(self) -> float:
        """Return the distance of the plane of focus as a multiple of that of the mark."""
        return 1.0 if self.fit is None else max(self.fit.plane_z / float(self.mark[2]), 0.2)

    def begin(self, *, other_patches: bool) -> bool:
        """Find about where the plane is, from the share of contrast that patches all over the sheet kept.

        With ``other_patches`` they are small where they would be large, and large where small.
        """
        kept: list[Patches] = []
        per_px = coarsest(self.found)
        steep = self.rate * self.pose.slant_per_px * _COARSE_SIDES[0] > _COARSE_ACROSS_PX
        side = _COARSE_SIDES[steep != other_patches]
        for _ in range(_COARSE_TRIES):
            centres = self._centres(per_px, side, _COARSE_PATCHES, _NEAR_PX)
            patches = compare(self.picture, self.found, centres, per_px=per_px, side=side, linear=self.linear)
            off = math.inf
            if len(patches.likeness) and (patches.likeness > _ALIKE).sum() >= 4:
                off = _off_px(patches) / per_px
                self.found = put_right(self.found, patches) or self.found
                self._stand()
                if off > _OFF_PX:  # laid wrong, the coarser ones tell little
                    kept, self.fit = [], None
                kept.append(patches)
                self.fit = self._coarse_fit(_seen(kept, self.pose, side)) or self.fit
            if per_px == 1 or (self.fit is not None and off < _OFF_PX):
                break
            per_px //= 2
        return self.fit is not None

    def _coarse_fit(self, seen: Seen) -> PlaneFit | None:
        around = np.geomspace(0.8, 1.25, 7) if self.shot.stop else np.geomspace(1 / 8, 8, 60)
        plane, rate = (self.fit.plane_z, self.fit.rate) if self.fit else start(seen, rates=around * self.rate)
        return fit_plane(seen, x_mark=self.mark[0], plane_z=plane, rate=rate, known=self.known)

    def settle(self) -> tuple[Blurs | None, int]:
        """Lay the page on the picture, each time from where the plane was found before, until it stays there."""
        assert self.fit is not None
        blurs, per_px = None, coarsest(self.found)
        for number in range(_MOST_TRIES):
            finest, side = self._finest()
            done = per_px == finest
            per_px = max(per_px // 2, finest)
            centres = self._centres(per_px, side, _PATCHES if done else _FEW_PATCHES, MOST_PX)
            if len(centres) < 8:
                break
            if number == 0:
                self.linear = self._values_are_light(centres, per_px, side)
            before = self.fit.plane_z
            blurs = lay_on(
                self.picture, self.found, self.pose, self.fit, centres, per_px=per_px, side=side, linear=self.linear,
                exact=done,
            )  # fmt: skip
            better = fit_parabola(blurs, self.found, self.pose, self.fit, per_px=per_px, side=side, rate=self.known)
            if better is None:
                break
            self.fit = better
            if done and abs(better.plane_z - before) < max(
                _SETTLED * math.sqrt(float(better.covariance[0, 0])), _NEAR_ENOUGH * better.plane_z
            ):
                break
            self.found = put_right_closely(self.found, blurs, per_px) or self.found
            self._stand()
        if blurs is not None:
            blurs = self._bent(blurs, per_px, side)
        return blurs, per_px

    def _bent(self, blurs: Blurs, per_px: int, side: int) -> Blurs:
        """Let the field be curved where it clearly is, and return the blurs as they are found then."""
        for _ in range(_BENT_TRIES):
            assert self.fit is not None
            bent = fit_parabola(
                blurs, self.found, self.pose, self.fit, per_px=per_px, side=side, rate=self.known, curved=True
            )
            if bent is None or not self._is_bent(bent):
                break
            self.fit = bent
            blurs = lay_on(
                self.picture, self.found, self.pose, bent, blurs.centres_mm, per_px=per_px, side=side,
                linear=self.linear, exact=True,
            )  # fmt: skip
        return blurs

    def _is_bent(self, fit: PlaneFit) -> bool:
        """Whether curvature is sure, and more than what the patches' own faults look like."""
        sheet = self.found.sheet
        ends = np.array([(share * sheet.paper_mm[0], sheet.mark_mm[1]) for share in (0.0, 1.0)])
        most = float(off_axis(self.pose.in_lens(ends), self.mark).max())
        blur_mm = fit.rate * abs(fit.bend) * most * self.pose.pitch_mm
        return blur_mm > _BENT_SHARE * self.shot.blur_mm and abs(fit.bend) > _BENT_ERRORS * fit.bend_error

    def _values_are_light(self, centres: Grid, per_px: int, side: int) -> bool:
        """Whether grey values fit better as light than behind the usual tone curve, as with some raw files."""
        assert self.fit is not None
        some = centres[:: max(len(centres) // 8, 1)]
        left = []
        for linear in (False, True):
            blurs = lay_on(self.picture, self.found, self.pose, self.fit, some, per_px=per_px, side=side, linear=linear)
            left.append(float(np.median(blurs.left / np.maximum(np.abs(blurs.contrast), 1e-6))))
        return left[1] < 0.8 * left[0]

    def _finest(self) -> tuple[int, int]:
        """Return pixels of the picture for one of a patch's, and of those each way.

        So few that what lies near enough to the plane is enough of the sheet; small patches where large ones would
        lie on one another, or blur differs much within one.
        """
        assert self.fit is not None
        px_mm = self.pose.pitch_mm / self.pose.image_mm * float(self.mark[2])
        steep = self.fit.rate * self.pose.slant_per_px * SIDE
        side = SIDE if SIDE * px_mm < 32 and steep < _MOST_ACROSS_PX else SMALL_SIDE
        for per_px in (1, 2, 4, 8, 16):
            centres = self._centres(per_px, side, 10_000, MOST_PX)
            if len(centres) < 12 and per_px > 1:
                return per_px // 2, side
            reach = np.ptp(self.found.px(centres), axis=0).max() if len(centres) else 0.0
            if reach > 8 * side * per_px or len(centres) > 0.7 * len(middles_of(self.found, side * per_px)):
                return per_px, side
        return 1, side

    def _centres(self, per_px: int, side: int, count: int, most: float) -> Grid:
        """Return the middles of patches, mm on the page: all over, or about the plane once it is known."""
        centres = middles_of(self.found, side * per_px)
        fit = self.fit
        if fit is not None and len(centres):
            lens = self.pose.in_lens(centres)
            centres = centres[fit.rate * np.abs(fit.nearness(lens, self.mark) - 1 / lens[:, 2]) / per_px < most]
        return centres[:: max(math.ceil(len(centres) / count), 1)]


def _off_px(patches: Patches) -> float:
    """Return how far patches lie from where the homography puts them, the middle of all that are alike, px."""
    good = patches.likeness > 0.5
    return float(np.median(np.linalg.norm(patches.shift_px[good], axis=1))) if good.any() else math.inf


def _seen(every: list[Patches], pose: Pose, side: int) -> Seen:
    """Return patches of all sizes in one."""
    slant = pose.slant_per_px
    rows = []
    for patches in every:
        good = patches.likeness > _ALIKE
        lens = pose.in_lens(patches.centres_mm)[good]
        kept, variance = pooled(patches)
        size = np.full(len(lens), float(patches.per_px))
        rows.append((lens[:, 0], lens[:, 2], size, WITHIN * side * size * slant, kept[good], variance[good]))
    x, z, per_px, within, kept, variance = (np.concatenate(part) for part in zip(*rows, strict=True))
    return Seen(x=x, z=z, per_px=per_px, within=within, kept=kept, variance=variance, frequency=every[0].frequency)
