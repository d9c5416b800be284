"""A set-up: a lens on a body with an idea of what counts as sharp, and its optics at a setting."""

from __future__ import annotations

import math
from dataclasses import dataclass, field, replace
from functools import cached_property

from welotrope.core.kit.adapter import Adapter, stacked
from welotrope.core.kit.aids.models import AVERAGE_EYE, Eye
from welotrope.core.kit.aids.registry import kind_of, usual_defocus
from welotrope.core.kit.aids.scale import ScaleByEye
from welotrope.core.kit.aids.viewing_optics import LightLevel, Sensor, Target, ViewingOptics
from welotrope.core.kit.body import Body
from welotrope.core.kit.camera_kind import Joins, Opening, ScaleShown, Viewing
from welotrope.core.kit.known_ring import Basis, InfinityBasis, KnownRing, RingRecords, known_ring, ring_zoomed
from welotrope.core.kit.lens import Lens
from welotrope.core.kit.mount import Link, YesNoUnknown
from welotrope.core.optics.sharpness import SharpnessStandard
from welotrope.core.ring.engraving import scale_distances
from welotrope.core.ring.focus_ring import FocusRing
from welotrope.core.ring.window import sharp_window
from welotrope.core.units.distance import Unit
from welotrope.core.units.exposure import format_stop
from welotrope.core.units.turn import TurnUnit, percent_of, rail_of, steps_of


@dataclass(frozen=True, kw_only=True)
class Setup:
    """What is in the photographer's hand; every page answers for one of these.

    ``adapter`` and ``converter`` may both stand between lens and body, in the order their mounts allow.
    ``made_for_body`` says that the photographer knows the lens to be made for this camera; with an adapter it is not.
    ``lens`` is the lens as it works on this joint: an adapter with glass of a known factor is already in its focal
    length and stops, and a zoom stands at ``zoom_mm``, a focal length as marked; None is its longest. ``whole`` is the
    lens at its longest, at which its ring is read.
    """

    body: Body
    lens: Lens
    standard: SharpnessStandard = field(default_factory=SharpnessStandard)
    adapter: Adapter | None = None
    records: RingRecords = field(default_factory=RingRecords)
    zoom_mm: float | None = None
    made_for_body: bool = False
    converter: Adapter | None = None
    whole: Lens | None = field(default=None, repr=False, compare=False)

    def __post_init__(self) -> None:
        factor = math.prod(piece.factor or 1.0 for piece in (self.adapter, self.converter) if piece)
        if not self.lens.zoom:
            object.__setattr__(self, "lens", self.lens.through(factor))
            object.__setattr__(self, "whole", self.lens)
            return
        whole = (self.whole if self.whole and self._stems_from(self.whole) else self.lens).through(factor)
        here = whole.zoom.long_mm if self.zoom_mm is None else self.zoom_mm * factor
        object.__setattr__(self, "whole", whole)
        object.__setattr__(self, "lens", whole.zoomed(here))

    def _stems_from(self, whole: Lens) -> bool:
        """Whether the lens is that one zoomed, and not another put in its place."""
        return whole.zoom.reaches(self.lens.focal_mm) and whole.zoomed(self.lens.focal_mm) == self.lens

    def scale_distances(self, unit: Unit) -> list[float]:
        """Return the distances to show of the scale, mm: those engraved in a unit or the other, or a usual set."""
        listed = self.lens.engraved_in(unit) or self.lens.engraved_in(unit.other)
        return scale_distances(self.known.scale, listed, unit)

    @property
    def is_long(self) -> bool:
        """Whether it stands where its ring is read: any lens that does not zoom, and a zoom at its long end."""
        return not self.lens.zoom or self.lens.focal_mm == self.lens.zoom.long_mm

    def zoomed(self, zoom_mm: float | None) -> Setup:
        """Return the set-up at a marked focal length, mm, or with None at its long end; errors as ``Lens.zoomed``."""
        return replace(self, zoom_mm=zoom_mm) if self.lens.zoom else self

    @property
    def marked_mm(self) -> float:
        """Focal length in hand as marked on the lens, mm: without the factor of glass behind it."""
        return self.lens.focal_mm / self.lens.factor

    @property
    def zoom_marks(self) -> tuple[float, ...]:
        """Marked focal lengths, mm, with the one in hand where it stands between them; empty for a fixed one."""
        factor = self.lens.factor
        marked = {focal / factor for focal in self.lens.zoom.focals_mm}
        return tuple(sorted({*marked, self.marked_mm})) if marked else ()

    @property
    def at_every_mark(self) -> tuple[Setup, ...]:
        """The set-up at each of its marked focal lengths, mm; itself alone when it does not zoom."""
        return tuple(self.zoomed(mark) for mark in self.zoom_marks) or (self,)

    @property
    def next_mark(self) -> float | None:
        """Marked focal length after the one in hand, mm, round and round; None for a fixed one."""
        marks = self.zoom_marks
        return next((mark for mark in marks if mark > self.marked_mm), marks[0] if marks else None)

    def at_focal(self, focal_mm: float) -> Setup:
        """Return the set-up at a focal length, mm, that it zooms to, the glass behind it counted; else as it is."""
        return self.zoomed(focal_mm / self.lens.factor) if self.lens.zoom.reaches(focal_mm) else self

    @property
    def pieces(self) -> tuple[Adapter, ...]:
        """What stands between lens and body, from the lens on: adapter and converter as their mounts allow."""
        return stacked(self.lens.mount, self.adapter, self.converter)

    @property
    def joint_error_mm(self) -> float | None:
        """By how much the joint is too thick, mm of extension; negative too thin, None when not known.

        What lies before glass of a factor ``k`` moves the image behind it by ``k²``: its longitudinal magnification.
        """
        error, found = 0.0, False
        behind = math.prod(piece.factor or 1.0 for piece in self.pieces)
        for piece in self.pieces:
            behind /= piece.factor or 1.0
            if piece.optics:
                continue
            if piece.error_mm is None:
                return None
            error, found = error + piece.error_mm * behind**2, True
        return error if found else None

    @property
    def thickness_mm(self) -> float | None:
        """Thickness of all that stands between lens and body, mm; 0 for nothing, None when one is not known."""
        each = [piece.thickness_mm for piece in self.pieces]
        return None if None in each else sum(one or 0.0 for one in each)

    @property
    def joined_by(self) -> str:
        """Names of what stands between lens and body, from the lens on; empty for nothing."""
        return " and ".join(piece.name for piece in self.pieces)

    @cached_property
    def known(self) -> KnownRing:
        """What is known of the ring on this joint."""
        if self.is_long:
            return known_ring(self.lens, self.joint_error_mm, self.records)
        return ring_zoomed(self.zoomed(None).known, self.lens, bool(self.pieces))

    def ring(self, stop: float | None = None) -> FocusRing:
        """Return the ring as it truly is, at the widest stop or with the focus shift of ``stop`` put right."""
        true = self.known.true
        shift = 0.0 if stop is None else self.shift_deg(stop)
        return true.moved(0.0, turn_deg=shift) if shift else true

    def shift_deg(self, stop: float) -> float:
        """Degrees to turn on towards closest focus for what the lens's focus shift does at ``stop``; 0 untried.

        A zoom was tried at its long end and is not known elsewhere.
        """
        return self.records.shift.at(stop) if self.records.shift and self.is_long else 0.0

    @property
    def infinity_seen(self) -> bool:
        """Whether somebody looked where infinity lies on this set-up: sighted, or read at measured distances."""
        return self.known.infinity_basis in (InfinityBasis.SIGHTED, InfinityBasis.MEASURED)

    @property
    def infinity_known(self) -> bool:
        """Whether the place of infinity is known: seen, or engraved by the maker for a lens on its own mount.

        An adapter, a ring that is assumed and a lens without a scale tell nothing of it.
        """
        native = not self.pieces and self.known.basis is not Basis.ASSUMED and self.has_scale
        return self.infinity_seen or (native and self.known.infinity_basis is InfinityBasis.ENGRAVED)

    @property
    def far_stop_words(self) -> str:
        """What the far end of the ring is called: an endless ring has no end stop, only a mark."""
        return "the ∞ mark" if self.lens.fit.endless or self.noun != "ring" else "the infinity stop"

    @property
    def noun(self) -> str:
        """What the distance is set on: the ring, a bar on the screen, the bed of a view camera."""
        return "bar" if self.known.step_deg is not None else self.body.kind.noun

    @property
    def turn_in(self) -> TurnUnit | None:
        """In what an amount of turning is told; None for degrees of a ring."""
        shown = self.body.kind.scale
        if self.known.step_deg is not None:
            return steps_of(self.known.step_deg)
        if shown is ScaleShown.BAR:
            return percent_of(self.known.true.throw_deg)
        return rail_of(self.known.true.degrees_per_mm(0.0)) if shown is ScaleShown.NUMBERS else None

    @property
    def has_scale(self) -> bool:
        """Whether distances are engraved on the ring, to be read at an index; an indicator on a screen has none."""
        return self.known.step_deg is None and bool(self.lens.engraved_units)

    @property
    def mm_per_degree(self) -> float | None:
        """Surface travel of the ring per degree, mm; None without a diameter or for an indicator on a screen."""
        return None if self.known.step_deg else self.lens.mm_per_degree

    @property
    def blur_mm(self) -> float:
        """Acceptable blur diameter on this body's format, mm."""
        return self.standard.acceptable_blur(self.body.image)

    @property
    def own_lens(self) -> bool:
        """Whether the lens belongs to the camera: fixed to it, or said to be made for it, with nothing between."""
        return not self.pieces and (self.made_for_body or not self.body.kind.has_mount)

    @property
    def opens_for_focusing(self) -> bool:
        """Whether the body keeps the aperture open until the release, and closes it then.

        A reflex does so with lenses of its own, which nothing speaks against; a camera that shows the sensor's picture
        only where it works the aperture itself: with its fixed lens, or through contacts of its own mount.
        """
        camera, mount = self.body.kind, self.lens.mount
        if camera.opening is not Opening.BODY or self.pieces:
            return False
        if camera.viewing is Viewing.SENSOR:
            electronic = mount is not None and mount.actuation is Link.ELECTRONIC
            return camera.joins is Joins.FIXED or electronic
        pressed = self.lens.fit.pin is YesNoUnknown.YES and self.body.traits.presses_pin is YesNoUnknown.YES
        return pressed or mount is None or mount.actuation is not Link.NONE

    @property
    def seen_open(self) -> bool:
        """Whether focus is judged at the widest stop, whatever is set: by the body, by hand, or by a lens apart."""
        camera = self.body.kind
        apart = camera.viewing in (Viewing.OWN_LENS, Viewing.OWN_FINDER)
        return self.opens_for_focusing or camera.opening is Opening.HAND or apart

    def marked_stop(self, stop: float) -> float:
        """Return the stop as it is marked on the lens, which glass behind it makes slower or faster."""
        return stop / self.lens.factor

    def stop_words(self, stop: float) -> str:
        """Write a stop: as marked on the lens, with how it works behind glass of a factor beside."""
        marked = any(math.isclose(stop, one, rel_tol=1e-6) for one in self.lens.stops)
        if self.lens.factor == 1 or not marked:
            return format_stop(stop)
        return f"{format_stop(self.marked_stop(stop))} (works as {format_stop(stop)})"

    def view_stop(self, stop: float) -> float:
        """Return the stop one focuses through when the lens is set to ``stop``."""
        return self.lens.widest if self.seen_open else stop

    @property
    def name(self) -> str:
        """Lens on body, in words."""
        return f"{self.lens.name} on {self.body.name}"


def sight_of(setup: Setup, angle_deg: float, stop: float, view_stop: float) -> ViewingOptics:
    """Return the optics with the index at ``angle_deg``, at a taking and a viewing stop.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    angle_deg
        Angle of the ring in degrees from its infinity stop.
    stop
        F-number, 0.5 to 128.
    view_stop
        F-number that is looked through.
    """
    ring = setup.ring(stop)
    return ViewingOptics(
        focal_mm=setup.lens.focal_mm, focus_x=float(ring.extension_at_angle(angle_deg)), stop=stop,
        view_stop=view_stop, widest=setup.lens.widest, blur_mm=setup.blur_mm,
        degrees_per_mm=ring.degrees_per_mm(angle_deg),
        window_deg=sharp_window(ring, angle_deg, stop, setup.blur_mm).width_deg, mm_per_degree=setup.mm_per_degree,
        h_mm=ring.h_mm, diagonal_mm=setup.body.image.diagonal_mm,
        corner_stop=setup.lens.corner_stop, middle_blur_mm=setup.lens.own_blur_mm(view_stop, corner=False),
        corner_blur_mm=setup.lens.own_blur_mm(view_stop, corner=True),
    )  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class Resolved:
    """What an aid shows at a setting, and how sharp it must be: mm of defocus in image space.

    ``half_mm`` is half the sharp window, ``object_mm`` the distance from the principal plane; ``degrees_per_defocus``
    are degrees of ring for a mm of defocus of a subject that stays.
    """

    defocus_mm: float
    half_mm: float
    degrees_per_defocus: float
    object_mm: float

    @property
    def half_z(self) -> float:
        """Half the sharp window in units of what the aid shows, a ratio."""
        return self.half_mm / self.defocus_mm


def resolved(
    setup: Setup,
    tag: str,
    distance_mm: float,
    stop: float,
    *,
    light: LightLevel = LightLevel.BRIGHT,
    eye: Eye = AVERAGE_EYE,
) -> Resolved:
    """Return what an aid, by its tag, shows of a subject at a distance.

    An aid that the body has not, or that shows nothing there, is taken as a typical one of its kind.

    Parameters
    ----------
    setup, tag
        The set-up, and the tag of the aid.
    distance_mm, stop
        Of the subject from the film plane, mm, may be infinite; and the taking stop.
    light, eye
        How much there is, and constants.

    Raises
    ------
    WelotropeError
        When the ring does not reach the distance.
    """
    ring = setup.ring(stop)
    angle = ring.clamp(float(ring.angle_at_distance(ring.check_reach(distance_mm))))
    sight = sight_of(setup, angle, stop, setup.view_stop(stop))
    aid = ScaleByEye() if tag == "scale" else setup.body.aids_by_tag.get(tag)
    image = setup.body.image
    sensor = Sensor(image.pitch_mm, image.width_px) if image.pitch_mm and image.width_px else None
    found = None
    if aid is not None and (sensor is not None or not kind_of(aid).live):
        found = kind_of(aid).judges(aid, sight, Target(light=light), sensor, eye).defocus_mm
    defocus = usual_defocus(tag, sight, eye=eye) if found is None else found
    return Resolved(
        defocus_mm=defocus, half_mm=sight.half_window_mm, degrees_per_defocus=sight.degrees_per_defocus,
        object_mm=sight.object_mm,
    )  # fmt: skip
