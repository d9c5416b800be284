"""Archives and backups changed at random: refused in words, or what was taken is shown by every page."""

from __future__ import annotations

import datetime as dt
import json
import os
import random
import sqlite3
import zipfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

from fastapi.testclient import TestClient

from welotrope.store import backups
from welotrope.store.archive import ArchiveError, read_archive, write_archive
from welotrope.store.session import DATABASE_NAME, Database, DatabaseUnusableError
from welotrope.web.app.application import create_app

CHANGED = int(os.environ.get("CHANGED", "150"))  # of each
NOW = dt.datetime(2026, 3, 15, 10, 30)
HOME = "http://127.0.0.1:8420"
HOSTILE: tuple[Any, ...] = (
    None, "", " ", "x" * 5000, "../../etc/passwd", "/etc/passwd", "\x00", "💥" * 60, "{", "[]", "{}", '{"a": 1}',
    "null", "C:\\x", "½",
    "NaN", 0, -1, 1, 2**62, 2**63, 1e308, -1e308, 1e-320, True, [], {}, {"real": "inf"}, {"real": None}, {"real": "x"},
    "2026-99-99 00:00:00", "0001-01-01 00:00:00.000000", "9999-12-31 23:59:59.999999", "2026-01-01", "a" * 64,
)  # fmt: skip
PAGES = (
    "/", "/scale", "/plan", "/aids", "/practice", "/practice/hand", "/log", "/log?outing=all", "/log/rolls",
    "/log/rolls/1", "/log/pictures", "/log/review", "/log/why", "/log/report", "/log/sidecars", "/log/frames/1", "/kit",
    "/kit/lenses/1",
    "/kit/bodies/1", "/kit/setups/1", "/kit/setups/1/sheet", "/kit/attachments/1", "/kit/adapters/1", "/kit/mounts/1",
    "/kit/add/lens", "/kit/export.json", "/kit/backups", "/field", "/field/cards", "/jobs", "/jump", "/setups",
    "/log/pictures/1/thumb", "/log/pictures/1/full", "/scale/measure", "/scale/infinity", "/scale/shift", "/help",
)  # fmt: skip
Line = Callable[[str, str, bool], None]


def archives(folder: Path, line: Line) -> None:
    """Change archives and backups of a filled folder, take them, and look at every page of what was taken."""
    database = Database(folder)
    whole = folder / "whole.zip"
    write_archive(database, whole, NOW)
    backup = database.backup(folder / "given.sqlite3")
    database.close()
    rng = random.Random(25)
    bad: list[str] = []
    taken = {"archives": 0, "backups": 0}
    for number in range(CHANGED):
        for kind, attempt in (("archives", _archive), ("backups", _backup)):
            place = folder / f"{kind}{number}"
            place.mkdir()
            try:
                what = attempt(rng, whole if kind == "archives" else backup, place)
            except (ArchiveError, DatabaseUnusableError):
                continue
            except Exception as error:  # noqa: BLE001 - anything else is what is looked for
                bad.append(f"{kind} {number}: {type(error).__name__} {error}"[:160])
                continue
            taken[kind] += 1
            bad += [f"{kind} {number}: {what}: {one}"[:200] for one in _pages(place)]
    for one in bad[:16]:
        print("   ", one)
    line(
        f"{CHANGED} changed archives, {CHANGED} changed backups: taken",
        f"{taken['archives']}, {taken['backups']}",
        True,
    )
    line("… fell over, or a page of what was taken did", str(len(bad)), not bad)


def _archive(rng: random.Random, whole: Path, place: Path) -> str:
    changed = place / "changed.zip"
    what = ""
    with zipfile.ZipFile(whole) as source, zipfile.ZipFile(changed, "w") as out:
        tables = [name for name in source.namelist() if name.startswith("tables/") and source.getinfo(name).file_size]
        chosen = rng.choice(tables)
        for name in source.namelist():
            data = source.read(name)
            if name == chosen:
                rows = [json.loads(text) for text in data.decode().splitlines()]
                row = rng.choice(rows)
                field, value = rng.choice(sorted(row)), rng.choice(HOSTILE)
                row[field] = value
                what = f"{chosen} {field} = {value!r}"[:100]
                data = "".join(json.dumps(one) + "\n" for one in rows).encode()
            elif name == "manifest.json" and rng.random() < 0.1:
                says = json.loads(data)
                says[rng.choice(sorted(says))] = rng.choice(HOSTILE)
                data = json.dumps(says).encode()
            out.writestr(name, data)
    read_archive(changed, place / "data")
    return what


def _backup(rng: random.Random, backup: Path, place: Path) -> str:
    changed = place / "changed.sqlite3"
    changed.write_bytes(backup.read_bytes())
    with sqlite3.connect(changed) as connection:
        names = [name for (name,) in connection.execute(
            "SELECT name FROM sqlite_master WHERE type = 'table'"
            " AND name NOT LIKE 'sqlite%' AND name NOT LIKE 'frame_words%'")
            if connection.execute(f'SELECT count(*) FROM "{name}"').fetchone()[0]]  # fmt: skip
        table = rng.choice(names)
        columns = [column[1] for column in connection.execute(f'PRAGMA table_info("{table}")')]
        field = rng.choice(columns)
        value = rng.choice([one for one in HOSTILE if not isinstance(one, list | dict) and one != 2**63])
        what = f"{table} {field} = {value!r}"[:100]
        try:
            connection.execute(
                f'UPDATE "{table}" SET "{field}" = ? WHERE rowid = (SELECT min(rowid) FROM "{table}")', (value,)
            )
        except sqlite3.Error:
            what = "nothing"
    connection.close()
    (place / "data").mkdir()
    backups.restore(changed, place / "data", NOW)
    return what


def _pages(place: Path) -> list[str]:
    folder = place / "data"
    if not (folder / DATABASE_NAME).exists():
        return ["no database"]
    with TestClient(
        create_app(folder, now=lambda: NOW), base_url=HOME, headers={"origin": HOME}, raise_server_exceptions=False
    ) as client:
        return [path for path in PAGES if client.get(path).status_code >= 500]
