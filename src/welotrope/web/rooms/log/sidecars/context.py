"""What would be written beside pictures, and what was."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path

from welotrope.core.errors import WelotropeError
from welotrope.core.picture.lens_data import LensData
from welotrope.core.picture.picture import Picture
from welotrope.core.review.frame import Frame, Outing
from welotrope.interchange.xmp import Merged, XmpChange, merged
from welotrope.store import outside
from welotrope.store.files import hash_of
from welotrope.store.queries import kit, log, pictures, rolls, sidecars
from welotrope.store.queries.sidecars import Batch
from welotrope.store.unit_of_work import UnitOfWork
from welotrope.web.rooms.log.sidecars.files import read_sidecar, sidecar_of


@dataclass(frozen=True, kw_only=True)
class Draft:
    """A picture with the sidecar it would get; ``path`` None for one whose folder is not known, or gone."""

    picture: Picture
    path: Path | None
    existing_sha: str | None
    merged: Merged | None
    problem: str = ""

    @property
    def exists(self) -> bool:
        """Whether there is a sidecar already."""
        return self.existing_sha is not None

    @property
    def changes(self) -> tuple[XmpChange, ...]:
        """What would change."""
        return () if self.merged is None else self.merged.changes


@dataclass(frozen=True, kw_only=True)
class SidecarsPage:
    """What would be written for an outing, picture by picture, and what was written lately."""

    outing: Outing | None
    drafts: tuple[Draft, ...]
    beside: int
    loose: int
    unmatched: int
    batches: list[Batch]
    at_computer: bool
    told: tuple[str, ...]


def sidecars_page(
    uow: UnitOfWork, outing_id: int | None, now: dt.datetime, *, at_computer: bool, told: Sequence[str] = ()
) -> SidecarsPage:
    """Gather the page of an outing, the newest when none is asked for."""
    outings = log.list_outings(uow)
    outing = next((one for one in outings if one.id == outing_id), outings[0] if outings and not outing_id else None)
    drafts = tuple(drafts_of(uow, outing.id, now)) if outing else ()
    return SidecarsPage(
        outing=outing, drafts=drafts, beside=sum(bool(one.path and one.changes) for one in drafts),
        loose=sum(one.path is None for one in drafts),
        unmatched=0 if outing is None else pictures.count_pictures(uow, outing.id) - len(drafts),
        batches=sidecars.latest_batches(uow), at_computer=at_computer, told=tuple(told),
    )  # fmt: skip


def drafts_of(uow: UnitOfWork, outing_id: int, now: dt.datetime) -> Iterator[Draft]:
    """Yield what would be written for the pictures of an outing that belong to a frame."""
    found = [one for one in pictures.list_pictures(uow, outing_id) if one.frame_id is not None]
    frames = {one.id: one for one in log.frames_called(uow, [one.frame_id or 0 for one in found])}
    setups = {one.id: one.setup for one in kit.list_setups(uow)}
    rolled = rolls.roll_names(uow)
    for picture in found:
        frame: Frame = frames[picture.frame_id or 0]
        data = LensData(
            frame=frame, picture=picture, setup=setups.get(frame.setup_id or 0), roll=rolled.get(frame.roll_id or 0),
            now=now,
        )  # fmt: skip
        yield _draft(uow.folder, picture, data)


def _draft(data_folder: Path, picture: Picture, data: LensData) -> Draft:
    known = outside.is_plain_name(picture.name) and outside.may_look_into(data_folder, picture.folder)
    try:
        path = sidecar_of(Path(picture.folder), picture.name) if known else None
        existing = read_sidecar(path) if path is not None else None
        made = merged(existing, data.properties(), path.name if path else picture.name)
    except (WelotropeError, OSError) as error:
        problem = error.sentence if isinstance(error, WelotropeError) else f"{picture.name}: {error.strerror}."
        return Draft(picture=picture, path=None, existing_sha=None, merged=None, problem=problem)
    return Draft(
        picture=picture, path=path, existing_sha=hash_of(existing) if existing is not None else None, merged=made
    )
