"""/scale/infinity: where infinity lies."""

from __future__ import annotations

from dataclasses import dataclass, replace

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.core.errors import UnreadableError
from welotrope.core.inputs import FormInput, Input, inputs_of
from welotrope.core.kit.known_ring import InfinityBasis
from welotrope.core.kit.setup import Setup
from welotrope.core.optics.thin_lens import film_distance_at_extension
from welotrope.core.ring.true_infinity import (
    FARTHEST,
    InfinityFound,
    InfinityRecord,
    ScaleRow,
    Sighting,
    corrected_scale,
    infinity_stop,
    thickness_error,
)
from welotrope.core.units.distance import Unit
from welotrope.store.queries.kit import StoredSetup
from welotrope.store.queries.ring_records import RecordKind, StoredRecord, get_record
from welotrope.web.request.context import CurrentContext
from welotrope.web.rooms.scale.rows import Row, RowsForm, built, columns_of, keep, padded, read_rows

_LEAST_ROWS = 5


class InfinityForm(RowsForm):
    """Sightings as typed."""

    intent: str = ""
    angle: list[str] = []
    warmth: list[str] = []
    farthest: str = ""

    @classmethod
    def of(cls, record: InfinityRecord) -> InfinityForm:
        """Fill the form from a record."""
        texts = {FARTHEST.name: FARTHEST.write(record.farthest_mm)}
        return cls.model_validate(columns_of(Sighting, record.sightings) | texts)

    @property
    def columns(self) -> tuple[Input, ...]:
        """What is asked for in a row."""
        return inputs_of(Sighting)

    @property
    def asks_farthest(self) -> Input:
        """What is asked for where infinity is out of reach."""
        return FARTHEST

    @property
    def rows(self) -> list[Row]:
        """Sightings with blank rows after them."""
        return padded(self.rows_of(Sighting), self.columns, least=_LEAST_ROWS)

    def record(self, typed: FormInput) -> tuple[InfinityRecord | None, list[str]]:
        """Return the record, or None with the sentences of what is wrong."""
        sightings, problems = read_rows(Sighting, self.rows_of(Sighting), "Sighting", typed)

        def build() -> InfinityRecord:
            farthest = FARTHEST.value(replace(typed, texts={FARTHEST.name: self.farthest}))
            if not sightings and farthest is None:
                raise UnreadableError("sightings", "", "there is none", "Write where the ring stood, such as 2.5")
            return InfinityRecord(tuple(sightings), farthest)

        return built(build, problems)


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
        rows=corrected_scale(known.scale, known.true, setup.scale_distances(unit)), horizon_mm=far_enough(setup),
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


router = APIRouter()


@router.get("/scale/infinity")
def infinity(context: CurrentContext) -> Response:
    """Show where infinity lies."""
    stored = context.selected_setup()
    saved = get_record(context.uow, RecordKind.INFINITY, stored.lens_id, stored.id)
    form = InfinityForm.of(saved.record) if saved else InfinityForm()
    return context.page("scale/infinity/page.html", infinity_page(stored, form, [], saved, context.preferences.unit))


@router.post("/scale/infinity")
def sight_infinity(context: CurrentContext) -> Response:
    """Keep sightings of infinity."""
    data = context.typed
    form = InfinityForm.read(data)
    stored = context.setup_as_read()
    record, problems = form.record(context.form_input())
    if record is not None:
        return keep(context, RecordKind.INFINITY, record, "infinity")
    saved = get_record(context.uow, RecordKind.INFINITY, stored.lens_id, stored.id)
    page = infinity_page(context.selected_setup(), form, problems, saved, context.preferences.unit)
    return context.page("scale/infinity/page.html", page, status=422)
