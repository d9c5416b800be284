"""Named ring settings of a lens."""

from __future__ import annotations

from sqlalchemy import select

from welotrope.core.errors import ConflictError
from welotrope.core.plan.preset import Preset
from welotrope.core.plan.subjects import Subject, parse_subject_token, subject_token
from welotrope.core.units.distance import format_metric
from welotrope.core.units.stops import format_stop
from welotrope.core.units.text import cleaned
from welotrope.store.broken import readable
from welotrope.store.models import PresetRow
from welotrope.store.rows import fetch, read_as
from welotrope.store.unit_of_work import UnitOfWork


def list_presets(uow: UnitOfWork, lens_id: int) -> list[Preset]:
    """Presets of a lens, in the order they were made."""
    rows = uow.sql.scalars(select(PresetRow).where(PresetRow.lens_id == lens_id).order_by(PresetRow.id))
    return readable(rows, preset_of)


def get_preset(uow: UnitOfWork, id: int) -> Preset:
    """Return a preset; raises NotFoundError."""
    return read_as(fetch(uow, PresetRow, "preset", id), "preset", preset_of)


def preset_named(uow: UnitOfWork, lens_id: int, name: str) -> Preset | None:
    """Return the preset of that name of a lens, or None."""
    return next((preset for preset in list_presets(uow, lens_id) if preset.name == name), None)


def _check_free(uow: UnitOfWork, lens_id: int, name: str) -> None:
    found = preset_named(uow, lens_id, name)
    if found is not None:
        at = f"{format_metric(found.distance_mm)} at {format_stop(found.stop)}"
        raise ConflictError(
            "preset name", name, f"this lens has a preset of that name, {at}", "Choose another name, or replace it"
        )


def add_preset(
    uow: UnitOfWork,
    lens_id: int,
    name: str,
    distance_mm: float,
    stop: float,
    subjects: tuple[Subject, ...],
    *,
    replace: bool = False,
) -> int:
    """Store a preset and return its key; with ``replace`` over the one of its name.

    Raises
    ------
    ConflictError
        When the lens has a preset of that name already: names tell presets apart, in files too.
    """
    old = preset_named(uow, lens_id, name) if replace else None
    if old is not None:
        uow.sql.delete(fetch(uow, PresetRow, "preset", old.id))
        uow.sql.flush()
    _check_free(uow, lens_id, name)
    tokens = [subject_token(subject) for subject in subjects]
    row = PresetRow(lens_id=lens_id, name=name, distance_mm=distance_mm, stop=stop, subjects=tokens)
    uow.sql.add(row)
    uow.sql.flush()
    return row.id


def rename_preset(uow: UnitOfWork, id: int, name: str) -> None:
    """Give a preset another name; raises ConflictError when another of the lens has it."""
    row = fetch(uow, PresetRow, "preset", id)
    if name != row.name:
        _check_free(uow, row.lens_id, name)
    row.name = name
    uow.sql.flush()


def delete_preset(uow: UnitOfWork, id: int) -> None:
    """Delete a preset."""
    uow.sql.delete(fetch(uow, PresetRow, "preset", id))
    uow.sql.flush()


def preset_of(row: PresetRow) -> Preset:
    """Return the core value of a preset row."""
    # A subject that cannot be read does not take the setting with it.
    subjects = tuple(readable(row.subjects, parse_subject_token))
    return Preset(
        id=row.id, lens_id=row.lens_id, name=cleaned(row.name), distance_mm=row.distance_mm, stop=row.stop,
        subjects=subjects,
    )  # fmt: skip
