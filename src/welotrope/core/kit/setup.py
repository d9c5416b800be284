"""A set-up: a lens on a body with an idea of what counts as sharp."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from functools import cached_property

from welotrope.core.kit.adapter import Adapter
from welotrope.core.kit.body import Body
from welotrope.core.kit.known_ring import (
    Basis,
    InfinityBasis,
    KnownRing,
    RingRecords,
    known_ring,
    ring_zoomed,
)
from welotrope.core.kit.lens import Lens
from welotrope.core.kit.mount import Link
from welotrope.core.kit.traits import FinderKind
from welotrope.core.optics.sharpness import SharpnessStandard
from welotrope.core.ring.focus_ring import FocusRing


@dataclass(frozen=True, kw_only=True)
class Setup:
    """What is in the photographer's hand; every page answers for one of these.

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
    whole: Lens | None = field(default=None, repr=False, compare=False)

    def __post_init__(self) -> None:
        factor = (self.adapter.factor if self.adapter else None) or 1.0
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

    @cached_property
    def known(self) -> KnownRing:
        """What is known of the ring on this joint."""
        error = self.adapter.error_mm if self.adapter else None
        if self.is_long:
            return known_ring(self.lens, error, self.records)
        return ring_zoomed(self.zoomed(None).known, self.lens, self.adapter is not None)

    def ring(self, stop: float | None = None) -> FocusRing:
        """Return the ring as it truly is, at the widest stop or with the focus shift of ``stop`` put right."""
        true = self.known.true
        shift = 0.0 if stop is None else self.shift_deg(stop)
        return true.moved(0.0, shift) if shift else true

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
        native = self.adapter is None and self.known.basis is not Basis.ASSUMED and self.has_scale
        return self.infinity_seen or (native and self.known.infinity_basis is InfinityBasis.ENGRAVED)

    @property
    def far_stop_words(self) -> str:
        """What the far end of the ring is called: an endless ring has no end stop, only a mark."""
        return "the ∞ mark" if self.lens.fit.endless else "the infinity stop"

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
    def opens_for_focusing(self) -> bool:
        """Whether the lens stays open until the release: a reflex finder, no adapter, aperture worked by the body."""
        mount = self.lens.mount
        worked = mount is not None and mount.actuation in (Link.MECHANICAL, Link.ELECTRONIC)
        return self.body.traits.finder is FinderKind.SLR and self.adapter is None and worked

    def view_stop(self, stop: float) -> float:
        """Return the stop one focuses through when the lens is set to ``stop``."""
        return self.lens.widest if self.opens_for_focusing else stop

    @property
    def name(self) -> str:
        """Lens on body, in words."""
        return f"{self.lens.name} on {self.body.name}"
