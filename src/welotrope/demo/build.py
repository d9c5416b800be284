"""Build the demo database once; a later start finds it there."""

from __future__ import annotations

import datetime as dt
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

from welotrope.store.queries import kit
from welotrope.store.session import DATABASE_NAME, Database
from welotrope.store.unit_of_work import UnitOfWork

MARKER = ".welotrope-demo"
_MARKED = "The demo of Welotrope lives here; it may be started over. Its evening of 14 March 2026 began at:"
PICTURES, _PICTURES_DONE = "Pictures of the Teal", ".rendered"
_EVENING = dt.datetime(2026, 3, 14, 18, 0)


class NotADemoError(Exception):
    """The folder is not the demo's."""


def build_demo(folder: Path, *, fresh: bool = False, pictures: bool = True, history: bool = True) -> None:
    """Fill ``folder`` with the demo data unless it holds some; ``fresh`` starts over.

    Without ``pictures`` none are rendered, which takes most of the time; without ``history`` there is only the outing
    and what was practised in the finder.

    Raises
    ------
    NotADemoError
        When the folder holds a database that is not the demo's.
    """
    marked = (folder / MARKER).exists()
    if (folder / DATABASE_NAME).exists() and not marked:
        raise NotADemoError(
            f"{folder} holds data that is not the demo's; it was not touched. Name another folder: --data FOLDER."
        )
    if fresh:
        for leftover in folder.glob(f"{DATABASE_NAME}*"):
            leftover.unlink()
        forget_pictures(folder)
    database = Database(folder)
    if not marked or fresh:
        (folder / MARKER).write_text(f"{_MARKED}\n{dt.datetime.now().isoformat(timespec='seconds')}\n")
    with database.session() as uow:
        if not kit.list_bodies(uow) and not kit.list_lenses(uow):
            # What makes the data is slow to import, and a later start does not need it.
            from welotrope.demo.fill import fill
            from welotrope.demo.hand_history import add_hand_history
            from welotrope.demo.measured_shots import add_test_shots

            setups = fill(uow)
            if history:
                add_hand_history(uow, setups)
                add_test_shots(uow, setups)
            uow.commit()
    if pictures and not has_pictures(folder):
        from welotrope.demo.pictures import add_pictures

        add_pictures(lambda: _turn(database), folder)
    database.close()


def demo_clock(folder: Path) -> Callable[[], dt.datetime]:
    """Return the demo's clock: the evening of its outing when it was built, and going on from there."""
    try:
        built = dt.datetime.fromisoformat((folder / MARKER).read_text().split("\n")[1])
    except (OSError, IndexError, ValueError):  # one that was built before it had a clock
        built = dt.datetime.now()
    return lambda: (_EVENING + (dt.datetime.now() - built)).replace(microsecond=0)


def has_pictures(folder: Path) -> bool:
    """Whether the pictures were all rendered into the demo's folder."""
    return (folder / PICTURES / _PICTURES_DONE).exists()


def note_pictures(folder: Path) -> None:
    """Note that all of them were."""
    (folder / PICTURES / _PICTURES_DONE).touch()


def forget_pictures(folder: Path) -> None:
    """Let the pictures be rendered anew."""
    (folder / PICTURES / _PICTURES_DONE).unlink(missing_ok=True)


@contextmanager
def _turn(database: Database) -> Iterator[UnitOfWork]:
    with database.session() as uow:
        yield uow
        uow.commit()
