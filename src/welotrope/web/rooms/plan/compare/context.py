"""What the page that compares shows."""

from __future__ import annotations

from dataclasses import dataclass, replace

from welotrope.core.kit.setup import Setup
from welotrope.core.optics.sharpness import SharpnessStandard, Standard
from welotrope.core.plan.compare import CompareRow, compare
from welotrope.core.units.distance import Unit
from welotrope.store.queries.kit import StoredSetup
from welotrope.web.forms.record_form import RecordForm
from welotrope.web.rooms.plan.compare.form import CompareAsked

_STANDARDS = (Standard.PRINT, Standard.FILM, Standard.PIXEL)


@dataclass(frozen=True, kw_only=True)
class ComparePage:
    """The same zone: by every set-up of the kit, and by other standards on the one in hand."""

    form: RecordForm
    errors: dict[str, str]
    asked: CompareAsked | None
    rows: tuple[tuple[int, CompareRow], ...]
    standards: tuple[tuple[str, float, CompareRow], ...]
    in_hand: int
    best: CompareRow | None
    unit: Unit


def compare_page(
    stored: StoredSetup, setups: list[StoredSetup], form: RecordForm, asked: CompareAsked | None,
    errors: dict[str, str], unit: Unit,
) -> ComparePage:  # fmt: skip
    """Compute the page."""
    rows: tuple[tuple[int, CompareRow], ...] = ()
    standards: tuple[tuple[str, float, CompareRow], ...] = ()
    if asked is not None:
        made = compare([one.setup for one in setups], asked.near_mm, asked.far_mm, asked.stop)
        rows = tuple(zip((one.id for one in setups), made, strict=True))
        others = [(kind, _with(stored.setup, kind)) for kind in _STANDARDS]
        usable = [(kind.value, setup) for kind, setup in others if setup is not None]
        answers = compare([setup for _, setup in usable], asked.near_mm, asked.far_mm, asked.stop)
        standards = tuple((name, setup.blur_mm, row) for (name, setup), row in zip(usable, answers, strict=True))
    held = [row for _, row in rows if row.stop_marked is not None]
    return ComparePage(
        form=form, errors=errors, asked=asked, rows=rows, standards=standards, in_hand=stored.id,
        best=min(held, key=lambda row: row.stop_exact, default=None), unit=unit,
    )  # fmt: skip


def _with(setup: Setup, kind: Standard) -> Setup | None:
    """Return the set-up judged by another standard; None for pixels on film."""
    if kind is Standard.PIXEL and setup.body.is_film:
        return None
    return replace(setup, standard=SharpnessStandard(kind=kind))
