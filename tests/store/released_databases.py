"""Databases of released revisions, filled and used, as SQL: `make released` writes the newest, tests load them all."""

import datetime as dt
import gzip
import re
import sqlite3
from dataclasses import replace
from pathlib import Path

from welotrope.core.review.frame import Outcome
from welotrope.demo.build import build_demo
from welotrope.store import journal
from welotrope.store.new_database import schema_of
from welotrope.store.queries import kit, log, ring_records
from welotrope.store.session import DATABASE_NAME, Database

RELEASED = Path(__file__).parent / "released"
REVISIONS = tuple(sorted(path.name.removesuffix(".sql.gz") for path in RELEASED.glob("*.sql.gz")))
_DAY = dt.datetime(2026, 3, 14, 12, 0)


def released(revision, folder, *, of=RELEASED):
    """Write the database of a released revision into a folder; returns its counts of lenses, bodies and frames."""
    connection = sqlite3.connect(folder / DATABASE_NAME)
    written = gzip.decompress((of / f"{revision}.sql.gz").read_bytes()).decode()
    # Dumps write infinity as a bare word that SQL does not know.
    connection.executescript(re.sub(r"(?<=,)Inf(?=[,)])", "9e999", written))
    connection.commit()
    counts = counted(connection)
    connection.close()
    return counts


def counted(connection):
    return tuple(
        connection.execute(f"SELECT count(*) FROM {table}").fetchone()[0] for table in ("lens", "body", "frame")
    )


def fill_and_use(folder):
    """Build the demo and change a thing of each kind, as a user's actions do, so that there is something to undo."""
    build_demo(folder, pictures=False)
    database = Database(folder)
    with database.session() as uow:
        setup = kit.list_setups(uow)[0]
        body_id, body = kit.list_bodies(uow)[0]
        lens_id, lens = kit.list_lenses(uow)[0]
        frame = next(frame for _, frame in log.every_frame(uow) if frame.outcome is not None)
        preset = ring_records.list_presets(uow, setup.lens_id)[0]
        held = next(one for one in ring_records.every_record(uow) if one[1] is not None)
        for label, work in (
            ("Changed lens", lambda: kit.save_lens(uow, replace(lens, name=f"{lens.name} II"), id=lens_id)),
            ("Changed body", lambda: kit.save_body(uow, replace(body, name=f"{body.name} II"), id=body_id)),
            (
                "Measured again",
                lambda: ring_records.save_record(uow, held[2], held[0], held[1], held[3].record, _DAY.date()),
            ),
            ("Deleted a preset", lambda: ring_records.delete_preset(uow, preset.id)),
            ("Marked a frame", lambda: log.mark_frame(uow, frame.id, next(o for o in Outcome if o != frame.outcome))),
            ("Deleted set-up", lambda: kit.delete_setup(uow, kit.list_setups(uow)[-1].id)),
        ):  # fmt: skip
            with journal.recorded(uow.sql, label, _DAY):
                work()
        uow.sql.commit()
    database.close()


def dumped(path):
    """Return the SQL that makes a database again, keys that were given away included."""
    connection = sqlite3.connect(path)
    given = connection.execute("SELECT name, seq FROM sqlite_sequence ORDER BY name").fetchall()
    connection.close()
    return "".join((
        schema_of(path),
        "INSERT INTO frame_words (frame_words) VALUES ('rebuild');\n",
        'DELETE FROM "sqlite_sequence";\n',
        *(f"INSERT INTO \"sqlite_sequence\" VALUES('{name}',{last});\n" for name, last in given),
    ))  # fmt: skip


def write_released(revision, folder, scratch):
    """Write the database of the revision that the code is at, filled and used, into ``folder`` as it is kept."""
    fill_and_use(scratch)
    packed = gzip.compress(dumped(scratch / DATABASE_NAME).encode(), mtime=0)
    (folder / f"{revision}.sql.gz").write_bytes(packed)
