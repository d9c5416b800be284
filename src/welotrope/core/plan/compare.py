"""The same zone held by other lenses, bodies and standards, side by side."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass

from welotrope.core.errors import WelotropeError
from welotrope.core.exposure.motion import FULL_DIAGONAL_MM
from welotrope.core.kit.setup import Setup
from welotrope.core.optics.thin_lens import Datum, film_distance_at_extension
from welotrope.core.plan.framing import background_blur, field_of_view
from welotrope.core.plan.scene_plan import FocusSchool, StopSchool, plan_scene
from welotrope.core.plan.setting import Subject
from welotrope.core.plan.zone import ZoneVerdict
from welotrope.core.ring.window import ring_zone


@dataclass(frozen=True, kw_only=True)
class CompareRow:
    """What a set-up makes of a zone; distances in mm from the film plane.

    Parameters
    ----------
    name, format_mm
        The set-up, and the sides of its picture.
    stop_exact, stop_marked
        The stop the zone needs, and the marked one to use; None when no marked stop does it.
    focus_mm, window_deg
        Where to set, and how wide the window is on its ring.
    near_mm, far_mm
        What the stop asked about gives at that setting.
    width_mm, height_mm
        What the picture holds at that distance.
    equivalent_mm, equivalent_stop
        Focal length and stop that give the same angle and the same depth on a 36 × 24 mm picture seen as large.
    problem
        Why it cannot be said; the rest is then nothing.
    """

    name: str
    format_mm: tuple[float, float]
    stop_exact: float = math.nan
    stop_marked: float | None = None
    focus_mm: float = math.nan
    window_deg: float = math.nan
    near_mm: float = math.nan
    far_mm: float = math.nan
    width_mm: float = math.nan
    height_mm: float = math.nan
    equivalent_mm: float = math.nan
    equivalent_stop: float = math.nan
    problem: str = ""


def crop_factor(diagonal_mm: float) -> float:
    """Return how many times smaller a picture's diagonal, mm, is than that of 36 × 24 mm, a pure number.

    Parameters
    ----------
    diagonal_mm
        Diagonal of the picture in mm.

    Examples
    --------
    >>> round(crop_factor(21.64), 2)
    2.0
    """
    return FULL_DIAGONAL_MM / diagonal_mm


def compare(setups: Iterable[Setup], near_mm: float, far_mm: float, stop: float) -> tuple[CompareRow, ...]:
    """Return what each set-up makes of a zone between two distances, mm, and of ``stop`` at its setting for it.

    Parameters
    ----------
    setups
        Set-ups to compare.
    near_mm
        Nearest distance in mm.
    far_mm
        Farthest distance in mm; infinity allowed.
    stop
        F-number, 0.5 to 128.
    """
    return tuple(_row(setup, near_mm, far_mm, stop) for setup in setups)


def _row(setup: Setup, near_mm: float, far_mm: float, stop: float) -> CompareRow:
    image = setup.body.image
    size = image.width_mm, image.height_mm
    subjects = (Subject("", near_mm), Subject("", far_mm))
    try:
        plan = plan_scene(setup, subjects, focus=FocusSchool.MIDDLE, stop_rule=StopSchool.NEEDED)
        ring = setup.ring(stop)
        zone = ring_zone(ring, ring.setting_for(plan.setting.focus_mm), stop, setup.blur_mm)
        field = field_of_view(image, plan.setting.focus_mm, ring.focal_mm, Datum.FILM, h=ring.h_mm, beyond=ring.beyond)
    except WelotropeError as error:
        return CompareRow(name=setup.name, format_mm=size, problem=error.sentence)
    crop = crop_factor(image.diagonal_mm)
    held = plan.zone.verdict is not ZoneVerdict.NO_STOP
    return CompareRow(
        name=setup.name, format_mm=size, stop_exact=plan.zone.stop_exact,
        stop_marked=plan.zone.stop_marked if held else None, focus_mm=plan.setting.focus_mm,
        window_deg=plan.setting.window_deg, near_mm=zone.near_mm, far_mm=zone.far_mm, width_mm=field.width_mm,
        height_mm=field.height_mm, equivalent_mm=setup.lens.focal_mm * crop, equivalent_stop=stop * crop,
    )  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class FramedRow:
    """What a set-up makes of a picture so wide: from where, and how deep; mm from the film plane.

    Parameters
    ----------
    name
        The set-up.
    distance_mm, magnification
        From where it frames so much, and how large things are there.
    near_mm, far_mm
        The sharp range at the stop asked about, focused there.
    background_share
        Diameter of the blur disc of a far background, as a share of the width of the picture.
    problem
        Why it cannot be said; the rest is then nothing.
    """

    name: str
    distance_mm: float = math.nan
    magnification: float = math.nan
    near_mm: float = math.nan
    far_mm: float = math.nan
    background_share: float = math.nan
    problem: str = ""


def compare_framed(setups: Iterable[Setup], width_mm: float, stop: float) -> tuple[FramedRow, ...]:
    """Return what each set-up makes of a picture that is ``width_mm`` wide, at a stop.

    Parameters
    ----------
    setups
        Set-ups to compare.
    width_mm
        Width in mm of what the picture is to hold.
    stop
        F-number, 0.5 to 128.
    """
    return tuple(_framed(setup, width_mm, stop) for setup in setups)


def _framed(setup: Setup, width_mm: float, stop: float) -> FramedRow:
    m, ring = setup.body.image.width_mm / width_mm, setup.ring(stop)
    x = m * ring.focal_mm
    distance = float(film_distance_at_extension(x, ring.focal_mm, h=ring.h_mm))
    try:
        angle = ring.clamp(float(ring.angle_at_distance(ring.check_near(distance, field="picture so wide"))))
    except WelotropeError as error:
        return FramedRow(name=setup.name, problem=error.sentence)
    zone = ring_zone(ring, angle, stop, setup.blur_mm)
    blur = background_blur(ring.focal_mm, stop, ring.focal_mm * (1 + 1 / m))
    return FramedRow(
        name=setup.name, distance_mm=distance, magnification=m, near_mm=zone.near_mm, far_mm=zone.far_mm,
        background_share=blur / setup.body.image.width_mm,
    )  # fmt: skip
