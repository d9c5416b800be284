"""Sheets on a wall, measured: whether the lens stands straight to the film, how curved its field is, what to do."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from welotrope.core.optics.elementwise import AnyArray
from welotrope.core.testshot.doubts import light_doubt
from welotrope.core.testshot.facing import BARE_PAPER, FacingBlurs, facing_blurs
from welotrope.core.testshot.find_sheet import facing_sheets_in, markers_in
from welotrope.core.testshot.plane_fit import RobustFit, robust_fit
from welotrope.core.testshot.plane_reading import WIDE
from welotrope.core.testshot.pose import pose_of, shared_plane
from welotrope.core.testshot.sheets import SheetKind
from welotrope.core.testshot.slope import ShotSettings
from welotrope.core.testshot.transfer import as_bytes, as_shares

Grid = NDArray[np.float64]
LEAST_SPREAD = 0.35  # of the picture's width that sheets must span for a tilt to be told
_STOP_KNOWN_TO, _UNKNOWN_TO = 0.1, 1.0
_OWN_PX2, _SOFT_PX2 = 12.0, 40.0  # scatter of the square of own blur in the middle; and how it grows to the corner, px²
_SIDE_PX2 = 9.0  # squared blur of the middle from which on its side can be relied on
_SLOPE_DEG = 12.0  # between wall and film, at most
_MISFIT = 3.5
_MOST_LEAN = 0.03  # of half the picture's length, that a lens on its mount may lean
_WELL_KNOWN_MM = 80.0  # of a sheet that is measured, from which on its size is well known
FLANGE_MM = 50.0  # across which a wedge is said
_STRAIGHT_DEG = 0.02
_TELLING_DEG = 0.4  # half interval from which on nothing useful is known


@dataclass(frozen=True, kw_only=True)
class Told:
    """A value with its 95 % interval."""

    value: float
    low: float
    high: float


@dataclass(frozen=True, kw_only=True)
class WallReading:
    """What pictures of a wall tell of a lens on its body; None for what they do not.

    Parameters
    ----------
    tilt_deg, tip_deg
        How lens and film stand askew: positive, focus lies farther on the right of the picture, and at its top.
    across_mm, upright_mm
        Focus on the right edge against the left, and at the top against the bottom, on the film, mm; of a wall straight
        to the film it is the tilt's tangent times the picture's length and ``1 + m``.
    curvature_mm
        Focus in the corners against the middle, on the film, mm: positive, it lies farther away in the corners.
    soft_px
        What the lens blurs of itself in the corners beyond the middle, as a standard deviation, px.
    half_depth_mm
        Half of what counts as sharp, on the film, mm.
    sheets, pictures
        How many sheets were measured in all, and in how many pictures.
    warnings
        Why it may not be trusted, sentence by sentence.
    """

    tilt_deg: Told | None = None
    tip_deg: Told | None = None
    across_mm: Told | None = None
    upright_mm: Told | None = None
    curvature_mm: Told | None = None
    soft_px: float | None = None
    half_depth_mm: float | None = None
    sheets: int = 0
    pictures: int = 0
    warnings: tuple[str, ...] = ()


@dataclass(frozen=True, kw_only=True)
class WallShot:
    """A picture of the wall, as what is needed of it.

    Parameters
    ----------
    farther
        Whether focus lay farther than the wall.
    sheets
        Their blurs.
    x, y
        Where each of all patches lies on the film, right and down as the picture shows it, from its middle, mm.
    nearness
        Reciprocal distance of each from the lens, 1/mm.
    squared, scatter, sheet_of
        Squared blur of each, px², its scatter, and the sheet it lies on.
    image_mm, pitch_mm, slope_deg, scale
        From the lens to the film and from pixel to pixel, mm; angle between wall and film; px for each mm of the wall.
    size_px
        Width and height of the picture.
    """

    farther: bool
    sheets: tuple[FacingBlurs, ...]
    x: Grid
    y: Grid
    nearness: Grid
    squared: Grid
    scatter: Grid
    sheet_of: NDArray[np.int_]
    image_mm: float
    pitch_mm: float
    slope_deg: float
    scale: float
    size_px: tuple[int, int]
    doubts: tuple[str, ...] = ()


def look_at_wall(picture: AnyArray, shot: ShotSettings, *, farther: bool) -> WallShot | str:
    """Return what is needed of a picture of the wall, or why it tells nothing.

    Parameters
    ----------
    picture
        Grey values the right way up, shape (height, width), 8 bit or any floating range.
    shot
        What is known of it.
    farther
        Whether focus lay farther than the wall, and not nearer.
    """
    grey, light = as_bytes(picture), as_shares(picture)
    size = (picture.shape[1], picture.shape[0])
    seen = facing_sheets_in(markers_in(grey), SheetKind.WALL, size)
    if not seen:
        return "No wall sheet was found. Focus so that the black squares can still be made out, and come nearer."
    sheets = [one for found in seen if (one := facing_blurs(light, found)) is not None]
    if not sheets:
        return "The wall is too blurred to be measured. Focus closer to it, or stop down."
    largest = max(sheets, key=lambda one: len(one.found.ids))
    image = pose_of(largest.found, focal_mm=shot.focal_mm, width_mm=shot.width_mm).image_mm
    return _placed(
        sheets, shot, image, size, farther=farther, doubts=tuple(light_doubt(grey, largest.found, BARE_PAPER))
    )


def _placed(
    sheets: Sequence[FacingBlurs], shot: ShotSettings, image: float, size: tuple[int, int], *, farther: bool,
    doubts: tuple[str, ...],
) -> WallShot:  # fmt: skip
    pitch = shot.width_mm / max(size)
    whole = [one for one in sheets if np.ptp(one.centres_mm, axis=0).min() > _WELL_KNOWN_MM] or sheets
    wall = shared_plane([(one.found, one.centres_mm) for one in whole], image_mm=image, width_mm=shot.width_mm)
    at = np.concatenate([one.found.px(one.centres_mm) for one in sheets])
    x, y = ((at - (np.array(size) - 1) / 2) * pitch).T
    nearness = np.column_stack((x / image, y / image, np.ones(len(x)))) @ wall
    flat = math.degrees(math.atan(math.hypot(wall[0], wall[1]) / wall[2]))
    return WallShot(
        farther=farther, sheets=tuple(sheets), x=x, y=y, nearness=nearness,
        squared=np.concatenate([one.squared for one in sheets]),
        scatter=np.concatenate([one.scatter for one in sheets]),
        sheet_of=np.repeat(np.arange(len(sheets)), [len(one.squared) for one in sheets]), image_mm=image,
        pitch_mm=pitch, slope_deg=flat, scale=float(image * wall[2] / pitch), size_px=size, doubts=doubts,
    )  # fmt: skip


def read_wall(shots: Sequence[WallShot], shot: ShotSettings) -> WallReading:
    """Return what pictures of a wall tell.

    Parameters
    ----------
    shots
        One picture or more, from :func:`look_at_wall`, with nothing but the ring moved between them.
    shot
        What is known of them.
    """
    sheets = sum(len(one.sheets) for one in shots)
    reach = max(float(np.ptp(one.x)) / (one.size_px[0] * one.pitch_mm) for one in shots)
    if reach < LEAST_SPREAD:
        told = "The sheets fill too little of the picture to tell a tilt. Pin up more of them, or come nearer."
        return WallReading(sheets=sheets, pictures=len(shots), warnings=(told,))
    fit = _fitted(shots, shot)
    doubts = tuple(_doubts(shots, fit))
    if not _is_of_a_lens(shots, shot, fit):
        told = "The pictures do not fit one lens: focus would lie on both sides of the wall, or askew by many degrees."
        return WallReading(sheets=sheets, pictures=len(shots), warnings=(*doubts, told))
    return _told(shots, shot, fit, sheets, doubts)


def _is_of_a_lens(shots: Sequence[WallShot], shot: ShotSettings, fit: RobustFit) -> bool:
    """Whether each focus lies on the side it was said to, and the lens leans by no more than one can."""
    sides = zip(shots, fit.params[6:], strict=True)
    as_said = all(bool(focus < np.median(one.nearness)) is one.farther for one, focus in sides)
    lean = float(np.abs(fit.params[:2]).max()) * shots[0].image_mm * shot.focal_mm
    return as_said and lean < _MOST_LEAN * shot.width_mm


def _fitted(shots: Sequence[WallShot], shot: ShotSettings) -> RobustFit:
    """Return how focus grows across, upright and to the corners, 1/mm; log of the rate; own blur; and each focus."""
    squared, scatter = (np.concatenate([getattr(one, name) for one in shots]) for name in ("squared", "scatter"))
    shares = [_shares(one) for one in shots]
    which = np.repeat(np.arange(len(shots)), [len(one.x) for one in shots])
    across, upright, corner = (np.concatenate([share[k] for share in shares]) for k in range(3))
    nearness = np.concatenate([one.nearness for one in shots])
    groups = np.concatenate([one.sheet_of + 100 * index for index, one in enumerate(shots)])
    image, pitch = shots[0].image_mm, shots[0].pitch_mm
    rate = shot.focal_mm / (shot.stop or 2.8) * image / pitch
    known = _STOP_KNOWN_TO if shot.stop else _UNKNOWN_TO
    size = _depth_nearness(shot, image)

    def meant(params: Grid) -> Grid:
        focus = params[6:][which] + params[0] * across + params[1] * upright + params[2] * corner
        return np.asarray(math.exp(2 * params[3]) * (focus - nearness) ** 2 + params[4] + params[5] * corner)

    def residuals(params: Grid) -> Grid:
        before = [(params[3] - math.log(rate)) / known, params[4] / _OWN_PX2, params[5] / _SOFT_PX2]
        return np.concatenate(((squared - meant(params)) / scatter, before))

    begin = np.zeros(6 + len(shots))
    begin[3] = math.log(rate)
    for index, one in enumerate(shots):
        side = -1 if one.farther else 1
        begin[6 + index] = (
            float(np.median(one.nearness)) + side * math.sqrt(max(float(np.median(one.squared)), 1.0)) / rate
        )
    unit = np.array([size, size, size, 1.0, 1.0, 1.0, *[size] * len(shots)])
    return robust_fit(residuals, begin, unit, measured=len(squared), groups=groups)


def _shares(one: WallShot) -> tuple[Grid, Grid, Grid]:
    """Return where patches lie: across and upright from -1 to 1, and the square of how near they are to a corner."""
    width, height = (side * one.pitch_mm / 2 for side in one.size_px)
    corner = (one.x**2 + one.y**2) / (width**2 + height**2)
    return one.x / width, -one.y / height, corner


def _depth_nearness(shot: ShotSettings, image_mm: float) -> float:
    """Return half of what counts as sharp, as a difference of reciprocal distances, 1/mm."""
    return shot.blur_mm * (shot.stop or 2.8) / shot.focal_mm / image_mm


def _told(
    shots: Sequence[WallShot], shot: ShotSettings, fit: RobustFit, sheets: int, doubts: tuple[str, ...]
) -> WallReading:
    one = shots[0]
    width, height = (side * one.pitch_mm for side in one.size_px)
    on_film = one.image_mm**2  # of a difference of reciprocal distances, mm

    def of(index: int, factor: float) -> Told:
        value = float(fit.params[index]) * factor
        wide = WIDE * fit.error(np.eye(len(fit.params))[index]) * abs(factor)
        return Told(value=value, low=value - wide, high=value + wide)

    # A lens that is turned leans its plane of focus by the turn times distance over focal length, not over image
    # distance: seen from the film it has turned itself as well.
    per_length = shot.focal_mm / one.image_mm

    def turned(told: Told, length: float) -> Told:
        low, value, high = (
            math.degrees(math.atan(v * per_length / length)) for v in (told.low, told.value, told.high)
        )  # fmt: skip
        return Told(value=value, low=low, high=high)

    # Focus that is nearer, of larger reciprocal distance, on the right is farther on the left.
    across, upright = of(0, -2 * on_film), of(1, -2 * on_film)
    return WallReading(
        tilt_deg=turned(across, width), tip_deg=turned(upright, height), across_mm=across, upright_mm=upright,
        curvature_mm=of(2, -on_film), soft_px=math.sqrt(max(float(fit.params[5]), 0.0) / 16),
        half_depth_mm=shot.blur_mm * (shot.stop or 2.8) * one.image_mm / shot.focal_mm if shot.stop else None,
        sheets=sheets, pictures=len(shots), warnings=doubts,
    )  # fmt: skip


def _doubts(shots: Sequence[WallShot], fit: RobustFit) -> Iterator[str]:
    for one in shots:
        yield from one.doubts
    if any(float(np.median(one.squared)) < _SIDE_PX2 for one in shots):
        yield (
            "The wall is nearly in focus, so that it does not tell on which side of focus each part of it lies. "
            "Turn the ring until all of it is a little soft."
        )
    if max(one.slope_deg for one in shots) > _SLOPE_DEG:
        yield f"The camera looks at the wall askew by {max(one.slope_deg for one in shots):.0f}°. Stand straight to it."
    sides = {one.farther for one in shots}
    if len(sides) < 2:
        yield (
            "One picture does not tell curvature of field from soft corners. Take a second one focused "
            f"{'nearer' if True in sides else 'farther'} than the wall."
        )
    elif _other_way_round(shots):
        yield (
            "The picture said to be focused nearer shows the wall smaller, as if it were the other way round. Most "
            "lenses show things larger when they are focused nearer. Check which picture is which."
        )
    if float(np.sqrt(np.mean(fit.left**2))) > _MISFIT:
        yield "Blur does not change over the wall as behind a lens. Pin the sheets flat, and do not move the camera."


def _other_way_round(shots: Sequence[WallShot]) -> bool:
    nearer, farther = ([one.scale for one in shots if one.farther is side] for side in (False, True))
    return max(nearer) < min(farther)


def level_headline(found: WallReading) -> str:
    """Return in one line whether lens and film stand straight to one another.

    Parameters
    ----------
    found
        What the pictures of the wall told.
    """
    if found.tilt_deg is None or found.tip_deg is None:
        return "The pictures do not tell whether the lens stands straight"
    sure = [told for told in (found.tilt_deg, found.tip_deg) if _is_sure(told)]
    if not sure:
        wide = max(abs(end) for told in (found.tilt_deg, found.tip_deg) for end in (told.low, told.high))
        if wide > _TELLING_DEG:
            return f"The pictures tell a tilt only to {wide:.1f}°: take them again"
        return f"The lens stands straight to the film, to {max(wide, _STRAIGHT_DEG):.2f}°"
    return f"The lens stands askew to the film by {math.hypot(*(told.value for told in sure)):.2f}°"


def level_sentences(found: WallReading) -> Iterator[str]:
    """Yield which side is nearer and by how much, and how to focus with such a lens.

    Parameters
    ----------
    found
        What the pictures of the wall told.
    """
    if found.tilt_deg is None or found.tip_deg is None:
        return
    for told, sides in ((found.tilt_deg, ("left", "right")), (found.tip_deg, ("bottom", "top"))):
        if _is_sure(told):
            yield _nearer(told, *sides)
    yield from _what_it_does(found)
    yield from _how_to_focus(found)


def _is_sure(told: Told) -> bool:
    return told.low * told.high > 0


def _nearer(told: Told, first: str, second: str) -> str:
    """Return which side of the lens is nearer to the film.

    The picture is turned about on the film: what focuses farther on its right is imaged on the left of the camera.
    """
    side = first if told.value > 0 else second
    wedge = FLANGE_MM * math.tan(math.radians(abs(told.value)))
    low, high = sorted(FLANGE_MM * math.tan(math.radians(abs(end))) for end in (told.low, told.high))
    where = f"at its {side}" if side in ("top", "bottom") else f"on its {side}"
    return (
        f"Seen from behind the camera, the lens sits nearer to the film {where}: by {wedge:.3f} mm across "
        f"{FLANGE_MM:.0f} mm of flange ({low:.3f} to {high:.3f} mm)."
    )


def _what_it_does(found: WallReading) -> Iterator[str]:
    half = found.half_depth_mm
    if not half or found.across_mm is None or found.upright_mm is None:
        return
    edges = (
        ("left and right edge", found.across_mm, found.tilt_deg),
        ("top and bottom", found.upright_mm, found.tip_deg),
    )
    for name, told, angle in edges:
        if angle is not None and _is_sure(angle):
            off = abs(told.value) / 2 / half
            verdict = "beyond 1 they are not sharp" if off > 1 else "within 1 they stay sharp"
            yield f"Focused in the middle, {name} are {off:.1f} half windows off at this stop; {verdict}."


def _how_to_focus(found: WallReading) -> Iterator[str]:
    half, curve = found.half_depth_mm, found.curvature_mm
    if not half or curve is None:
        return
    most = max(abs(curve.low), abs(curve.high)) / half
    off = abs(curve.value) / half
    if min(abs(curve.low), abs(curve.high)) > half and _is_sure(curve):
        side = "farther away" if curve.value > 0 else "nearer"
        yield (
            f"Focus in the corners lies {side}, by {off:.1f} half windows: move the magnified area to the subject. "
            "Focusing in the middle and turning the camera would miss it."
        )
    elif most < 1:
        yield (
            f"Curvature of field stays within {most:.1f} half windows at this stop: as far as the lens goes, "
            "focusing in the middle and turning the camera is safe."
        )
    else:
        yield (
            f"Curvature of field is {off:.1f} half windows at this stop, 0 to {most:.1f} by its interval: move the "
            "magnified area to the subject where it has to be sharp."
        )
