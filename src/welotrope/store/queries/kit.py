"""Bodies, lenses and set-ups: rows to core values and back."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from sqlalchemy import ColumnElement, select
from sqlalchemy.orm import Session

from welotrope.core.errors import ConflictError, UnreadableError
from welotrope.core.kit.aids.kind import AidRecord
from welotrope.core.kit.aids.registry import kind_called, kind_of
from welotrope.core.kit.body import Body
from welotrope.core.kit.lens import Lens, RingReading
from welotrope.core.kit.lens_inputs import Side
from welotrope.core.kit.setup import Setup
from welotrope.core.kit.traits import BodyTraits, LensFit
from welotrope.core.optics.sharpness import ImageFormat, SharpnessStandard, Standard
from welotrope.core.units.distance import Unit
from welotrope.core.units.text import cleaned
from welotrope.store.broken import Broken, broken_rows, readable, why_unreadable
from welotrope.store.errors import NotFoundError
from welotrope.store.models import AdapterRow, BodyRow, LensRow, SettingRow, SetupRow, TrialRow
from welotrope.store.queries.mounts import adapter_of, get_adapter, mount_key, mount_of
from welotrope.store.queries.ring_records import records_of
from welotrope.store.rows import fetch
from welotrope.store.values import from_json, to_json

_IN_HAND = "setup_in_hand"
_PLANES = ("h_mm", "shortens", "closest_magnification", "beyond")


@dataclass(frozen=True)
class StoredSetup:
    """A set-up with the keys of its rows."""

    id: int
    body_id: int
    lens_id: int
    setup: Setup
    adapter_id: int | None = None


def body_of(row: BodyRow) -> Body:
    """Return the core value of a body row."""
    aids = tuple(aid_of(data) for data in row.aids)
    image = ImageFormat(row.width_mm, row.height_mm, row.width_px)
    mount = mount_of(row.mount) if row.mount else None
    return Body(cleaned(row.name), image, aids, mount, from_json(BodyTraits, row.traits))


def aid_of(data: dict[str, Any]) -> AidRecord:
    """Return the aid that ``{"kind": …}`` with its fields describes; raises UnreadableError for an unknown kind."""
    kind = kind_called(str(data.get("kind")))
    if kind is None:
        raise UnreadableError("focusing aid", data.get("kind"), "there is no such kind", "Enter the aids again")
    aid: AidRecord = from_json(kind.record, {key: value for key, value in data.items() if key != "kind"})
    return aid


def aid_data(aid: AidRecord) -> dict[str, Any]:
    """Return an aid as :func:`aid_of` reads it."""
    return {"kind": kind_of(aid).tag, **to_json(aid)}


def lens_of(row: LensRow) -> Lens:
    """Return the core value of a lens row."""
    reading = None
    if row.reading_deg is not None and row.reading_mm is not None:
        reading = RingReading(row.reading_deg, row.reading_mm)
    return Lens(
        name=cleaned(row.name),
        focal_mm=row.focal_mm,
        stops=tuple(row.stops),
        closest_mm=row.closest_mm,
        throw_deg=row.throw_deg,
        reading=reading,
        infinity_side=Side(row.infinity_side),
        ring_diameter_mm=row.ring_diameter_mm,
        engraved_units=tuple(Unit(unit) for unit in row.engraved_units),
        engraved_m=tuple(row.engraved_m),
        engraved_ft=tuple(row.engraved_ft),
        mount=mount_of(row.mount) if row.mount else None,
        fit=from_json(LensFit, row.fit),
        **{name: row.planes[name] for name in _PLANES if name in row.planes},
    )


def stored_setup(row: SetupRow) -> StoredSetup:
    """Return a set-up row as core values with its keys."""
    standard = SharpnessStandard(kind=Standard(row.standard), **row.standard_values)
    adapter = adapter_of(row.adapter) if row.adapter else None
    records = records_of(row.lens, row.id)
    setup = Setup(body_of(row.body), lens_of(row.lens), standard, adapter, records)
    return StoredSetup(row.id, row.body_id, row.lens_id, setup, row.adapter_id)


def list_bodies(session: Session) -> list[tuple[int, Body]]:
    """All bodies that can be read, by name."""
    rows = session.scalars(select(BodyRow).order_by(BodyRow.name, BodyRow.id))
    return readable(rows, lambda row: (row.id, body_of(row)))


def list_lenses(session: Session) -> list[tuple[int, Lens]]:
    """All lenses that can be read, by focal length."""
    rows = session.scalars(select(LensRow).order_by(LensRow.focal_mm, LensRow.name, LensRow.id))
    return readable(rows, lambda row: (row.id, lens_of(row)))


def list_setups(session: Session) -> list[StoredSetup]:
    """All set-ups that can be read, in the order they were made."""
    return readable(session.scalars(select(SetupRow).order_by(SetupRow.id)), stored_setup)


def get_body(session: Session, id: int) -> Body:
    """Return a body; raises NotFoundError."""
    return body_of(fetch(session, BodyRow, "body", id))


def get_lens(session: Session, id: int) -> Lens:
    """Return a lens; raises NotFoundError."""
    return lens_of(fetch(session, LensRow, "lens", id))


def get_setup(session: Session, id: int) -> StoredSetup:
    """Return a set-up; raises NotFoundError."""
    return stored_setup(fetch(session, SetupRow, "set-up", id))


def save_body(session: Session, body: Body, id: int | None = None) -> int:
    """Store a body, new or over the row ``id``; returns its key."""
    row = BodyRow() if id is None else fetch(session, BodyRow, "body", id)
    row.name = body.name
    row.width_mm, row.height_mm, row.width_px = body.image.width_mm, body.image.height_mm, body.image.width_px
    row.aids = [aid_data(aid) for aid in body.aids]
    row.mount_id, row.traits = mount_key(session, body.mount), to_json(body.traits)
    session.add(row)
    session.flush()
    return row.id


def save_lens(session: Session, lens: Lens, id: int | None = None) -> int:
    """Store a lens, new or over the row ``id``; returns its key."""
    row = LensRow() if id is None else fetch(session, LensRow, "lens", id)
    row.name, row.focal_mm, row.stops, row.closest_mm = lens.name, lens.focal_mm, list(lens.stops), lens.closest_mm
    row.throw_deg, row.ring_diameter_mm = lens.throw_deg, lens.ring_diameter_mm
    row.reading_deg = lens.reading.angle_deg if lens.reading else None
    row.reading_mm = lens.reading.distance_mm if lens.reading else None
    row.infinity_side = lens.infinity_side.value
    row.engraved_units = [unit.value for unit in lens.engraved_units]
    row.engraved_m, row.engraved_ft = list(lens.engraved_m), list(lens.engraved_ft)
    row.mount_id, row.fit = mount_key(session, lens.mount), to_json(lens.fit)
    row.planes = {name: getattr(lens, name) for name in _PLANES}
    session.add(row)
    session.flush()
    return row.id


def remember_diameter(session: Session, id: int, diameter_mm: float) -> None:
    """Keep the ring diameter of a lens, mm."""
    fetch(session, LensRow, "lens", id).ring_diameter_mm = diameter_mm
    session.flush()


def save_setup(
    session: Session,
    body_id: int,
    lens_id: int,
    standard: SharpnessStandard,
    id: int | None = None,
    adapter_id: int | None = None,
) -> int:
    """Store a set-up, new or over the row ``id``; checks that the standard suits the body; returns its key.

    What was measured on another joint of lens, adapter and body no longer holds and is removed.
    """
    standard.acceptable_blur(get_body(session, body_id).image)
    get_lens(session, lens_id)
    row = SetupRow() if id is None else fetch(session, SetupRow, "set-up", id)
    if adapter_id is not None:
        get_adapter(session, adapter_id)
    if id is not None and (row.body_id, row.lens_id, row.adapter_id) != (body_id, lens_id, adapter_id):
        row.measurements.clear()
        _let_go(session, SetupRow.id == id)
    row.body_id, row.lens_id, row.standard = body_id, lens_id, standard.kind.value
    row.adapter_id = adapter_id
    row.standard_values = {
        "pixels": standard.pixels,
        "print_width_mm": standard.print_width_mm,
        "viewing_mm": standard.viewing_mm,
        "acuity_arcmin": standard.acuity_arcmin,
        "own_mm": standard.own_mm,
    }
    session.add(row)
    session.flush()
    return row.id


def delete_body(session: Session, id: int) -> None:
    """Delete a body with its set-ups; rounds practised with them stay, by name."""
    row = fetch(session, BodyRow, "body", id)
    _let_go(session, SetupRow.body_id == id)
    session.delete(row)
    session.flush()


def delete_lens(session: Session, id: int) -> None:
    """Delete a lens with its set-ups and presets; rounds practised with them stay, by name."""
    row = fetch(session, LensRow, "lens", id)
    _let_go(session, SetupRow.lens_id == id)
    session.delete(row)
    session.flush()


def delete_setup(session: Session, id: int) -> None:
    """Delete a set-up; its body and lens stay, and rounds practised with it, by name."""
    row = fetch(session, SetupRow, "set-up", id)
    _let_go(session, SetupRow.id == id)
    session.delete(row)
    session.flush()


def setup_in_hand(session: Session) -> StoredSetup | None:
    """Return the set-up chosen last, else the first there is, else None."""
    chosen = session.get(SettingRow, _IN_HAND)
    row = session.get(SetupRow, int(chosen.value)) if chosen and chosen.value.isdigit() else None
    found = readable([row] if row else [], stored_setup)
    if not found:
        found = readable(session.scalars(select(SetupRow).order_by(SetupRow.id)), stored_setup)
    return found[0] if found else None


def take_in_hand(session: Session, id: int) -> StoredSetup:
    """Make a set-up the one in hand; raises NotFoundError."""
    row = fetch(session, SetupRow, "set-up", id)
    session.merge(SettingRow(key=_IN_HAND, value=str(id)))
    return stored_setup(row)


def broken_kit(session: Session) -> list[Broken]:
    """Return the bodies, lenses, set-ups and adapters that cannot be read; a set-up only for what is its own."""
    found = broken_rows(session, BodyRow, "body", body_of) + broken_rows(session, LensRow, "lens", lens_of)
    found += broken_rows(session, AdapterRow, "adapter", adapter_of)
    whole = not found
    return found + (broken_rows(session, SetupRow, "set-up", stored_setup) if whole else [])


def delete_broken(session: Session, table: str, id: int) -> None:
    """Delete a record that cannot be read; raises NotFoundError, and ConflictError for one that can."""
    kinds: dict[str, tuple[Any, Any]] = {
        "body": (BodyRow, body_of), "lens": (LensRow, lens_of), "setup": (SetupRow, stored_setup),
        "adapter": (AdapterRow, adapter_of),
    }  # fmt: skip
    kind, read = kinds.get(table, (None, None))
    if kind is None or read is None:
        raise NotFoundError(table[:20], id)
    row = fetch(session, kind, table, id)
    if why_unreadable(row, read) is None:
        raise ConflictError("record", id, "it can be read", "Delete it on its own page")
    if kind is AdapterRow:
        for setup in session.scalars(select(SetupRow).where(SetupRow.adapter_id == id)):
            setup.adapter_id = None
    else:
        _let_go(session, {BodyRow: SetupRow.body_id, LensRow: SetupRow.lens_id, SetupRow: SetupRow.id}[kind] == id)
    session.delete(row)
    session.flush()


def _let_go(session: Session, which: ColumnElement[bool]) -> None:
    """Part trials from set-ups that go, since their keys may be given again."""
    setups = select(SetupRow.id).where(which)
    for trial in session.scalars(select(TrialRow).where(TrialRow.setup_id.in_(setups))):
        trial.setup_id = None
