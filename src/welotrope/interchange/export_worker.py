"""The process that writes what is large out of a data folder: the log as CSV, an outing as JSON, everything as a ZIP.

It only reads the database, beside whatever the application does with it meanwhile.
"""

from __future__ import annotations

import datetime as dt
from collections.abc import Callable
from pathlib import Path

from welotrope.core.json_values import JsonObject
from welotrope.core.review.search import FrameSearch
from welotrope.interchange.log_files import log_csv, outing_json
from welotrope.interchange.worker_pool import serve
from welotrope.store.archive import write_archive
from welotrope.store.errors import NotFoundError
from welotrope.store.queries import log, pictures, rolls
from welotrope.store.session import Database, reading

MEMORY = 3 * 1024**3
MOST_IN_JSON = 20_000  # frames of an outing


def write_csv(folder: Path, to: Path, asked: JsonObject) -> None:
    """Write the log, or one outing of it."""
    with reading(folder) as uow, to.open("x", encoding="utf-8", newline="") as file:
        named = {id: roll.name for id, roll in rolls.roll_names(uow).items()}
        file.writelines(log_csv(log.every_frame(uow, outing_id=asked["outing"]), rolls=named))


def write_json(folder: Path, to: Path, asked: JsonObject) -> None:
    """Write an outing with its pictures; raises NotFoundError."""
    with reading(folder) as uow:
        outing = log.get_outing(uow, asked["outing"])
        frames = list(reversed(log.page_of_frames(uow, outing.id, FrameSearch(), None, MOST_IN_JSON)))
        shown = pictures.pictures_of_frames(uow, [frame.id for frame in frames])
        named = {id: roll.name for id, roll in rolls.roll_names(uow).items()}
        to.write_text(outing_json(outing, frames, shown, named), encoding="utf-8")


def write_everything(folder: Path, to: Path, asked: JsonObject) -> None:
    """Write an archive."""
    database = Database(folder)
    try:
        write_archive(database, to, dt.datetime.fromisoformat(asked["made"]))
    finally:
        database.close()


WORK: dict[str, Callable[[Path, Path, JsonObject], None]] = {
    "csv": write_csv, "json": write_json, "everything": write_everything,
}  # fmt: skip


def answer(asked: JsonObject) -> JsonObject:
    """Write what is asked for to a file, or return why it was not."""
    try:
        WORK[asked["do"]](Path(asked["folder"]), Path(asked["to"]), asked)
    except NotFoundError as error:
        return {"missing": str(error)}
    except OSError as error:
        return {"error": error.strerror or str(error), "errno": error.errno}
    return {}


if __name__ == "__main__":
    serve(answer, memory=MEMORY)
