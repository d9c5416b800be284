"""Whether anybody waits: a second client asks for pages while others ask for everything that is heavy at once.

Large pictures full size, archives, exports of a long log, calculations at their largest, folders walked, pictures
measured, outings deleted and brought back. Then the program is told to end in the midst of it.
"""

from __future__ import annotations

import http.client
import json
import statistics
import threading
import time
from collections import Counter
from collections.abc import Callable
from pathlib import Path
from urllib.parse import urlencode

import numpy as np
from PIL import Image
from sqlalchemy import insert

from welotrope.demo.build import build_demo
from welotrope.store.models import FrameRow
from welotrope.store.session import Database

FRAMES, OUTING_FRAMES, PICTURES, SECONDS = 100_000, 33_000, 6, 45
WALKED = 20_000
FORM = {"Content-Type": "application/x-www-form-urlencoded"}
Line = Callable[[str, str, bool], None]


def heavy_folder(folder: Path) -> tuple[Path, Path]:
    """Fill a data folder with a long log; return a folder of large TIFFs and one of many files."""
    build_demo(folder, pictures=False)
    database = Database(folder)
    with database.session() as uow:
        rows = [dict(one._mapping) for one in uow.sql.execute(FrameRow.__table__.select())]
        many = []
        for index in range(FRAMES):
            one = {key: value for key, value in rows[index % len(rows)].items() if key != "id"}
            one["taken_at"] = one["taken_at"].replace(year=2000 + index % 25, minute=index % 60)
            one["outing_id"] = 2 if index < OUTING_FRAMES else one["outing_id"]
            many.append(one)
        uow.sql.execute(insert(FrameRow), many)
        uow.commit()
    database.close()
    card, walked = folder.parent / "card", folder.parent / "walked"
    card.mkdir()
    rng = np.random.default_rng(4)
    for number in range(PICTURES):
        grey = rng.integers(0, 255, (5000, 7500), dtype=np.uint8)
        Image.fromarray(grey).convert("RGB").save(card / f"L{number}.tif", compression=None)
    for number in range(200):
        place = walked / f"{number:03d}"
        place.mkdir(parents=True)
        for name in range(WALKED // 200):
            (place / f"{name:03d}.jpg").touch()
    return card, walked


def waiting(server: object, card: Path, walked: Path, line: Line) -> None:
    """Attack a server and measure what a second client meets."""
    attack = _Attack(server, card, walked)
    attack.bring_in()
    connection = server.connect()  # type: ignore[attr-defined]
    for path in ("/help", "/scale") * 2:  # a page's first sight after a start is another matter
        connection.request("GET", path)
        connection.getresponse().read()
    times: dict[str, list[float]] = {"/help": [], "/scale": []}
    threads = [threading.Thread(target=attack.run, args=(seed,), daemon=True) for seed in range(14)]
    for thread in threads:
        thread.start()
    until = time.monotonic() + SECONDS
    bad: Counter[str] = Counter()
    while time.monotonic() < until:
        for path, found in times.items():
            start = time.perf_counter()
            try:
                connection.request("GET", path)
                answer = connection.getresponse()
                answer.read()
                bad[f"{path} {answer.status}"] += answer.status != 200
            except (http.client.HTTPException, OSError) as error:
                bad[repr(error)[:60]] += 1
                connection = server.connect()  # type: ignore[attr-defined]
            found.append(time.perf_counter() - start)
    for path, found in times.items():
        p95, most = statistics.quantiles(found, n=20)[-1], max(found)
        line(f"Beside the attack: {path}, p95", f"{p95:.2f} s of {len(found)}", p95 < 0.3)
        line(f"Beside the attack: {path}, longest", f"{most:.2f} s", most < 1)
    failed = {what: count for what, count in bad.items() if count}
    line("Beside the attack: answered otherwise", f"{failed or 0}"[:40], not failed)
    wrong = {what: count for what, count in attack.seen.items() if what.endswith((" 500", " 0"))}
    print("    ", dict(sorted(attack.seen.items())))
    line("The attack itself: answered 500", f"{wrong or 0}"[:40], not wrong)
    seconds = server.stop()  # type: ignore[attr-defined]
    line("Ends at SIGTERM in the midst of it", f"{seconds:.1f} s", seconds < 3)


class _Attack:
    def __init__(self, server: object, card: Path, walked: Path) -> None:
        self.server, self.card, self.walked = server, card, walked
        self.seen: Counter[str] = Counter()
        aids = ("split_image", "matte", "microprism", "peaking", "magnified", "rangefinder", "scale")
        trials = [
            {
                "aid": aids[number % len(aids)], "stop": 2, "distance_mm": 2000.0 + number % 90,
                "error_deg": 0.1 * (number % 13 - 5),
            }
            for number in range(19_000)
        ]  # fmt: skip
        self.hand = json.dumps({"lens": {"focal_mm": 50, "lead_mm": 10.8}, "blur_mm": 0.03, "trials": trials}).encode()

    def bring_in(self) -> None:
        connection = self.server.connect()  # type: ignore[attr-defined]
        self._send(
            connection, "POST", "/log/pictures/folder", urlencode({"folder": str(self.card), "outing": "1"}), FORM
        )
        for _ in range(600):
            connection.request("GET", f"/log/pictures/{PICTURES}/preview")
            answer = connection.getresponse()
            answer.read()
            if answer.status == 200:
                return
            time.sleep(0.2)

    def run(self, seed: int) -> None:
        connection = self.server.connect()  # type: ignore[attr-defined]
        requests: tuple[tuple[str, str, bytes | str, dict[str, str]], ...] = (
            ("GET", f"/log/pictures/{seed % PICTURES + 1}/full", b"", {}),
            ("GET", "/kit/backups/everything.zip", b"", {}),
            ("GET", "/log/export.csv", b"", {}),
            ("POST", "/api/calc/hand", self.hand, {"Content-Type": "application/json"}),
            ("POST", "/api/calc/diagnose", self.hand, {"Content-Type": "application/json"}),
            ("POST", "/log/pictures/folder", urlencode({"folder": str(self.walked), "outing": "1"}), FORM),
            ("POST", f"/log/review/{seed % PICTURES + 1}/measure", b"", FORM),
            ("GET", "/log/contact.pdf?outing=1", b"", {}),
            ("GET", "/log/export.json?outing=1", b"", {}),
            ("POST", "/log/outings/2/delete", b"", FORM),
            ("GET", "/log?outing=all&q=norrvik+f/1.4+magnified", b"", {}),
            ("GET", "/field/cards.pdf", b"", {}),
            ("GET", "/log/sidecars?outing=1", b"", {}),
        )
        number = seed
        while True:
            method, path, body, headers = requests[number % len(requests)]
            number += 1
            try:
                self._send(connection, method, path, body, headers)
            except (http.client.HTTPException, OSError):
                try:
                    connection = self.server.connect()  # type: ignore[attr-defined]
                    time.sleep(0.05)
                except OSError:
                    return

    def _send(
        self, connection: http.client.HTTPConnection, method: str, path: str, body: bytes | str, headers: dict[str, str]
    ) -> None:
        connection.request(method, path, body, {"Origin": self.server.home, **headers})  # type: ignore[attr-defined]
        answer = connection.getresponse()
        answer.read()
        self.seen[f"{method} {path.partition('?')[0]} {answer.status}"] += 1
