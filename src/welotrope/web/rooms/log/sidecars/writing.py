"""Writing sidecars and putting them back: what will be done to a file is noted and kept before it is done.

Files are read and written outside transactions, which last some milliseconds each; what a kill leaves between
two steps is finished or taken back at the next start.
"""

from __future__ import annotations

import datetime as dt
import secrets
from collections.abc import Callable, Iterator, Sequence
from contextlib import suppress
from dataclasses import dataclass, field
from itertools import islice
from pathlib import Path

from welotrope.core.errors import UnreadableError, WelotropeError
from welotrope.store import files as stored_files
from welotrope.store import outside
from welotrope.store.errors import DISK_FULL
from welotrope.store.files import hash_of
from welotrope.store.queries import files, sidecars
from welotrope.store.queries.sidecars import SidecarState, Written
from welotrope.store.session import Database
from welotrope.web.request.jobs import turn
from welotrope.web.rooms.log.sidecars.context import Draft, drafts_of
from welotrope.web.rooms.log.sidecars.files import draft_of, read_sidecar, remove_sidecar, write_sidecar

AT_ONCE = 16
_TYPE = "application/rdf+xml"
_LEFT_ALONE = "It was left as it is; change it by hand"


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


_NAME_IT = "Bring the pictures in again from the folder they lie in"


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
