"""What the page of infinity shows."""

from __future__ import annotations

from dataclasses import dataclass

from welotrope.core.kit.known_ring import InfinityBasis
from welotrope.core.kit.setup import Setup
from welotrope.core.optics.thin_lens import film_distance_at_extension
from welotrope.core.ring.true_infinity import InfinityFound, ScaleRow, corrected_scale, infinity_stop, thickness_error
from welotrope.core.units.distance import Unit
from welotrope.store.queries.kit import StoredSetup
from welotrope.store.queries.ring_records import StoredRecord
from welotrope.web.rooms.scale.engraved import scale_distances
from welotrope.web.rooms.scale.infinity.form import InfinityForm

_SMALLEST = 128.0  # f-number, smaller than any lens has


@dataclass(frozen=True, kw_only=True)
class InfinityPage:
    """Infinity: where it is, how that is known, what would cure it, and what the engraving really means."""

    stored: StoredSetup
    form: InfinityForm
    problems: list[str]
    reached: bool
    off_deg: float
    error_mm: float | None
    farthest_mm: float
    mark_stop: float | None
    found: InfinityFound | None
    shim_mm: float
    adapter_error_mm: float | None
    sighted: bool
    unknown: bool
    rows: list[ScaleRow]
    horizon_mm: float
    saved: StoredRecord | None
    unit: Unit


def infinity_page(
    stored: StoredSetup, form: InfinityForm, problems: list[str], saved: StoredRecord | None, unit: Unit
) -> InfinityPage:
    """Compute the page of infinity for the focal length in hand; sightings of a zoom are read at its long end."""
    setup, known = stored.setup, stored.setup.known
    off = known.true.infinity_deg - known.scale.infinity_deg
    per_mm = setup.mm_per_degree
    return InfinityPage(
        stored=stored, form=form, problems=problems, reached=known.true.infinity_deg >= -0.05, off_deg=off,
        error_mm=None if per_mm is None else off * per_mm, farthest_mm=known.true.farthest_mm,
        mark_stop=_mark_stop(setup), found=known.found, shim_mm=thickness_error(off, known.true),
        adapter_error_mm=setup.joint_error_mm,
        sighted=known.infinity_basis is InfinityBasis.SIGHTED,
        unknown=known.infinity_basis is InfinityBasis.ENGRAVED and not setup.infinity_known,
        rows=corrected_scale(known.scale, known.true, scale_distances(setup, unit)), horizon_mm=far_enough(setup),
        saved=saved, unit=unit,
    )  # fmt: skip


def _mark_stop(setup: Setup) -> float | None:
    """Return the f-number from which infinity is within the standard with the ring left on its mark; None for none."""
    stop = infinity_stop(abs(setup.known.infinity_short_mm), setup.blur_mm)
    return stop if stop <= max(_SMALLEST, *setup.lens.stops) else None


def far_enough(setup: Setup) -> float:
    """Return the distance in mm beyond which a target is infinity to a tenth of half the widest stop's window.

    A ring is not read more finely than that.
    """
    x = setup.lens.widest * setup.blur_mm / 10
    return film_distance_at_extension(x, setup.lens.focal_mm, h=setup.ring().h_mm)
