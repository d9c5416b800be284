"""A simulated camera: what a lens of stated aperture, focus and faults would make of a printed sheet.

The picture of a flat sheet through a thin lens is its pinhole picture, each place blurred by the disc of the aperture:
on the film it is as wide as the aperture times the image distance times the difference of the reciprocals of subject
and focus distance. That difference is even across the picture where both lie on planes. Blur happens in light, before
the tone curve, noise and compression.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from welotrope.core.testshot.plane_fit import disc_kept
from welotrope.core.testshot.sheets import DOT_MM, Sheet, dots_of

Light = NDArray[np.float32]
PAPER, INK, AROUND = 0.82, 0.04, 0.16  # reflectance
_TILE_PX = (64, 320)  # rows and columns: how far out of focus a sheet is changes most from row to row
_FINE, _STRIP_PX = 4, 128  # points a pixel each way; rows made at once
_APART = 0.1
_LEVELS = 7  # the page is kept at, each half as large as the one before


@dataclass(frozen=True, kw_only=True)
class SimulatedCamera:
    """A camera before a sheet.

    Parameters
    ----------
    focal_mm, stop, width_mm
        Of the lens, and of the longer side of the film, mm.
    size_px
        Width and height of the picture, pixels.
    distance_mm
        From the lens to the mark along its axis, mm.
    slope_deg, roll_deg
        Between sheet and film; how the camera is turned about its axis.
    turned_deg
        How the sheet is turned about its own middle upright axis: its left and right then differ in distance.
    off_centre
        Where the mark lies, from the middle of the picture, as shares of its width and height.
    plane_mm
        Where focus is, behind the mark (+) or before it (-), mm along the axis.
    tilt_deg, tip_deg
        How the plane of focus leans: positive, it lies farther away on the right, and at the top.
    curved_mm
        How far nearer than in its middle focus lies at half the picture's width from there, any way, mm.
    own_blur_px, corner_blur_px
        What lens and sensor blur of themselves, a standard deviation: in the middle, and in the corners, where it
        grows to with the square of the distance from the middle; None for as little as there.
    noise
        Standard deviation of the noise, of 255.
    shake_px, shake_deg
        Length and direction of a movement, from the right over the bottom.
    white
        What the lit paper comes out as, of 255; more than 255 is clipped.
    print_scale
        How large it was printed, 1 for true size; the paper keeps its size.
    seed
        Of the noise.
    """

    focal_mm: float
    stop: float
    width_mm: float = 36.0
    size_px: tuple[int, int] = (6000, 4000)
    distance_mm: float = 1000.0
    slope_deg: float = 45.0
    roll_deg: float = 0.0
    turned_deg: float = 0.0
    off_centre: tuple[float, float] = (0.0, 0.0)
    plane_mm: float = 0.0
    tilt_deg: float = 0.0
    tip_deg: float = 0.0
    curved_mm: float = 0.0
    own_blur_px: float = 0.5
    corner_blur_px: float | None = None
    noise: float = 2.0
    shake_px: float = 0.0
    shake_deg: float = 0.0
    white: float = 225.0
    print_scale: float = 1.0
    seed: int = 1

    @property
    def pitch_mm(self) -> float:
        """From pixel to pixel, mm."""
        return self.width_mm / max(self.size_px)

    @property
    def focus_mm(self) -> float:
        """From the lens to the plane of focus along the line through the mark that is parallel to the axis, mm."""
        return self.distance_mm + self.plane_mm

    @property
    def axis_focus_mm(self) -> float:
        """From the lens to the plane of focus on its axis, mm."""
        # The mark stands where its picture says; the plane leans about it.
        beside = (share * side for share, side in zip(self.off_centre, self.size_px, strict=True))
        away = sum(lean * px for lean, px in zip(self.leans, beside, strict=True)) * self.pitch_mm * self.distance_mm
        image = self.focal_mm * self.focus_mm / (self.focus_mm - self.focal_mm)
        for _ in range(20):
            axis = self.focus_mm - away / image
            image = self.focal_mm * axis / (axis - self.focal_mm)
        return axis

    @property
    def leans(self) -> tuple[float, float]:
        """How much farther the plane of focus lies for each mm to the right, and downwards."""
        return math.tan(math.radians(self.tilt_deg)), -math.tan(math.radians(self.tip_deg))

    @property
    def image_mm(self) -> float:
        """From the lens to the film, mm."""
        return self.focal_mm * self.axis_focus_mm / (self.axis_focus_mm - self.focal_mm)

    def rays(self) -> NDArray[np.float64]:
        """Return the matrix from pixels (x, y, 1) to directions seen from the lens, its third part 1."""
        width, height = self.size_px
        px = self.image_mm / self.pitch_mm
        return np.array([[1 / px, 0, -(width - 1) / 2 / px], [0, 1 / px, -(height - 1) / 2 / px], [0, 0, 1]])

    def rotation(self) -> NDArray[np.float64]:
        """Return the rotation from the page's axes (right, down, into it) to the lens's."""
        slope, roll, turned = (math.radians(one) for one in (self.slope_deg, self.roll_deg, self.turned_deg))
        back = np.array(
            [[1, 0, 0], [0, math.cos(slope), math.sin(slope)], [0, -math.sin(slope), math.cos(slope)]]
        )  # the top of the page away
        side = np.array([[math.cos(turned), 0, math.sin(turned)], [0, 1, 0], [-math.sin(turned), 0, math.cos(turned)]])
        about = np.array([[math.cos(roll), -math.sin(roll), 0], [math.sin(roll), math.cos(roll), 0], [0, 0, 1]])
        return np.asarray(about @ side @ back)

    def shift(self, sheet: Sheet) -> NDArray[np.float64]:
        """Return where the top left corner of the page lies, seen from the lens, mm."""
        width, height = self.size_px
        mark_px = np.array(
            [(width - 1) / 2 + self.off_centre[0] * width, (height - 1) / 2 + self.off_centre[1] * height, 1.0]
        )
        mark = self.rays() @ mark_px * self.distance_mm
        return np.asarray(mark - self.rotation() @ np.array([*sheet.mark_mm, 0.0]))

    def before(self, offset_mm: tuple[float, float, float]) -> SimulatedCamera:
        """Return the same camera as it stands to a sheet that lies elsewhere, turned alike.

        Parameters
        ----------
        offset_mm
            From the mark of the first sheet to that of the other: right, down and into the page, mm.
        """
        width, height = self.size_px
        middle = np.array([(width - 1) / 2, (height - 1) / 2, 1.0])
        first = np.array([self.off_centre[0] * width, self.off_centre[1] * height, 0.0]) + middle
        mark = self.rays() @ first * self.distance_mm + self.rotation() @ np.array(offset_mm)
        right, down, _ = np.linalg.solve(self.rays(), mark / mark[2]) - middle
        focus = self.axis_focus_mm + self.leans[0] * mark[0] + self.leans[1] * mark[1]
        return replace(
            self, distance_mm=float(mark[2]), plane_mm=float(focus - mark[2]),
            off_centre=(float(right / width), float(down / height)),
        )  # fmt: skip

    def to_px(self, sheet: Sheet) -> NDArray[np.float64]:
        """Return the homography from millimetres of the page, at true size, to pixels."""
        held = np.column_stack((self.rotation()[:, 0], self.rotation()[:, 1], self.shift(sheet)))
        return np.asarray(np.linalg.solve(self.rays(), held))

    def blur_px(self, sheet: Sheet) -> tuple[NDArray[np.float64], float]:
        """Return the signed diameter of the blur: its value is the row times (x, y, 1); and what the curve adds.

        Positive where the sheet lies behind the plane of focus; the curve is per square of the share of half a width.
        """
        normal = self.rotation()[:, 2]
        nearness = normal @ self.rays() / float(normal @ self.shift(sheet))  # reciprocal distance of the sheet
        right, down = self.leans
        focus = np.array([-right, -down, 1]) @ self.rays() / self.axis_focus_mm  # and of the plane of focus
        scale = self.focal_mm / self.stop * self.image_mm / self.pitch_mm
        return scale * (focus - nearness), scale * self.curved_mm / self.axis_focus_mm**2


def picture_of(sheet: Sheet, camera: SimulatedCamera) -> NDArray[np.uint8]:
    """Return the picture of a sheet, grey, 8 bit.

    Parameters
    ----------
    sheet
        The printed sheet.
    camera
        The simulated camera.
    """
    return picture_of_sheets([(sheet, camera)])


def picture_of_sheets(placed: Sequence[tuple[Sheet, SimulatedCamera]]) -> NDArray[np.uint8]:
    """Return the picture of sheets that do not hide one another, each with the camera as it stands to it; grey, 8 bit.

    See :meth:`SimulatedCamera.before`.

    Parameters
    ----------
    placed
        Sheets, each with the camera as it stands to it.
    """
    camera = placed[0][1]
    width, height = camera.size_px
    whole = np.full((height, width), AROUND, dtype=np.float32)
    for sheet, one in placed:
        light, (left, top) = _sharp(sheet, one)
        part = whole[top : top + light.shape[0], left : left + light.shape[1]]
        part += _blurred(light, (left, top), sheet, one) - AROUND
    return developed(seen_by_sensor(whole, camera), camera)


def developed(light: Light, camera: SimulatedCamera) -> NDArray[np.uint8]:
    """Return light as grey values: exposed for the paper, through the usual tone curve, with noise, 8 bit.

    Parameters
    ----------
    light
        Light on the sensor, 0 for none to 1 for white paper.
    camera
        The simulated camera.
    """
    top = 255.0 * _tone(np.array([1.0]))[0]
    exposure = _untone(min(camera.white / 255, 1.0)) * (max(camera.white, 255.0) / top) / PAPER
    values = 255 * _tone(np.clip(light * exposure, 0, 1))
    if camera.noise:
        random = np.random.default_rng(camera.seed)
        values = values + camera.noise * random.standard_normal(values.shape, dtype=np.float32)
    return np.asarray(np.clip(np.rint(values), 0, 255), dtype=np.uint8)


def _tone(light: NDArray[np.floating]) -> NDArray[np.float32]:
    return np.where(light <= 0.0031308, 12.92 * light, 1.055 * np.maximum(light, 1e-9) ** (1 / 2.4) - 0.055).astype(
        np.float32
    )


def _untone(value: float) -> float:
    return value / 12.92 if value <= 0.04045 else float(((value + 0.055) / 1.055) ** 2.4)


def seen_by_sensor(light: Light, camera: SimulatedCamera) -> Light:
    """Return light blurred by what lens and sensor do everywhere alike, and by shake.

    Parameters
    ----------
    light
        Light on the sensor, 0 for none to 1 for white paper.
    camera
        The simulated camera.
    """
    import cv2

    if camera.corner_blur_px not in (None, camera.own_blur_px):
        light = _softened(light, camera.own_blur_px, camera.corner_blur_px)
    elif camera.own_blur_px:
        light = np.asarray(cv2.GaussianBlur(light, (0, 0), camera.own_blur_px))
    if camera.shake_px:
        light = np.asarray(
            cv2.filter2D(light, -1, _line(camera.shake_px, camera.shake_deg), borderType=cv2.BORDER_REPLICATE)
        )
    return light


def _softened(light: Light, middle: float, corner: float) -> Light:
    """Return light blurred more towards the corners: between blurs that are little different, as their mean."""
    import cv2

    height, width = light.shape
    y, x = np.ogrid[:height, :width]
    away = ((x - width / 2) ** 2 + (y - height / 2) ** 2) / (width**2 + height**2) * 4
    blur = (middle + (corner - middle) * away).astype(np.float32)
    steps = np.linspace(min(middle, corner), max(middle, corner), 9).tolist()
    apart = max(steps[1] - steps[0], 1e-6)
    total = np.zeros_like(light)
    for size in steps:
        made = cv2.GaussianBlur(light, (0, 0), size) if size > 0.05 else light
        total += np.clip(1 - np.abs(blur - size) / apart, 0, 1) * made
    return total


@lru_cache(maxsize=8)
def _page(sheet: Sheet, level: int) -> Light:
    """Return the reflectance of a page at its dots, halved so many times."""
    if level > 1:
        return _halved(_page(sheet, level - 1))
    # Halved as bytes: the whole page at its dots takes 140 MB as numbers.
    dots = dots_of(sheet) if level == 0 else _halved(dots_of(sheet))
    return dots * np.float32((PAPER - INK) / 255) + np.float32(INK)


def _halved(page: Light | NDArray[np.uint8]) -> Light:
    """Return a page with every four dots as their mean."""
    import cv2

    rows, columns = (side // 2 * 2 for side in page.shape)
    found = cv2.resize(page[:rows, :columns], None, fx=0.5, fy=0.5, interpolation=cv2.INTER_AREA)
    return np.asarray(found, dtype=np.float32)


def _sharp(sheet: Sheet, camera: SimulatedCamera) -> tuple[Light, tuple[int, int]]:
    """Return the pinhole picture of a sheet where it lies, with some of what is around it, and where that begins."""
    to_px = camera.to_px(sheet)
    width, height = sheet.paper_mm
    outline = _through(to_px, np.array([[0, 0], [width, 0], [width, height], [0, height]]))
    slope, extra = camera.blur_px(sheet)
    reach = max(abs(float(np.array([*corner, 1]) @ slope)) for corner in outline) + abs(extra) + 4
    left, top = (max(math.floor(v - reach), 0) for v in outline.min(axis=0))
    right, bottom = (
        min(math.ceil(v + reach), most) for v, most in zip(outline.max(axis=0), camera.size_px, strict=True)
    )
    right, bottom = max(right, left), max(bottom, top)
    made = np.empty((bottom - top, right - left), dtype=np.float32)
    for row in range(0, bottom - top if right > left else 0, _STRIP_PX):
        rows = min(_STRIP_PX, bottom - top - row)
        made[row : row + rows] = _sharp_strip(sheet, camera, left, top + row, right - left, rows)
    return made, (left, top)


def _sharp_strip(sheet: Sheet, camera: SimulatedCamera, left: int, top: int, columns: int, rows: int) -> Light:
    """Return some rows of the pinhole picture, each pixel the mean of several points."""
    import cv2

    fine = np.array([[_FINE, 0, _FINE * (0.5 - left) - 0.5], [0, _FINE, _FINE * (0.5 - top) - 0.5], [0, 0, 1.0]])
    to_points = fine @ camera.to_px(sheet)
    width, height = sheet.paper_mm
    middle = np.array([(columns * _FINE) / 2, (rows * _FINE) / 2])
    back = _through(
        np.asarray(np.linalg.inv(to_points), dtype=np.float64), middle + np.array([[0.0, 0.0], [1.0, 0.0], [0.0, 1.0]])
    )
    point_mm = min(np.linalg.norm(back[1] - back[0]), np.linalg.norm(back[2] - back[0]))
    level = min(max(math.floor(math.log2(point_mm / DOT_MM)), 0), _LEVELS - 1)
    dot = DOT_MM * 2**level
    printed = np.diag([camera.print_scale, camera.print_scale, 1.0])
    printed[:2, 2] = (1 - camera.print_scale) * np.array(sheet.mark_mm)
    from_dots = np.array([[dot, 0, dot / 2], [0, dot, dot / 2], [0, 0, 1.0]])
    size = (_FINE * columns, _FINE * rows)
    warped = cv2.warpPerspective(
        _page(sheet, level), to_points @ printed @ from_dots, size, flags=cv2.INTER_LINEAR,
        borderMode=cv2.BORDER_CONSTANT, borderValue=PAPER if camera.print_scale < 1 else AROUND,
    )  # fmt: skip
    if camera.print_scale < 1:  # the paper keeps its size
        corners = _through(to_points, np.array([[0, 0], [width, 0], [width, height], [0, height]]))
        mask = np.zeros((size[1], size[0]), dtype=np.uint8)
        cv2.fillConvexPoly(mask, np.rint(corners * 16).astype(np.int32), 1, shift=4)
        warped[mask == 0] = AROUND
    return np.asarray(cv2.resize(warped, (columns, rows), interpolation=cv2.INTER_AREA))


def _through(homography: NDArray[np.float64], points: NDArray[np.float64]) -> NDArray[np.float64]:
    ahead = np.column_stack((points, np.ones(len(points)))) @ homography.T
    return np.asarray(ahead[:, :2] / ahead[:, 2:])


def _blurred(light: Light, at: tuple[int, int], sheet: Sheet, camera: SimulatedCamera) -> Light:
    """Return light with each place blurred by its disc, tile by tile, between discs that are little different."""
    slope, curve = camera.blur_px(sheet)
    half, middle = camera.size_px[0] / 2, camera.size_px[1] / 2
    found = np.empty_like(light)
    down, across = _TILE_PX
    for top in range(0, light.shape[0], down):
        for left in range(0, light.shape[1], across):
            rows = slice(top, min(top + down, light.shape[0]))
            columns = slice(left, min(left + across, light.shape[1]))
            y, x = np.mgrid[rows, columns].astype(np.float32)
            x, y = x + at[0], y + at[1]
            signed = slope[0] * x + slope[1] * y + slope[2]
            if curve:
                signed = signed + curve * ((x - half) ** 2 + (y - middle) ** 2) / half**2
            found[rows, columns] = _tile(light, rows, columns, np.abs(signed).astype(np.float32))
    return found


def _tile(light: Light, rows: slice, columns: slice, blur: Light) -> Light:
    """Return a tile blurred: between two discs that are little different, as their mean by how near each is."""
    from scipy.fft import fftfreq, irfft2, next_fast_len, rfft2, rfftfreq

    steps = list(_steps(float(blur.min()), float(blur.max())))
    reach = math.ceil(steps[-1] / 2) + 6
    height, width = (next_fast_len(length + 2 * reach) for length in blur.shape)
    piece = _with_border(light, rows, columns, reach, (height, width))
    transform = rfft2(piece)
    radius = np.hypot(rfftfreq(width)[None, :], fftfreq(height)[:, None]).astype(np.float32)
    total = np.zeros_like(blur)
    for index, size in enumerate(steps):
        before = steps[index - 1] if index else size - 1
        after = steps[index + 1] if index + 1 < len(steps) else size + 1
        weight = np.clip(np.minimum((blur - before) / (size - before), (after - blur) / (after - size)), 0, 1)
        if not weight.any():
            continue
        made = irfft2(transform * disc_kept(size * radius), s=(height, width)) if size else piece
        total += weight * made[reach : reach + blur.shape[0], reach : reach + blur.shape[1]]
    return total


def _with_border(light: Light, rows: slice, columns: slice, reach: int, shape: tuple[int, int]) -> Light:
    import cv2

    height, width = light.shape
    bottom, right = rows.start - reach + shape[0], columns.start - reach + shape[1]
    piece = light[max(rows.start - reach, 0) : bottom, max(columns.start - reach, 0) : right]
    missing = (
        max(reach - rows.start, 0),
        max(bottom - height, 0),
        max(reach - columns.start, 0),
        max(right - width, 0),
    )
    return np.asarray(cv2.copyMakeBorder(piece, *missing, cv2.BORDER_REPLICATE)) if any(missing) else piece


def _steps(low: float, high: float) -> Iterator[float]:
    """Yield sizes of discs from below the lowest to above the highest, 0.3 px or a tenth apart.

    The mean of two discs a tenth apart spreads light 0.12 % wider than the disc between them.
    """
    size = 0.0
    while True:
        following = size + max(0.3, _APART * size)
        if following > low or size == low:
            yield size
        if size > high:
            return
        size = following


def _line(length_px: float, direction_deg: float) -> Light:
    reach = math.ceil(length_px / 2) + 1
    kernel = np.zeros((2 * reach + 1, 2 * reach + 1), dtype=np.float64)
    angle = math.radians(direction_deg)
    for along in np.linspace(-length_px / 2, length_px / 2, 40 * reach):
        x, y = reach + along * math.cos(angle), reach + along * math.sin(angle)
        i, j = math.floor(y), math.floor(x)
        for di, dj in ((0, 0), (0, 1), (1, 0), (1, 1)):
            kernel[i + di, j + dj] += (1 - abs(y - i - di)) * (1 - abs(x - j - dj))
    return np.asarray((kernel / kernel.sum()).astype(np.float32))
