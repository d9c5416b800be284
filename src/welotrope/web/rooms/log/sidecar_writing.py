"""Writing sidecars and putting them back: what will be done to a file is noted and kept before it is done.

Files are read and written outside transactions, which last some milliseconds each; what a kill leaves between
two steps is finished or taken back at the next start.
"""

from __future__ import annotations

import datetime as dt
import hashlib
import os
import secrets
import stat
from collections.abc import Callable, Iterator, Sequence
from contextlib import suppress
from dataclasses import dataclass, field
from itertools import islice
from pathlib import Path

from welotrope.core.errors import UnreadableError, WelotropeError
from welotrope.core.picture.lens_data import LensData
from welotrope.core.picture.picture import Picture
from welotrope.core.review.frame import Frame, Outing
from welotrope.interchange.pictures.opened import PICTURE_SUFFIXES
from welotrope.interchange.xmp import MAX_BYTES, Merged, XmpChange, merged
from welotrope.store import files as stored_files
from welotrope.store import outside
from welotrope.store.errors import DISK_FULL
from welotrope.store.files import hash_of
from welotrope.store.queries import files, kit, log, pictures, rolls, sidecars
from welotrope.store.queries.sidecars import Batch, SidecarState, Written
from welotrope.store.session import Database
from welotrope.store.unit_of_work import UnitOfWork
from welotrope.web.request.jobs import turn

SUFFIX = ".xmp"
AT_ONCE = 16
_TYPE = "application/rdf+xml"
_LEFT_ALONE = "It was left as it is; change it by hand"
_NAME_IT = "Bring the pictures in again from the folder they lie in"


def sidecar_of(folder: Path, name: str) -> Path:
    """Return the sidecar of a picture: the one that is there, else one by its name.

    Two pictures that differ in their suffix only, such as a raw file and its JPEG, have one each, by the whole name.
    """
    picture = folder / name
    own = (folder / f"{name}{SUFFIX}", folder / f"{name}{SUFFIX.upper()}")
    shared = (picture.with_suffix(SUFFIX), picture.with_suffix(SUFFIX.upper()))
    twins = [
        one for one in folder.iterdir()
        if one.stem == picture.stem and one.name != name and one.suffix.lower() in PICTURE_SUFFIXES
    ]  # fmt: skip
    for path in own if twins else (*own, *shared):
        if path.exists():
            return path
    return own[0] if twins else shared[0]


def read_sidecar(path: Path) -> bytes | None:
    """Return what a sidecar holds; None where there is none.

    Raises
    ------
    UnreadableError
        When it is a link, no file, too large, or may not be read.
    """
    works = "Move it away, or give yourself the right to it"
    try:
        found = os.lstat(path)
    except FileNotFoundError:
        return None
    except OSError as error:
        raise UnreadableError("sidecar", path.name, f"it cannot be read ({error.strerror})", works) from None
    if not stat.S_ISREG(found.st_mode):
        raise UnreadableError("sidecar", path.name, "it is a link or no file, and is not followed", works)
    if found.st_size > MAX_BYTES:
        raise UnreadableError("sidecar", path.name, f"it has more than {MAX_BYTES // 1024 // 1024} MB", works)
    try:
        return path.read_bytes()
    except OSError as error:
        raise UnreadableError("sidecar", path.name, f"it cannot be read ({error.strerror})", works) from None


def draft_of(path: Path) -> Path:
    """Return where a sidecar is written before it takes its place."""
    return path.with_name(f".{hashlib.sha256(path.name.encode()).hexdigest()[:16]}.welotrope.part")


def write_sidecar(path: Path, data: bytes) -> None:
    """Write a sidecar in one go, with the rights of the one before.

    Raises
    ------
    UnreadableError
        When it cannot be written; what was there is there still.
    """
    draft = draft_of(path)
    try:
        mode = stat.S_IMODE(os.lstat(path).st_mode) if path.exists() else 0o644
        draft.unlink(missing_ok=True)
        with draft.open("xb") as file:
            file.write(data)
            file.flush()
            os.fsync(file.fileno())
        os.chmod(draft, mode)
        os.replace(draft, path)
    except OSError as error:
        with suppress(OSError):
            draft.unlink(missing_ok=True)
        works = "Make room, or give yourself the right to write there; what was there is there still"
        raise UnreadableError("sidecar", path.name, f"it cannot be written ({error.strerror})", works) from error


def remove_sidecar(path: Path) -> None:
    """Remove a sidecar; raises UnreadableError when it cannot be."""
    try:
        path.unlink()
    except OSError as error:
        reason = f"it cannot be removed ({error.strerror})"
        raise UnreadableError("sidecar", path.name, reason, "Give yourself the right to it") from error


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


@dataclass(frozen=True, kw_only=True)
class SidecarsData:
    """An outing with its drafts and how many pictures it has, and what was written lately."""

    outing: Outing | None
    drafts: tuple[Draft, ...]
    count: int
    batches: list[Batch]


def load_sidecars(uow: UnitOfWork, outing_id: int | None, now: dt.datetime) -> SidecarsData:
    """Read an outing, the newest when none is asked for, and the files beside its pictures."""
    outings = log.list_outings(uow)
    outing = next((one for one in outings if one.id == outing_id), outings[0] if outings and not outing_id else None)
    return SidecarsData(
        outing=outing, drafts=tuple(drafts_of(uow, outing.id, now)) if outing else (),
        count=pictures.count_pictures(uow, outing.id) if outing else 0, batches=sidecars.latest_batches(uow),
    )  # fmt: skip


def sidecars_page(data: SidecarsData, *, at_computer: bool, told: Sequence[str] = ()) -> SidecarsPage:
    """Count what would be written beside pictures, and what has no place there."""
    return SidecarsPage(
        outing=data.outing, drafts=data.drafts, beside=sum(bool(one.path and one.changes) for one in data.drafts),
        loose=sum(one.path is None for one in data.drafts), unmatched=data.count - len(data.drafts),
        batches=data.batches, at_computer=at_computer, told=tuple(told),
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


@dataclass
class WriteResult:
    """What came of it: how many files were done, sentences on the others, and whether the disk filled."""

    count: int = 0
    sentences: list[str] = field(default_factory=list)
    disk_full: bool = False


@dataclass(frozen=True)
class _Begun:
    id: int
    path: Path
    data: bytes


def write_sidecars(database: Database, outing_id: int, now: Callable[[], dt.datetime]) -> WriteResult:
    """Write the sidecars of an outing; what was there before is kept, to be put back."""
    with database.session(write=False) as uow:
        drafts = list(drafts_of(uow, outing_id, now()))
    told = WriteResult(sentences=[draft.problem for draft in drafts if draft.problem])
    batch = secrets.token_hex(8)
    for some in _slices([draft for draft in drafts if draft.path and draft.merged and draft.changes]):
        try:
            begun = _begin(database, batch, some, now(), told)
        except OSError as error:
            if error.errno not in DISK_FULL:
                raise
            told.disk_full = True
            break
        done = [one for one in begun if _write_one(database, one, told)]
        with turn(database) as uow:
            for one in done:
                sidecars.put_state(uow, one.id, SidecarState.WRITTEN)
        told.count += len(done)
        if told.disk_full:
            break
    return told


def _begin(
    database: Database, batch: str, drafts: Sequence[Draft], now: dt.datetime, told: WriteResult
) -> list[_Begun]:
    """Keep what is there and note what will be written, for several at once."""
    ready: list[tuple[Draft, bytes | None]] = []
    for draft in drafts:
        assert draft.path is not None
        try:
            before = _read_again(database, draft)
        except WelotropeError as error:
            told.sentences.append(error.sentence)
            continue
        if before is not None:  # written before the turn begins, in which only its record is
            stored_files.write(database.folder, stored_files.path_of(hash_of(before), _TYPE), before)
        ready.append((draft, before))
    begun = []
    with turn(database) as uow:
        for draft, before in ready:
            assert draft.path is not None
            assert draft.merged is not None
            kept = None if before is None else files.keep_file(uow, before, _TYPE, now)
            data = draft.merged.data
            id = sidecars.begin_writing(uow, batch, draft.picture.id, str(draft.path), kept, hash_of(data), now)
            begun.append(_Begun(id, draft.path, data))
    return begun


def _read_again(database: Database, draft: Draft) -> bytes | None:
    assert draft.path is not None
    if outside.may_write(database.folder, str(draft.path.parent), draft.path.name) is None:
        raise UnreadableError("sidecar", draft.path.name, "it may not be written there", _NAME_IT)
    before = read_sidecar(draft.path)
    if (None if before is None else hash_of(before)) != draft.existing_sha:
        raise UnreadableError("sidecar", draft.path.name, "another program has just changed it", "Write it once more")
    return before


def _write_one(database: Database, one: _Begun, told: WriteResult) -> bool:
    try:
        write_sidecar(one.path, one.data)
    except UnreadableError as error:
        told.sentences.append(error.sentence)
        told.disk_full = told.disk_full or getattr(error.__cause__, "errno", None) in DISK_FULL
        with turn(database) as uow:
            sidecars.forget_begun(uow, one.id)
        return False
    return True


def put_back(database: Database, batch: str) -> WriteResult:
    """Put sidecars back as they were, byte for byte, where nobody changed them since."""
    told = WriteResult()
    with database.session(write=False) as uow:
        standing = sidecars.standing_of(uow, batch)
    for one in standing:
        try:
            _put_one_back(database, one)
            told.count += 1
        except UnreadableError as error:
            told.sentences.append(error.sentence)
            if getattr(error.__cause__, "errno", None) in DISK_FULL:
                told.disk_full = True
                break
    return told


def _put_one_back(database: Database, one: Written) -> None:
    path = _place(database, one)
    now = read_sidecar(path)
    if now is None or hash_of(now) != one.after_sha:
        raise UnreadableError("sidecar", path.name, "it was changed or removed since it was written", _LEFT_ALONE)
    before = _before(database, one)
    with turn(database) as uow:
        sidecars.put_state(uow, one.id, SidecarState.UNDOING)
    try:
        if before is None:
            remove_sidecar(path)
        else:
            write_sidecar(path, before)
    except UnreadableError:
        with turn(database) as uow:
            sidecars.put_state(uow, one.id, SidecarState.WRITTEN)
        raise
    with turn(database) as uow:
        sidecars.put_state(uow, one.id, SidecarState.UNDONE)


def _before(database: Database, one: Written) -> bytes | None:
    if one.before_sha is None:
        return None
    with database.session(write=False) as uow:
        found = files.read_file(uow, one.before_sha)
    if found is None or found[1] != _TYPE:
        raise UnreadableError("sidecar", Path(one.path).name, "what was there before is not kept any more", _LEFT_ALONE)
    return found[0]


def _place(database: Database, one: Written) -> Path:
    """Return where a sidecar lies, if it may be written there."""
    said = Path(one.path)
    path = outside.may_write(database.folder, str(said.parent), said.name)
    if path is None:
        raise UnreadableError("sidecar", said.name, "it lies in no folder that was named on this computer", _NAME_IT)
    return path


def recover(database: Database) -> None:
    """Find out how far what was cut off had come, and note it: each file holds what was before or what was to be."""
    with database.session(write=False) as uow:
        between = sidecars.unfinished(uow)
    for one in between:
        try:
            place = _place(database, one)
            data = read_sidecar(place)
            holds = None if data is None else hash_of(data)
            with suppress(OSError):
                draft_of(place).unlink(missing_ok=True)
        except UnreadableError:
            holds = ""
        with turn(database) as uow:
            if holds == one.before_sha and one.state is SidecarState.BEGUN:
                sidecars.forget_begun(uow, one.id)
            elif holds == one.before_sha:
                sidecars.put_state(uow, one.id, SidecarState.UNDONE)
            else:
                sidecars.put_state(uow, one.id, SidecarState.WRITTEN)


def _slices(drafts: list[Draft]) -> Iterator[list[Draft]]:
    rest = iter(drafts)
    while some := list(islice(rest, AT_ONCE)):
        yield some
