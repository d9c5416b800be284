"""Kills in the midst of everything that changes something: what was acknowledged must be there afterwards."""

from __future__ import annotations

import http.client
import json
import random
import re
import sqlite3
import threading
import time
from collections.abc import Callable
from pathlib import Path
from urllib.parse import urlencode

from bs4 import BeautifulSoup

from welotrope.store.session import DATABASE_NAME, Database
from welotrope.web.rooms.log import sidecar_writing

FORM = {"Content-Type": "application/x-www-form-urlencoded"}
JSON = {"Content-Type": "application/json"}
Line = Callable[[str, str, bool], None]


class _Acknowledged:
    """What was answered as done, by what must then be found."""

    def __init__(self) -> None:
        self.lock = threading.Lock()
        self.notes: set[str] = set()
        self.keys: set[str] = set()
        self.marks: dict[int, str] = {}
        self.devices: set[str] = set()
        self.drills = 0


def mixed_kills(make: Callable[[Path], object], folder: Path, pictures: Path, count: int, line: Line) -> None:
    """Kill a server so many times while clients log, mark, queue, pair, import, write sidecars and undo."""
    rng = random.Random(33)
    before = {path: path.read_bytes() for path in pictures.iterdir() if path.suffix != ".xmp"}
    total = lost = 0
    for round_ in range(count):
        server = make(folder)
        seen = _Acknowledged()
        drills = _count(folder, "drill")
        work = (_logs, _marks, _queues, _pairs, _sidecars, _imports, _drills)
        threads = [threading.Thread(target=one, args=(server, seen, round_, pictures), daemon=True) for one in work]
        for thread in threads:
            thread.start()
        time.sleep(rng.uniform(0.3, 1.2))
        server.process.kill()  # type: ignore[attr-defined]
        server.process.wait()  # type: ignore[attr-defined]
        for thread in threads:
            thread.join(5)
        found, missing = _checked(folder, seen)
        found, missing = found + seen.drills, missing + max(drills + seen.drills - _count(folder, "drill"), 0)
        total, lost = total + found, lost + missing
    database = Database(folder)
    sidecar_writing.recover(database)
    with database.session(write=False) as uow:
        from welotrope.store.queries import sidecars

        batches = [batch.key for batch in sidecars.latest_batches(uow, limit=10_000)]
    told = [sidecar_writing.put_back(database, key) for key in batches]
    database.close()
    stay = [path.name for path in pictures.iterdir() if path.suffix in (".xmp", ".part")]
    changed = [path.name for path, data in before.items() if path.read_bytes() != data]
    line(f"{count} kills in a mix of writes: acknowledged ones lost", f"{lost} of {total}", lost == 0)
    line("… sidecars not put back, pictures changed", f"{len(stay)}, {len(changed)}", not stay and not changed)
    wrong = [one for each in told for one in each.sentences]
    line("… sidecars that could not be put back", f"{len(wrong)} {wrong[:1]}"[:40], not wrong)


def _count(folder: Path, table: str) -> int:
    with sqlite3.connect(folder / DATABASE_NAME) as connection:
        found: int = connection.execute(f"SELECT count(*) FROM {table}").fetchone()[0]
    connection.close()
    return found


def _checked(folder: Path, seen: _Acknowledged) -> tuple[int, int]:
    with sqlite3.connect(folder / DATABASE_NAME) as connection:
        notes = {one for (one,) in connection.execute("SELECT note FROM frame")}
        keys = {one for (one,) in connection.execute("SELECT key FROM received")}
        marks = dict(connection.execute("SELECT id, outcome FROM frame"))
        devices = {one for (one,) in connection.execute("SELECT name FROM device")}
    connection.close()
    missing = len(seen.notes - notes) + len(seen.keys - keys) + len(seen.devices - devices)
    missing += sum(marks.get(id) != outcome for id, outcome in seen.marks.items())
    return len(seen.notes) + len(seen.keys) + len(seen.devices) + len(seen.marks), missing


def _loop(server: object, do: Callable[[http.client.HTTPConnection, int], None]) -> None:
    connection = server.connect()  # type: ignore[attr-defined]
    try:
        for number in range(10_000):
            do(connection, number)
    except (http.client.HTTPException, OSError, IndexError):
        return


def _sent(
    server: object, connection: http.client.HTTPConnection, path: str, body: str | bytes, headers: dict[str, str] = FORM
) -> tuple[int, bytes]:
    connection.request("POST", path, body, {"Origin": server.home, **headers})  # type: ignore[attr-defined]
    answer = connection.getresponse()
    return answer.status, answer.read()


def _logs(server: object, seen: _Acknowledged, round_: int, _pictures: Path) -> None:
    def do(connection: http.client.HTTPConnection, number: int) -> None:
        note = f"m{round_}-{number}"
        body = urlencode({"at": "2.4 m", "stop": "5.6", "note": note})
        if _sent(server, connection, "/log/frames", body)[0] < 400:
            seen.notes.add(note)

    _loop(server, do)


def _marks(server: object, seen: _Acknowledged, round_: int, _pictures: Path) -> None:
    def do(connection: http.client.HTTPConnection, number: int) -> None:
        id, outcome = 1 + number % 9, ("hit", "behind", "in front")[(number + round_) % 3]
        with seen.lock:
            seen.marks.pop(id, None)
        if _sent(server, connection, f"/log/frames/{id}/mark", urlencode({"outcome": outcome}))[0] < 400:
            seen.marks[id] = outcome

    _loop(server, do)


def _queues(server: object, seen: _Acknowledged, round_: int, _pictures: Path) -> None:
    def do(connection: http.client.HTTPConnection, number: int) -> None:
        key = f"key-{round_:04d}-{number:06d}"
        entry = {
            "kind": "frame", "key": key, "at": "2026-03-15T10:05:00", "setup": 1, "body": "Ostrel 6",
            "lens": "Norrvik 50", "focal_mm": 50, "blur_mm": 0.029, "stop": 8, "distance_mm": 3000,
            "angle_deg": 31.9, "near_mm": 2400, "far_mm": 4100,
        }  # fmt: skip
        body = json.dumps({"now": "2026-03-15T10:30:00", "entries": [entry]})
        status, answer = _sent(server, connection, "/field/queue", body, JSON)
        if status == 200 and json.loads(answer)["results"][0]["took"] == "stored":
            seen.keys.add(key)

    _loop(server, do)


def _pairs(server: object, seen: _Acknowledged, round_: int, _pictures: Path) -> None:
    outside = f"127.0.0.2:{server.port}"  # type: ignore[attr-defined]

    def do(connection: http.client.HTTPConnection, number: int) -> None:
        _, page = _sent(server, connection, "/devices/code", "")
        code = re.search(rb"data-code>([A-Z0-9-]+)<", page)
        name = f"phone {round_}-{number}"
        other = http.client.HTTPConnection("127.0.0.2", server.port, timeout=10)  # type: ignore[attr-defined]
        other.request("POST", "/pair", urlencode({"code": code.group(1).decode() if code else "", "name": name}),
                      {"Origin": f"http://{outside}", **FORM})  # fmt: skip
        if other.getresponse().status == 303:
            seen.devices.add(name)
        time.sleep(0.1)

    _loop(server, do)


def _sidecars(server: object, seen: _Acknowledged, _round: int, _pictures: Path) -> None:
    def do(connection: http.client.HTTPConnection, number: int) -> None:
        status, page = _sent(server, connection, "/log/sidecars/write?outing=1", "")
        batch = re.search(rb'name="batch"\s+value="([0-9a-f]+)"', page)
        if status == 200 and batch and number % 2:
            _sent(server, connection, "/log/sidecars/undo?outing=1", urlencode({"batch": batch.group(1).decode()}))

    _loop(server, do)


def _drills(server: object, seen: _Acknowledged, _round: int, _pictures: Path) -> None:
    where = {"path": "/practice/tape"}

    def page(connection: http.client.HTTPConnection, action: str) -> dict[str, str]:
        connection.request("GET", where["path"])
        return _fields(connection.getresponse().read(), action)

    def do(connection: http.client.HTTPConnection, number: int) -> None:
        if number == 0:
            begin = page(connection, "/practice/tape/begin")
            connection.request("POST", "/practice/tape/begin", urlencode({**begin, "distance": "2 m"}),
                               {"Origin": server.home, **FORM})  # type: ignore[attr-defined]  # fmt: skip
            answer = connection.getresponse()
            answer.read()
            where["path"] = answer.headers["location"] or where["path"]
        sent = {**page(connection, "/practice/tape"), "reading": "0.4", "where": "farther"}
        if _sent(server, connection, "/practice/tape", urlencode(sent))[0] < 400:
            seen.drills += 1

    _loop(server, do)


def _fields(page: bytes, action: str) -> dict[str, str]:
    """Return what a form of a page sends as it stands."""
    form = BeautifulSoup(page, "html.parser").select_one(f'form[action="{action}"]')
    if form is None:
        return {}
    found = {one["name"]: one.get("value", "") for one in form.select("input[name]")
             if one.get("type") not in ("radio", "checkbox") or one.has_attr("checked")}  # fmt: skip
    for choice in form.select("select[name]"):
        chosen = choice.select_one("option[selected]") or choice.select_one("option")
        found[choice["name"]] = chosen.get("value", "") if chosen else ""
    return {str(name): str(value) for name, value in found.items()}


def _imports(server: object, _seen: _Acknowledged, _round: int, pictures: Path) -> None:
    def do(connection: http.client.HTTPConnection, number: int) -> None:
        _sent(server, connection, "/log/pictures/folder", urlencode({"folder": str(pictures), "outing": "1"}))
        status, page = _sent(server, connection, "/log/outings", urlencode({"name": f"o{number}", "day": "2026-03-15"}))
        undo = re.search(rb'action="(/undo/\d+)', page)
        if status == 200 and undo:
            _sent(server, connection, undo.group(1).decode(), "")
        time.sleep(0.3)

    _loop(server, do)
