"""What the report of an outing shows."""

from __future__ import annotations

from dataclasses import dataclass

from welotrope.core.kit.setup import Setup
from welotrope.core.review.frame import Frame, Outing
from welotrope.core.review.miss import RingMiss, ring_miss
from welotrope.core.review.outcomes import Tally, tally
from welotrope.core.review.report import Division, Leaning, counted, divide, leaning
from welotrope.core.review.search import FrameSearch
from welotrope.core.units.distance import Unit
from welotrope.store.queries import kit, log
from welotrope.store.unit_of_work import UnitOfWork
from welotrope.web.rooms.log.frame.context import FrameLine, frame_lines

MOST = 5000
MOST_MISSES = 40


@dataclass(frozen=True)
class Missed:
    """A frame whose focus fell elsewhere, with how far off the ring was where that can be told."""

    line: FrameLine
    miss: RingMiss | None


@dataclass(frozen=True, kw_only=True)
class ReportPage:
    """The report of an outing: hits divided, misses one by one, and what was noted."""

    outing: Outing
    outings: list[Outing]
    tally: Tally
    divisions: tuple[Division, ...]
    leaning: Leaning | None
    missed: tuple[Missed, ...]
    learned: tuple[FrameLine, ...]
    unit: Unit


def report_page(uow: UnitOfWork, outing_id: int | None, unit: Unit) -> ReportPage | None:
    """Gather the report of an outing, the newest when none is asked for; None without any."""
    outings = log.list_outings(uow)
    outing = next((one for one in outings if one.id == outing_id), outings[0] if outings and not outing_id else None)
    if outing is None:
        return None
    frames = list(reversed(log.page_of_frames(uow, outing.id, FrameSearch(), None, MOST)))
    setups = {one.id: one.setup for one in kit.list_setups(uow)}
    missed = [frame for frame in frames if frame.outcome is not None and frame.outcome.is_miss][:MOST_MISSES]
    lines = frame_lines(uow, missed, unit)
    return ReportPage(
        outing=outing, outings=outings[:40], tally=tally(counted(frames)), divisions=divide(frames),
        leaning=leaning(frames), unit=unit,
        missed=tuple(Missed(line, _miss(frame, setups)) for line, frame in zip(lines, missed, strict=True)),
        learned=frame_lines(uow, [one for one in frames if one.note][:MOST_MISSES], unit),
    )  # fmt: skip


def _miss(frame: Frame, setups: dict[int, Setup]) -> RingMiss | None:
    setup = setups.get(frame.setup_id or 0)
    return None if setup is None else ring_miss(setup, frame)
