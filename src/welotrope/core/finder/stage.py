"""A scene on a lens: rendered for a focus and a stop, layer by layer from the back.

Light is added: what is laid, blurred and shone on one another are the strengths of it. Left out: breathing (layers keep
their size while the ring turns), and fringes of colour.
"""

from __future__ import annotations

import math
import threading
from collections import OrderedDict
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

import cv2
import numpy as np
from numpy.typing import NDArray

from welotrope.core.finder.blur import DIRECT_PX, aperture_outline, blurred, cut_outline
from welotrope.core.finder.canvas import Canvas, View
from welotrope.core.finder.light import Light, Picture, coded, light_of
from welotrope.core.finder.scene import Layer, PointLight, Scene
from welotrope.core.optics.blur import defocus_blur
from welotrope.core.optics.thin_lens import extension_at_object_distance

Shift = Callable[[int], tuple[float, float]]
_KEPT_VIEWS = 3
_KEPT_TOGETHER = 24
# Off the axis the rims of a fast lens cut its aperture: at the corner they stand off by this much of it.
_RIM, _CORNER_UNITS = 0.45, math.hypot(18, 12)
_SPREAD_MIN_PX = 0.9
_LIGHT_OF_STRENGTH = 1 / 3  # times white, of a light of strength 1 spread over a pixel
_BAND_PX = 96  # rows of a layer that are blurred at once
_STRIP_PX = 32  # rows laid over one another at once
_TOGETHER_PX = 0.25  # by how much they may be moved differently
_ALIKE_PX, _ALIKE_SHARE = 0.35, 0.04  # by how much blurs may differ to be taken for one


@dataclass(frozen=True, kw_only=True)
class Focus:
    """How the lens stands.

    Parameters
    ----------
    extension_mm
        Extension of the plane of focus, mm.
    stop
        f-number the picture is seen through.
    own_blur_mm
        The lens's own blur, diffraction included, mm.
    blades
        Corners of the aperture; 0 for round.
    lean_mm, seconds
        How far the camera leans towards the scene, and how long the scene has run.
    opened
        The aperture over what the lens's rims let through, 0 to 1: 1 wide open. The picture then darkens towards the
        corners; None leaves it as bright there.
    """

    extension_mm: float
    stop: float
    own_blur_mm: float = 0.0
    blades: int = 0
    lean_mm: float = 0.0
    seconds: float = 0.0
    opened: float | None = None


@dataclass(frozen=True)
class _Raster:
    """A layer painted for a view, cut to what is covered, and where its corner lies.

    Light times cover and cover, coded in 8 bits: as :func:`light.coded` gives it.
    """

    pixels: Picture
    x: int
    y: int


@dataclass(frozen=True)
class _Lit:
    """A layer or several, blurred: light times cover and cover, and where its corner lies."""

    light: Light
    x: int
    y: int


@dataclass(frozen=True)
class _Group:
    """Layers, first and last, that are blurred as one: as the one in the middle, or as the target where that is there.

    ``aside`` says that the target is not among them, so that they may be blurred roughly.
    """

    first: int
    last: int
    middle: int
    diameter_px: float
    aside: bool


class Stage:
    """A scene with a lens before it; keeps what it has painted for the views last asked for.

    Parameters
    ----------
    scene
        The scene.
    focal_mm
        Focal length, mm.
    unit_mm
        A picture unit on the sensor, mm: a thirty-sixth of the frame's width.
    exact
        Whether what has come closer is painted anew as large as it stands, and not only enlarged: for one picture, of
        which more is seen at full size than was painted from afar.
    """

    def __init__(self, scene: Scene, focal_mm: float, unit_mm: float, *, exact: bool = False) -> None:
        self.exact = exact
        self.scene = scene
        self.focal_mm = focal_mm
        self.unit_mm = unit_mm
        # Distances of a scene are those at which the lens stands that has its target in focus.
        self._focused_x = float(extension_at_object_distance(scene.target_mm, focal_mm))
        self._painted: OrderedDict[View, list[_Raster]] = OrderedDict()
        self._together: OrderedDict[tuple[View, int, int], _Raster] = OrderedDict()
        self._lock = threading.Lock()

    def distance(self, index: int, focus: Focus) -> float:
        """Distance of a layer from the front principal plane at a moment, mm.

        Scene and film stay while the ring turns: the lens draws nearer to both by what it stands out.
        """
        layer = self.scene.layers[index]
        return self._nearer_by(layer, focus, focus.extension_mm - self._focused_x)

    def blur_mm(self, index: int, focus: Focus) -> float:
        """Blur diameter of a layer on the sensor, the lens's own included, mm."""
        x = extension_at_object_distance(self.distance(index, focus), self.focal_mm)
        return math.hypot(defocus_blur(x, focus.extension_mm, self.focal_mm, focus.stop), focus.own_blur_mm)

    def defocus_mm(self, index: int, focus: Focus) -> float:
        """How far behind the plane of focus a layer is imaged, mm; positive when the lens is set too far."""
        x = extension_at_object_distance(self.distance(index, focus), self.focal_mm)
        return float(x) - focus.extension_mm

    def render(self, view: View, focus: Focus, *, shift: Shift | None = None) -> Picture:
        """Return the picture as BGR, shape (height, width, 3), 8 bit.

        ``shift`` gives each layer's displacement (right, down) in mm on the sensor, as prisms and mirrors make it.
        """
        out: Light = np.zeros((3, view.height_px, view.width_px), np.float32)
        for group in self._groups(view, focus, [shift] if shift else []):
            layer, scale = self.scene.layers[group.first], self.scale(group.first, focus)
            moved = shift(group.middle) if shift else (0.0, 0.0)
            px = moved[0] / self.unit_mm / view.units_per_px, moved[1] / self.unit_mm / view.units_per_px
            if scale != 1.0 and (self.exact or not _holds_axis(view)):
                self._lay(out, layer, _paint(layer, _closer(view, scale)), group, view, 1.0, px)
            else:
                self._lay(out, layer, self._joined(view, group), group, view, scale, px)
            self._shine_all(out, group, view, focus, moved, scale)
        return self._seen(out, view, focus)

    def _seen(self, out: Light, view: View, focus: Focus) -> Picture:
        """Return light as a picture, darker towards the corners; the axis is on the target."""
        if focus.opened is not None:
            axis, length = (self.scene.target_x, self.scene.target_y), self.focal_mm / self.unit_mm
            out *= falloff(view, axis, length, round(focus.opened, 2))
        return coded(out)

    def _groups(self, view: View, focus: Focus, shifts: Sequence[Shift]) -> list[_Group]:
        """Return layers in runs that blur and move so much alike that they do as one."""
        layers, target, unit = self.scene.layers, self.scene.target, view.units_per_px * self.unit_mm
        sizes = [self.blur_mm(index, focus) / unit for index in range(len(layers))]
        moves = [[part / unit for shift in shifts for part in shift(index)] for index in range(len(layers))]
        still = all(self.scale(index, focus) == 1.0 for index in range(len(layers)))
        runs: list[list[int]] = []
        for index, size in enumerate(sizes):
            first = runs[-1][0] if runs else index
            apart = max((abs(a - b) for a, b in zip(moves[first], moves[index], strict=True)), default=0.0)
            if still and runs and _alike(sizes[first], size) and apart < _TOGETHER_PX:
                runs[-1].append(index)
            else:
                runs.append([index])
        middles = [target if target in run else run[len(run) // 2] for run in runs]
        return [
            _Group(run[0], run[-1], middle, sizes[middle], middle != target)
            for run, middle in zip(runs, middles, strict=True)
        ]

    def _joined(self, view: View, group: _Group) -> _Raster:
        """Return layers laid over one another as they are painted; kept until the view is."""
        rasters = self._rasters(view)
        if group.first == group.last:
            return rasters[group.first]
        key = (view, group.first, group.last)
        found = self._together.get(key)
        if found is None:
            found = _laid_together(rasters[group.first : group.last + 1])
            self._together[key] = found
            while len(self._together) > _KEPT_TOGETHER:
                self._together.popitem(last=False)
        return found

    def _shine_all(
        self, out: Light, group: _Group, view: View, focus: Focus, moved_mm: tuple[float, float], scale: float
    ) -> None:
        """Add the lights of layers, moved."""
        x, y = view.centre_x - moved_mm[0] / self.unit_mm, view.centre_y - moved_mm[1] / self.unit_mm
        shone, axis = replace(view, centre_x=x, centre_y=y), (self.scene.target_x, self.scene.target_y)
        for layer in self.scene.layers[group.first : group.last + 1]:
            for light in layer.lights:
                _shine(out, shone, light, group.diameter_px, focus.blades, scale, axis)

    def render_parted(self, view: View, focus: Focus, shifts: Sequence[Shift]) -> list[Picture]:
        """Return a picture for each of several shifts; every layer is blurred once for all of them."""
        layers = self.scene.layers
        if any(self.scale(index, focus) != 1.0 for index in range(len(layers))):
            return [self.render(view, focus, shift=shift) for shift in shifts]
        outs: list[Light] = [np.zeros((3, view.height_px, view.width_px), np.float32) for _ in shifts]
        for group in self._groups(view, focus, shifts):
            layer, raster = layers[group.first], self._joined(view, group)
            soft = _softened(layer, raster, group.diameter_px, view, roughly=group.aside)
            for out, shift in zip(outs, shifts, strict=True):
                self._lay_parted(out, layer, soft, shift(group.middle), view)
                self._shine_all(out, group, view, focus, shift(group.middle), 1.0)
        return [self._seen(out, view, focus) for out in outs]

    def _lay_parted(self, out: Light, layer: Layer, soft: _Lit, moved_mm: tuple[float, float], view: View) -> None:
        """Lay a blurred layer, moved, over what is behind it."""
        right, down = (mm / self.unit_mm / view.units_per_px for mm in moved_mm)
        if layer.backdrop:
            out[:] = _moved(soft.light[:3], (right, down))
        elif soft.light.size:
            _over(out, *_placed_planes(soft.light, soft.x, soft.y, view, (right, down)))

    def forget(self) -> None:
        """Let go of what was painted."""
        with self._lock:
            self._painted.clear()
            self._together.clear()

    def scale(self, index: int, focus: Focus) -> float:
        """How many times larger a layer stands than it was painted: as it has come closer, or been leaned towards."""
        layer = self.scene.layers[index]
        if math.isinf(layer.distance_mm) or not (layer.moving or focus.lean_mm):
            return 1.0
        scale = layer.distance_mm / self._nearer_by(layer, focus, 0.0)
        return 1.0 if abs(scale - 1) < 0.002 else min(scale, 12.0)

    def _nearer_by(self, layer: Layer, focus: Focus, moved_mm: float) -> float:
        """Distance of a layer that ran or was leaned towards, mm, from a lens moved towards it."""
        run = self.scene.nearer_mm(focus.seconds) if layer.moving else 0.0
        return max(layer.distance_mm - run - focus.lean_mm - moved_mm, self.focal_mm * 1.2)

    def _lay(
        self,
        out: Light,
        layer: Layer,
        raster: _Raster,
        group: _Group,
        view: View,
        scale: float,
        moved_px: tuple[float, float],
    ) -> None:
        """Blur a layer and lay it over what is behind it."""
        if raster.pixels.size == 0:
            return
        pixels, x, y = raster.pixels, raster.x, raster.y
        if layer.backdrop:
            light = light_of(np.asarray(pixels[:, :, :3], np.uint8))
            light = _moved(light, moved_px) if any(moved_px) else light
            out[:] = blurred(light, group.diameter_px, roughly=group.aside)
            return
        if scale != 1.0 or any(moved_px):
            pixels, x, y = _placed(pixels, x, y, view, scale, moved_px)
            if pixels.size == 0:
                return
        _lay_soft(out, layer, _Raster(pixels, x, y), group, view)

    def _rasters(self, view: View) -> list[_Raster]:
        with self._lock:
            if view in self._painted:
                self._painted.move_to_end(view)
                return self._painted[view]
            painted = [_paint(layer, view) for layer in self.scene.layers]
            self._painted[view] = painted
            while len(self._painted) > _KEPT_VIEWS:
                self._painted.popitem(last=False)
            return painted


@lru_cache(maxsize=4)
def falloff(view: View, axis: tuple[float, float], focal_units: float, opened: float) -> Light:
    """Return how much of the light on the axis falls elsewhere in a view, a share, shape (height, width).

    It falls as the fourth power of the cosine of the angle to the axis, and by the share of the aperture that the
    lens's rims leave.

    Parameters
    ----------
    view
        Which part of the frame is looked at, and how large.
    axis
        Where the axis meets the picture, picture units.
    focal_units
        Focal length in picture units.
    opened
        Diameter of the aperture over that of the rims, 0 to 1.
    """
    columns = (np.arange(view.width_px) - view.place(axis[0], 0)[0]) * view.units_per_px
    rows = (np.arange(view.height_px) - view.place(0, axis[1])[1]) * view.units_per_px
    squares = rows[:, None] ** 2 + columns[None, :] ** 2
    apart = _RIM * np.sqrt(squares) / _CORNER_UNITS
    return np.asarray(_left_by_rims(apart, opened) / (1 + squares / focal_units**2) ** 2, np.float32)


def _left_by_rims(apart: NDArray[np.float64], opened: float) -> NDArray[np.float64]:
    """Return the share of an aperture of diameter ``opened`` within two rims of diameter 1 that stand so far apart.

    Front and rear rim stand off to either side of it, so that a small aperture is clear where a wide one is cut.
    """
    steps = np.linspace(0, 1, 65)
    half, turn = steps[:, None] / 2, (np.arange(90) + 0.5) / 90 * math.pi / 2
    reach = np.sqrt(np.maximum(0.25 - (half * np.sin(turn)) ** 2, 0)) - half * np.cos(turn)
    radius = max(opened, 0.01) / 2
    share = (np.clip(reach, 0, radius) ** 2).mean(axis=1) / radius**2
    return np.asarray(np.interp(apart, steps, share), np.float64)


def _alike(one: float, other: float) -> bool:
    return abs(one - other) < max(_ALIKE_PX, _ALIKE_SHARE * max(one, other))


def _laid_together(rasters: Sequence[_Raster]) -> _Raster:
    """Lay rasters over one another, the first farthest back."""
    there = [one for one in rasters if one.pixels.size]
    if not there:
        return rasters[0]
    left, top = min(one.x for one in there), min(one.y for one in there)
    right = max(one.x + one.pixels.shape[1] for one in there)
    bottom = max(one.y + one.pixels.shape[0] for one in there)
    out: Light = np.zeros((4, bottom - top, right - left), np.float32)
    for one in there:
        _over(out, light_of(one.pixels), one.x - left, one.y - top)
    return _Raster(coded(out), left, top)


def _holds_axis(view: View) -> bool:
    """Whether a view holds the middle, about which things grow: only then was all painted that grows into it."""
    across, high = (side * view.units_per_px / 2 for side in (view.width_px, view.height_px))
    return abs(view.centre_x) <= across and abs(view.centre_y) <= high


def _closer(view: View, scale: float) -> View:
    """Return the view of what fills this one when it stands so many times larger."""
    return replace(
        view, units_per_px=view.units_per_px / scale, centre_x=view.centre_x / scale, centre_y=view.centre_y / scale
    )


def _paint(layer: Layer, view: View) -> _Raster:
    canvas = Canvas(view)
    layer.paint(canvas)
    return _Raster(*canvas.cut())


def _softened(layer: Layer, raster: _Raster, diameter: float, view: View, *, roughly: bool) -> _Lit:
    """Blur a layer's raster, with room to spread into unless it covers the frame."""
    pixels, x, y = raster.pixels, raster.x, raster.y
    if not layer.backdrop and pixels.size:
        pixels, x, y = _padded(pixels, x, y, math.ceil(diameter / 2) + 2, view)
    return _Lit(blurred(light_of(pixels), diameter, roughly=roughly), x, y)


def _lay_soft(out: Light, layer: Layer, raster: _Raster, group: _Group, view: View) -> None:
    """Blur a layer and lay it over a picture, band by band, so that what of it is empty costs nothing.

    What is blurred on a smaller copy is done at once: its pixels would not fall alike in all bands.
    """
    margin = math.ceil(group.diameter_px / 2) + 2
    step = max(_BAND_PX, 4 * margin) if group.diameter_px <= DIRECT_PX else view.height_px + 2 * margin
    first, end = raster.y - margin, raster.y + raster.pixels.shape[0] + margin
    for top in range(first, end, step):
        from_row, to_row = max(top - margin - raster.y, 0), max(top + step + margin - raster.y, 0)
        band = raster.pixels[from_row:to_row]
        if not band.size:
            continue
        columns = np.flatnonzero(cv2.reduce(cv2.extractChannel(band, 3), 0, cv2.REDUCE_MAX))
        if not len(columns):
            continue
        left, right = int(columns[0]), int(columns[-1]) + 1
        part = _Raster(band[:, left:right], raster.x + left, raster.y + from_row)
        soft = _softened(layer, part, group.diameter_px, view, roughly=group.aside)
        above = max(top - soft.y, 0)
        _over(out, soft.light[:, above : max(top + step - soft.y, 0)], soft.x, soft.y + above)


def _over(out: Light, soft: Light, x: int, y: int) -> None:
    """Lay light times cover over a picture, or over another layer; its corner at column x and row y."""
    under = out[:, y : y + soft.shape[1], x : x + soft.shape[2]]
    soft = soft[:, : under.shape[1], : under.shape[2]]
    for top in range(0, soft.shape[1], _STRIP_PX):  # so few rows that they stay close to the processor
        rows = slice(top, top + _STRIP_PX)
        strip = soft[:, rows]
        if strip[3].any():
            clear = 1 - strip[3]
            for number in range(len(under)):
                part: Light = under[number, rows]
                part *= clear
                part += strip[number]


def _padded(pixels: Picture, x: int, y: int, margin: int, view: View) -> tuple[Picture, int, int]:
    """Give a cut raster room to spread into; where the frame cuts it, it goes on as its edge does."""
    height, width = pixels.shape[:2]
    left, top = min(margin, x), min(margin, y)
    right, bottom = min(margin, view.width_px - x - width), min(margin, view.height_px - y - height)
    room = cv2.copyMakeBorder(
        pixels, max(top, 0), max(bottom, 0), max(left, 0), max(right, 0), cv2.BORDER_CONSTANT, value=(0, 0, 0, 0)
    )
    return np.asarray(room, np.uint8), x - max(left, 0), y - max(top, 0)


def _moved(light: Light, by_px: tuple[float, float]) -> Light:
    """Move what covers the frame; it goes on as its edge does."""
    matrix = np.array([[1, 0, by_px[0]], [0, 1, by_px[1]]], np.float64)
    size, edge = (light.shape[2], light.shape[1]), cv2.BORDER_REPLICATE
    return np.stack([cv2.warpAffine(plane, matrix, size, flags=cv2.INTER_LINEAR, borderMode=edge) for plane in light])


def _placed(
    pixels: Picture, x: int, y: int, view: View, scale: float, moved_px: tuple[float, float]
) -> tuple[Picture, int, int]:
    """Enlarge a raster about the middle of the picture and move it, cut to the frame."""
    box = _box(pixels.shape[:2], x, y, view, scale, moved_px)
    if box is None:
        return np.zeros((0, 0, 4), np.uint8), 0, 0
    matrix, size, left, top = box
    return np.asarray(cv2.warpAffine(pixels, matrix, size, flags=cv2.INTER_LINEAR), np.uint8), left, top


def _placed_planes(light: Light, x: int, y: int, view: View, moved_px: tuple[float, float]) -> tuple[Light, int, int]:
    """Move light times cover, cut to the frame."""
    box = _box(light.shape[1:], x, y, view, 1.0, moved_px)
    if box is None:
        return np.zeros((4, 0, 0), np.float32), 0, 0
    matrix, size, left, top = box
    return np.stack([cv2.warpAffine(plane, matrix, size, flags=cv2.INTER_LINEAR) for plane in light]), left, top


def _box(
    shape: tuple[int, ...], x: int, y: int, view: View, scale: float, moved_px: tuple[float, float]
) -> tuple[NDArray[np.float64], tuple[int, int], int, int] | None:
    """Return how pixels are enlarged about the middle and moved, and what of the frame they then fill, if anything."""
    cx, cy = view.place(0, 0)
    right, down = cx + (x - cx) * scale + moved_px[0], cy + (y - cy) * scale + moved_px[1]
    left, top = max(math.floor(right), 0), max(math.floor(down), 0)
    end_x = min(math.ceil(right + shape[1] * scale) + 1, view.width_px)
    end_y = min(math.ceil(down + shape[0] * scale) + 1, view.height_px)
    if end_x <= left or end_y <= top:
        return None
    matrix = np.array([[scale, 0, right - left], [0, scale, down - top]], np.float64)
    return matrix, (end_x - left, end_y - top), left, top


def _shine(
    out: Light, view: View, light: PointLight, diameter: float, blades: int, scale: float, axis: tuple[float, float]
) -> None:
    """Add a small light, spread over the shape of the aperture; wide open the lens's rims cut it off the axis."""
    outline = aperture_outline(blades)
    if blades == 0:
        right, down = (_RIM * (at - on) / _CORNER_UNITS for at, on in zip((light.x, light.y), axis, strict=True))
        outline = cut_outline(outline, -right, -down)
    x, y = view.place(light.x * scale, light.y * scale)
    spread = max(diameter, _SPREAD_MIN_PX)
    # Strength is for the whole-frame view: nearer looked at, the same light covers more pixels.
    strength = light.strength * (36.0 / 900 / view.units_per_px) ** 2
    level = _LIGHT_OF_STRENGTH * strength / (math.pi / 4 * spread**2)
    reach = math.ceil(spread / 2 + 2)
    x0, y0 = math.floor(x) - reach, math.floor(y) - reach
    side = 2 * reach + 1
    if x0 + side <= 0 or y0 + side <= 0 or x0 >= view.width_px or y0 >= view.height_px or side > 1200:
        return
    finer = 4 if side < 80 else 2 if side < 300 else 1
    inside: Picture = np.zeros((side * finer, side * finer), np.uint8)
    corners = np.array(outline) * spread + (x - x0 + 0.5, y - y0 + 0.5)
    cv2.fillPoly(inside, [np.rint((corners * finer - 0.5) * 16).astype(np.int32)], 255, cv2.LINE_8, 4)
    if finer > 1:
        inside = np.asarray(cv2.resize(inside, (side, side), interpolation=cv2.INTER_AREA), np.uint8)
    left, top = max(0, -x0), max(0, -y0)
    under = out[:, max(y0, 0) : y0 + side, max(x0, 0) : x0 + side]
    share = inside[top : top + under.shape[1], left : left + under.shape[2]].astype(np.float32) / 255
    under += share * (np.float32(level) * light_of(np.array([[light.colour]], np.uint8)))
