"""Bringing pictures in, beside the requests: read by processes of their own, stored a few at a time, and reported."""

from __future__ import annotations

import datetime as dt
import os
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from welotrope.core.errors import WelotropeError
from welotrope.core.json_values import JsonObject
from welotrope.core.picture.picture import NewPicture
from welotrope.core.units.text import cleaned
from welotrope.interchange.pictures.opened import DISK_FULL, PICTURE_SUFFIXES, picture_of
from welotrope.interchange.pictures.workers import PictureError, PictureWorkers
from welotrope.store import outside
from welotrope.store.queries import files, history, pictures
from welotrope.store.session import Database
from welotrope.store.unit_of_work import UnitOfWork
from welotrope.web.request.folders import shown_name
from welotrope.web.request.jobs import Progress, turn

MOST_FILES, MOST_DEEP = 20_000, 8
AT_ONCE = 24
_THUMB_TYPE = "image/jpeg"
_REFUSED_AT_ONCE = 200


class DiskFullError(WelotropeError):
    """There is no room to store what was read."""

    def __init__(self, done: int) -> None:
        super().__init__(
            "disk", "no room left", f"{done} pictures were read, and stay", "Make room and bring in the rest"
        )


@dataclass(frozen=True, kw_only=True)
class ImportRequest:
    """What to bring in: files under their folders, for an outing or none; ``keep`` keeps a copy of each file."""

    batch: str
    paths: Sequence[Path]
    dropped: bool = False
    keep: bool = False
    outing_id: int | None = None


@dataclass(frozen=True)
class _Looked:
    path: Path
    thumb: Path
    found: JsonObject


def files_in(folder: Path) -> tuple[list[Path], list[str]]:
    """Return the picture files under a folder in order of name, and sentences on what was passed over."""
    found: list[Path] = []
    passed: list[str] = []
    links = too_deep = 0
    for place, folders, names in os.walk(folder, followlinks=False):
        deep = len(Path(place).relative_to(folder).parts)
        inner = sorted(name for name in folders if not name.startswith("."))
        folders[:] = inner if deep < MOST_DEEP else []
        too_deep += len(inner) - len(folders)
        for name in sorted(names):
            path = Path(place, name)
            if path.suffix.lower() not in PICTURE_SUFFIXES or name.startswith("."):
                continue
            if not outside.is_plain_name(name) or not _is_text(place):
                passed.append(f"{_shown(name)}: its name, or its folder’s, holds what is no text. Rename it.")
                continue
            if path.is_symlink():
                links += 1
                continue
            found.append(path)
    if links:
        passed.append(
            f"{links} link{'' if links == 1 else 's'} passed over: what a link leads to is brought in from there."
        )
    if too_deep:
        passed.append(
            f"{too_deep} folder{'' if too_deep == 1 else 's'} more than {MOST_DEEP} deep passed over:"
            " bring in what they hold by their own name."
        )
    if len(found) > MOST_FILES:
        passed.append(f"Only the first {MOST_FILES} of {len(found)} files were read. Bring in the rest by folder.")
    return found[:MOST_FILES], passed


def _is_text(path: str) -> bool:
    """Whether a path can be stored and shown: some systems let bytes that are no text into names."""
    try:
        path.encode("utf-8")
    except UnicodeEncodeError:
        return False
    return path.isprintable()


def _shown(name: str) -> str:
    return cleaned(name.encode("utf-8", "replace").decode("utf-8"))[:80] or "a file"


def bring_in(
    database: Database,
    workers: PictureWorkers,
    now: Callable[[], dt.datetime],
    order: ImportRequest,
    passed: Sequence[str],
) -> Callable[[Progress], str]:
    """Return the work that brings pictures in."""

    def work(progress: Progress) -> str:
        importer = _Importer(database, workers, now, order)
        ended = "stopped before the end"
        try:
            importer.note(refused=tuple(passed))
            importer.look_at_all(progress)
            importer.measure_all(progress)
            ended = "done"
        except DiskFullError:
            ended = "the disk is full"
            raise
        finally:
            importer.note(ended=ended)
            importer.clear()
        return f"/log/pictures?batch={order.batch}"

    return work


class _Importer:
    """One import."""

    def __init__(
        self, database: Database, workers: PictureWorkers, now: Callable[[], dt.datetime], order: ImportRequest
    ) -> None:
        self.database, self.workers, self.now, self.order = database, workers, now, order
        self.drafts = database.folder / "incoming" / f"drafts-{order.batch}"
        self.drafts.mkdir(parents=True, exist_ok=True, mode=0o700)
        self.added: list[tuple[int, Path]] = []
        self.refused: list[str] = []
        self.done = 0

    def note(self, **what: Any) -> None:
        """Add to the report, with what was refused since the last time."""
        refused, self.refused = (*self.refused, *what.pop("refused", ())), []
        with turn(self.database) as uow:
            pictures.note_import(uow, self.order.batch, refused=refused, **what)

    def look_at_all(self, progress: Progress) -> None:
        """Read every file and store what is new."""
        total = len(self.order.paths)
        waiting: list[_Looked] = []
        for path, result in _in_order(self.workers, self.order.paths, self._look):
            progress.step(self.done, total, note=f"Reading {path.name}")
            self.done += 1
            if isinstance(result, PictureError):
                self._refuse(result)
            else:
                waiting.append(result)
            if len(waiting) >= AT_ONCE:
                self._store(waiting)
                waiting = []
        self._store(waiting)

    def measure_all(self, progress: Progress) -> None:
        """Measure where the new ones are sharp, and make what is shown of them."""
        paths = {path: id for id, path in self.added}
        for count, (path, result) in enumerate(_in_order(self.workers, list(paths), self._measure)):
            progress.step(count, len(paths), note=f"Looking where {path.name} is sharp")
            if isinstance(result, PictureError):
                self._refuse(result)
                continue
            with turn(self.database) as uow:
                preview = files.keep_file(uow, self._taken(result.thumb), _THUMB_TYPE, self.now())
                pictures.keep_measured(uow, paths[path], result.found)
                pictures.change_picture(uow, paths[path], preview_sha=preview)

    def clear(self) -> None:
        """Let go of drafts, and of what was dropped and not kept."""
        places = [self.drafts, *({path.parent for path in self.order.paths} if self.order.dropped else ())]
        for place in places:
            for path in place.glob("*"):
                path.unlink(missing_ok=True)
            if place.is_dir():
                place.rmdir()

    def _look(self, path: Path) -> _Looked:
        thumb = self.drafts / f"{abs(hash(path))}.jpg"
        return _Looked(path, thumb, self.workers.ask("look", path, thumb=str(thumb)))

    def _measure(self, path: Path) -> _Looked:
        preview = self.drafts / f"{abs(hash(path))}-preview.jpg"
        return _Looked(path, preview, self.workers.ask("measure", path, preview=str(preview)))

    def _refuse(self, error: PictureError) -> None:
        if error.errno in DISK_FULL:
            raise DiskFullError(len(self.added))
        self.refused.append(error.sentence)
        if len(self.refused) >= _REFUSED_AT_ONCE:
            self.note()

    def _taken(self, draft: Path) -> bytes:
        data = draft.read_bytes()
        draft.unlink()
        return data

    def _store(self, looked: list[_Looked]) -> None:
        if not looked:
            return
        try:
            with turn(self.database) as uow:
                count = len(looked)
                with history.recorded(uow, f"Brought in {count} picture{'' if count == 1 else 's'}", self.now()):
                    new = [one for one in looked if self._store_one(uow, one)]
                pictures.note_import(
                    uow, self.order.batch, added=len(new), known=len(looked) - len(new)
                )  # fmt: skip
        except OSError as error:
            if error.errno in DISK_FULL:
                raise DiskFullError(len(self.added)) from None
            raise

    def _store_one(self, uow: UnitOfWork, looked: _Looked) -> bool:
        picture = picture_of(looked.path, looked.found)
        if self.order.dropped:
            picture = replace(picture, name=shown_name(looked.path), folder="")
        known = pictures.find_by_hash(uow, picture.sha256)
        if known is not None:
            if picture.folder and not outside.may_look_into(uow.folder, known.folder):
                pictures.change_picture(uow, known.id, folder=picture.folder, name=picture.name)
            looked.thumb.unlink(missing_ok=True)
            return False
        thumb = files.keep_file(uow, self._taken(looked.thumb), _THUMB_TYPE, self.now())
        path, original = looked.path, None
        if self.order.keep:
            original = self._kept(uow, looked.path, picture)
            path = files.place_of_file(uow, original) or path
        id = pictures.add_picture(
            uow, picture, self.order.batch, outing_id=self.order.outing_id, thumb_sha=thumb, original_sha=original
        )
        self.added.append((id, path))
        return True

    def _kept(self, uow: UnitOfWork, path: Path, picture: NewPicture) -> str:
        if self.order.dropped:
            return files.adopt_file(uow, path, picture.sha256, picture.media_type, self.now())
        return files.keep_file(uow, path.read_bytes(), picture.media_type, self.now())


def _in_order(
    workers: PictureWorkers, paths: Sequence[Path], do: Callable[[Path], _Looked]
) -> Iterator[tuple[Path, _Looked | PictureError]]:
    """Yield each path with what came of it, in order, as many at work as there are processes."""
    with ThreadPoolExecutor(workers.count, thread_name_prefix="picture") as pool:
        ahead: list[tuple[Path, Future[_Looked]]] = []
        rest = iter(paths)
        try:
            for path in rest:
                ahead.append((path, pool.submit(do, path)))
                if len(ahead) >= 2 * workers.count:
                    yield _outcome(*ahead.pop(0))
            while ahead:
                yield _outcome(*ahead.pop(0))
        finally:
            for _, future in ahead:
                future.cancel()


def _outcome(path: Path, future: Future[_Looked]) -> tuple[Path, _Looked | PictureError]:
    try:
        return path, future.result()
    except PictureError as error:
        return path, error
