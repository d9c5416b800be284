"""A scene on a lens: rendered for a focus and a stop, layer by layer from the back.

Light is added: what is laid, blurred and shone on one another are the strengths of it. Where the focus breathes, the
picture grows and shrinks as a whole, as its target does. Left out are fringes of colour.
"""

from __future__ import annotations

import math
import threading
from collections import OrderedDict
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import cv2
import numpy as np

from welotrope.core.finder.aperture import falloff, shine
from welotrope.core.finder.canvas import Canvas, View
from welotrope.core.finder.layers import (
    BAND_PX,
    Composite,
    Laying,
    Raster,
    laid_together,
    moved_backdrop,
    moved_planes,
    placed,
    slid,
)
from welotrope.core.finder.light import Light, Picture, coded
from welotrope.core.finder.scene import Layer, Scene
from welotrope.core.optics.blur import defocus_blur
from welotrope.core.optics.thin_lens import extension_at_object_distance

Shift = Callable[[int], tuple[float, float]]
_KEPT_VIEWS, _KEPT_TOGETHER = 3, 24
_MOVING_VIEWS, _MOVING_TOGETHER = 1, 8  # of what moves: it is looked at in one view, and seldom blurs as it did
_TOGETHER_PX = 0.25  # by how much they may be moved differently
_ALIKE_PX, _ALIKE_SHARE = 0.35, 0.04  # by how much blurs may differ to be taken for one
# Painted about a view that breathes: as far as this the picture may shrink at its edges or move off the axis.
_BREATH_PX, _BREATH_SHARE = 12, 0.05
_STILL_PX = 0.05


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
    axis
        Where the lens's axis meets the picture, picture units; None for where the target is, which the camera is
        aimed at.
    opened
        The aperture over what the lens's rims let through, 0 to 1: 1 wide open. The picture then darkens towards the
        corners; None leaves it as bright there.
    breathing
        Whether the picture grows as the lens moves out.
    """

    extension_mm: float
    stop: float
    own_blur_mm: float = 0.0
    blades: int = 0
    lean_mm: float = 0.0
    seconds: float = 0.0
    axis: tuple[float, float] | None = None
    opened: float | None = None
    breathing: bool = False


@dataclass(frozen=True)
class _BlurGroup:
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
        self._painted: OrderedDict[View, list[Raster]] = OrderedDict()
        self._together: OrderedDict[tuple[View, int, int], Raster] = OrderedDict()
        self._closest: tuple[View, list[Raster]] | None = None
        self._kept: tuple[tuple[View, Focus, tuple[_BlurGroup, ...]], Light] | None = None
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
        out = self._light(self._painted_view(view, focus), focus, shift)
        return self._seen(out, view, focus)

    def _light(self, view: View, focus: Focus, shift: Shift | None) -> Light:
        """Return the light of a picture that does not breathe, shape (3, height, width)."""
        groups = self._groups(view, focus, [shift] if shift else [])
        still = 0 if shift else self._staying(groups)
        light = self._behind(groups[:still], view, focus)
        self._lay(light, groups[still:], view, focus, shift)
        return light

    def _staying(self, groups: Sequence[_BlurGroup]) -> int:
        """Return how many groups from the back on stay where they are while others move."""
        if not self.scene.moves:
            return 0
        first = next((index for index, one in enumerate(self.scene.layers) if one.moving), 0)
        return sum(group.last < first for group in groups)

    def _behind(self, groups: Sequence[_BlurGroup], view: View, focus: Focus) -> Light:
        """Return the light of what stays behind what moves, shape (3, height, width); kept until the lens is moved."""
        key = view, replace(focus, seconds=0.0), tuple(groups)
        kept = self._kept
        if groups and kept is not None and kept[0] == key:
            return kept[1].copy()
        light: Light = np.zeros((3, view.height_px, view.width_px), np.float32)
        if groups:
            self._lay(light, groups, view, focus, None)
            self._kept = key, light.copy()
        return light

    def _lay(
        self, light: Light, groups: Sequence[_BlurGroup], view: View, focus: Focus, shift: Shift | None
    ) -> None:  # fmt: skip
        """Lay groups before light, shape (3, height, width)."""
        moves = [shift(group.middle) if shift else (0.0, 0.0) for group in groups]
        layings = [self._laying(group, view, focus, moved) for group, moved in zip(groups, moves, strict=True)]
        for top in range(0, view.height_px, BAND_PX):
            out = light[:, top : top + BAND_PX]
            composite = Composite(*out.shape[1:])
            for group, laying, moved in zip(groups[::-1], layings[::-1], moves[::-1], strict=True):
                self._shine_all(composite, group, view, focus, moved, self.scale(group.first, focus), top=top)
                laying.under(composite, top, view)
            composite.fill(out)
            out[:] = composite.light

    def breathing(self, focus: Focus) -> float:
        """Return how many times larger the target stands in the picture than where the lens is focused on it."""
        target = self.scene.layers[self.scene.target].distance_mm
        moved = focus.extension_mm - self._focused_x
        nearer = 1.0 if math.isinf(target) else target / max(target - moved, self.focal_mm)
        return (self.focal_mm + focus.extension_mm) / (self.focal_mm + self._focused_x) * nearer

    def _apart(self, view: View, focus: Focus) -> float:
        """Return by which share things are farther from the axis where they are painted than where they are seen."""
        axis = self._axis(focus)
        most = _breathing_room(view, axis) / _from_axis(view, axis)
        return min(max(1 / self.breathing(focus) - 1, -most), most)

    def _painted_view(self, view: View, focus: Focus) -> View:
        """Return the view with room about it for what comes in when the picture shrinks or moves off the axis."""
        if not focus.breathing:
            return view
        room = 2 * _breathing_room(view, self._axis(focus))
        return replace(view, width_px=view.width_px + room, height_px=view.height_px + room)

    def _breathed(self, light: Light, view: View, focus: Focus) -> Light:
        """Return the light of a view from that painted with room about it, as large as the focus makes it."""
        axis, apart = self._axis(focus), self._apart(view, focus)
        room = _breathing_room(view, axis)
        if abs(apart) * _from_axis(view, axis) < _STILL_PX:
            return light[:, room : room + view.height_px, room : room + view.width_px]
        x, y = view.place(*axis)
        matrix = np.array([[1 + apart, 0, room - x * apart], [0, 1 + apart, room - y * apart]])
        size, flags = (view.width_px, view.height_px), cv2.INTER_CUBIC | cv2.WARP_INVERSE_MAP
        planes = [cv2.warpAffine(plane, matrix, size, flags=flags, borderMode=cv2.BORDER_REPLICATE) for plane in light]
        return np.maximum(np.stack(planes), np.float32(0))  # beside a bright edge a cubic goes below nothing

    def _laying(self, group: _BlurGroup, view: View, focus: Focus, moved_mm: tuple[float, float]) -> Laying:
        """Return layers as they lie in the picture: moved, and larger where they have come closer."""
        layer, scale = self.scene.layers[group.first], self.scale(group.first, focus)
        px = moved_mm[0] / self.unit_mm / view.units_per_px, moved_mm[1] / self.unit_mm / view.units_per_px
        if scale != 1.0 and (self.exact or not _holds_axis(view)):
            raster, scale = laid_together(self._close_up(_closer(view, scale), group, focus)), 1.0
        else:
            raster = self._joined(view, group)
        if raster.pixels.size and layer.backdrop and any(px):
            raster = moved_backdrop(raster, px)
        elif raster.pixels.size and not layer.backdrop and (scale != 1.0 or any(px)):
            raster = placed(raster, view, scale, px)
        return Laying(raster, group.diameter_px, layer.backdrop, group.aside)

    def _seen(self, light: Light, view: View, focus: Focus) -> Picture:
        """Return light as a picture, as large as the focus makes it, and darker towards the corners."""
        if focus.breathing:
            light = self._breathed(light, view, focus)
        if focus.opened is not None:
            light *= falloff(view, self._axis(focus), self.focal_mm / self.unit_mm, round(focus.opened, 2))
        picture: Picture = np.zeros((view.height_px, view.width_px, 3), np.uint8)
        for top in range(0, view.height_px, BAND_PX):
            picture[top : top + BAND_PX] = coded(light[:, top : top + BAND_PX])
        return picture

    def place(self, view: View, focus: Focus, x: float, y: float) -> tuple[float, float]:
        """Return the pixel (column, row) at which a point of the scene, in picture units, is seen in a view."""
        column, row = view.place(x, y)
        if not focus.breathing:
            return column, row
        across, down = view.place(*self._axis(focus))
        scale = 1 / (1 + self._apart(view, focus))
        return across + (column - across) * scale, down + (row - down) * scale

    def _axis(self, focus: Focus) -> tuple[float, float]:
        return focus.axis or (self.scene.target_x, self.scene.target_y)

    def _groups(self, view: View, focus: Focus, shifts: Sequence[Shift]) -> list[_BlurGroup]:
        """Return layers in runs that blur and move so much alike that they do as one."""
        layers, target, unit = self.scene.layers, self.scene.target, view.units_per_px * self.unit_mm
        sizes = [self.blur_mm(index, focus) / unit for index in range(len(layers))]
        moves = [[part / unit for shift in shifts for part in shift(index)] for index in range(len(layers))]
        scales = [self.scale(index, focus) for index in range(len(layers))]
        runs: list[list[int]] = []
        for index, size in enumerate(sizes):
            first = runs[-1][0] if runs else index
            apart = max((abs(a - b) for a, b in zip(moves[first], moves[index], strict=True)), default=0.0)
            grown = scales[first] == scales[index]
            if runs and grown and _alike(sizes[first], size) and apart < _TOGETHER_PX:
                runs[-1].append(index)
            else:
                runs.append([index])
        middles = [target if target in run else run[len(run) // 2] for run in runs]
        return [
            _BlurGroup(run[0], run[-1], middle, sizes[middle], middle != target)
            for run, middle in zip(runs, middles, strict=True)
        ]

    def _joined(self, view: View, group: _BlurGroup) -> Raster:
        """Return layers laid together as they are painted; kept until the view is."""
        rasters = self._rasters(view)
        if group.first == group.last:
            return rasters[group.first]
        key = (view, group.first, group.last)
        found = self._together.get(key)
        if found is None:
            found = laid_together(rasters[group.first : group.last + 1])
            self._together[key] = found
            while len(self._together) > (_MOVING_TOGETHER if self.scene.moves else _KEPT_TOGETHER):
                self._together.popitem(last=False)
        return found

    def _shine_all(
        self, composite: Composite, group: _BlurGroup, view: View, focus: Focus, moved_mm: tuple[float, float],
        scale: float, *, top: int = 0,
    ) -> None:  # fmt: skip
        """Add the lights of layers, moved, to the rows from the top one on: as much as what is nearer lets by."""
        layers = [layer for layer in self.scene.layers[group.first : group.last + 1] if layer.lights]
        if not layers:
            return
        x, y = view.centre_x - moved_mm[0] / self.unit_mm, view.centre_y - moved_mm[1] / self.unit_mm
        shone, axis = replace(view, centre_x=x, centre_y=y), self._axis(focus)
        out = np.zeros_like(composite.light)
        for layer in layers:
            for light in layer.lights:
                shine(
                    out, shone, light, diameter_px=group.diameter_px, scale=scale, axis=axis,
                    blades=focus.blades, opened=focus.opened, top=top,
                )  # fmt: skip
        composite.shine(out)

    def render_parted(self, view: View, focus: Focus, shifts: Sequence[Shift]) -> list[Picture]:
        """Return a picture for each of several shifts; every layer is blurred once for all of them."""
        layers = self.scene.layers
        if any(self.scale(index, focus) != 1.0 for index in range(len(layers))):
            return [self.render(view, focus, shift=shift) for shift in shifts]
        shown, view = view, self._painted_view(view, focus)
        outs = [Composite(view.height_px, view.width_px) for _ in shifts]
        for group in reversed(self._groups(view, focus, shifts)):
            layer, raster = layers[group.first], self._joined(view, group)
            laying = Laying(raster, group.diameter_px, layer.backdrop, group.aside)
            soft, x, y = laying.band(0, view.height_px, view)
            for out, shift in zip(outs, shifts, strict=True):
                right, down = (mm / self.unit_mm / view.units_per_px for mm in shift(group.middle))
                self._shine_all(out, group, view, focus, shift(group.middle), 1.0)
                if soft.size and layer.backdrop:
                    out.fill(slid(soft, (right, down), (view.width_px, view.height_px)))
                elif soft.size:
                    out.under(*moved_planes(soft, x, y, view, (right, down)))
        return [self._seen(out.light, shown, focus) for out in outs]

    def forget(self) -> None:
        """Let go of what was painted."""
        with self._lock:
            self._painted.clear()
            self._closest = self._kept = None
            self._together.clear()

    def scale(self, index: int, focus: Focus) -> float:
        """How many times larger a layer stands than it was painted: as it has come closer, or been leaned towards.

        What comes grows as one body, as its target does: what was hidden when it was far off was never painted.
        """
        layer = self.scene.layers[index]
        if layer.moving and not focus.lean_mm and self.scene.layers[self.scene.target].moving:
            layer = self.scene.layers[self.scene.target]
        if math.isinf(layer.distance_mm) or not (layer.moving or focus.lean_mm):
            return 1.0
        scale = layer.distance_mm / self._nearer_by(layer, focus, 0.0)
        return 1.0 if abs(scale - 1) < 0.002 else min(scale, 12.0)

    def _nearer_by(self, layer: Layer, focus: Focus, moved_mm: float) -> float:
        """Distance of a layer that ran or was leaned towards, mm, from a lens moved towards it."""
        run = self.scene.nearer_mm(focus.seconds) if layer.moving else 0.0
        return max(layer.distance_mm - run - focus.lean_mm - moved_mm, self.focal_mm * 1.2)

    def _close_up(self, view: View, group: _BlurGroup, focus: Focus) -> list[Raster]:
        """Return layers as a closer view shows them; of what comes, all of which grows alike, the last are kept."""
        own = slice(group.first, group.last + 1)
        if focus.lean_mm:  # each layer has a view of its own
            return [_paint(layer, view) for layer in self.scene.layers[own]]
        with self._lock:
            if self._closest is None or self._closest[0] != view:
                self._closest = view, [_paint(layer, view) for layer in self.scene.layers]
            return self._closest[1][own]

    def _rasters(self, view: View) -> list[Raster]:
        with self._lock:
            if view in self._painted:
                self._painted.move_to_end(view)
                return self._painted[view]
            painted = [_paint(layer, view) for layer in self.scene.layers]
            self._painted[view] = painted
            while len(self._painted) > (_MOVING_VIEWS if self.scene.moves else _KEPT_VIEWS):
                self._painted.popitem(last=False)
            return painted


def _alike(one: float, other: float) -> bool:
    return abs(one - other) < max(_ALIKE_PX, _ALIKE_SHARE * max(one, other))


def _from_axis(view: View, axis: tuple[float, float]) -> float:
    """Return how far the edge of a view that is farthest from the axis is off it, pixels."""
    x, y = view.place(*axis)
    return max(x, view.width_px - x, y, view.height_px - y, 1.0)


def _breathing_room(view: View, axis: tuple[float, float]) -> int:
    return min(_BREATH_PX, math.ceil(_BREATH_SHARE * _from_axis(view, axis)))


def _holds_axis(view: View) -> bool:
    """Whether a view holds the middle, about which things grow: only then was all painted that grows into it."""
    across, high = (side * view.units_per_px / 2 for side in (view.width_px, view.height_px))
    return abs(view.centre_x) <= across and abs(view.centre_y) <= high


def _closer(view: View, scale: float) -> View:
    """Return the view of what fills this one when it stands so many times larger."""
    return replace(
        view, units_per_px=view.units_per_px / scale, centre_x=view.centre_x / scale, centre_y=view.centre_y / scale
    )


def _paint(layer: Layer, view: View) -> Raster:
    canvas = Canvas(view)
    layer.paint(canvas)
    return Raster(*canvas.cut())
