"""Named ring settings of a lens."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from welotrope.core.plan.subjects import Subject, parse_subject_token, subject_token
from welotrope.core.units.text import cleaned
from welotrope.store.broken import readable
from welotrope.store.models import PresetRow
from welotrope.store.rows import fetch


@dataclass(frozen=True)
class Preset:
    """A named setting: film-plane distance in mm (may be infinite), stop, and the subjects planned for."""

    id: int
    lens_id: int
    name: str
    distance_mm: float
    stop: float
    subjects: tuple[Subject, ...]


def list_presets(session: Session, lens_id: int) -> list[Preset]:
    """Presets of a lens, in the order they were made."""
    rows = session.scalars(select(PresetRow).where(PresetRow.lens_id == lens_id).order_by(PresetRow.id))
    return readable(rows, _preset)


def get_preset(session: Session, id: int) -> Preset:
    """Return a preset; raises NotFoundError."""
    return _preset(fetch(session, PresetRow, "preset", id))


def add_preset(
    session: Session, lens_id: int, name: str, distance_mm: float, stop: float, subjects: tuple[Subject, ...]
) -> int:
    """Store a preset and return its key."""
    tokens = [subject_token(subject) for subject in subjects]
    row = PresetRow(lens_id=lens_id, name=name, distance_mm=distance_mm, stop=stop, subjects=tokens)
    session.add(row)
    session.flush()
    return row.id


def rename_preset(session: Session, id: int, name: str) -> None:
    """Give a preset another name."""
    fetch(session, PresetRow, "preset", id).name = name
    session.flush()


def delete_preset(session: Session, id: int) -> None:
    """Delete a preset."""
    session.delete(fetch(session, PresetRow, "preset", id))
    session.flush()


def _preset(row: PresetRow) -> Preset:
    # A subject that cannot be read does not take the setting with it.
    subjects = tuple(readable(row.subjects, parse_subject_token))
    return Preset(row.id, row.lens_id, cleaned(row.name), row.distance_mm, row.stop, subjects)
