"""Rough handling, bounded and on a port of its own: odd requests, writers at once, stalled senders, kills.

``make fuzz`` prints a table; it fails when any request is answered 500, a connection is reset, an acknowledged write is
lost, or a database does not open after a kill.
"""

from __future__ import annotations

import http.client
import json
import os
import random
import signal
import socket
import sqlite3
import statistics
import subprocess
import sys
import tempfile
import threading
import time
from pathlib import Path
from urllib.parse import quote, urlencode

sys.path.insert(0, str(Path(__file__).parents[1]))

from tests.store.kills import killed_at
from tests.store.released_databases import REVISIONS, counted, released

from fuzz_archives import archives
from fuzz_kills import mixed_kills
from fuzz_waiting import heavy_folder, waiting
from welotrope.demo.build import PICTURES, build_demo
from welotrope.demo.pictures import add_pictures
from welotrope.store.session import DATABASE_NAME, Database
from welotrope.web.request.jobs import turn

CASES, WRITE_S, CLIENTS, STALLED = 30_000, 60, 20, 200
KILLS = int(os.environ.get("KILLS", "60"))  # in a mix of everything
FRAME_KILLS, MIGRATION_KILLS = 50, 200  # while frames are logged only, and in migrations
FAILED: list[str] = []


def line(what: str, value: str, good: bool = True) -> None:
    print(f"{what:<70} {value:>24} {'ok' if good else 'FAILED'}", flush=True)
    if not good:
        FAILED.append(what)


class Server:
    """The application on a folder, in a process of its own."""

    def __init__(self, folder: Path, *more: str) -> None:
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            self.port = probe.getsockname()[1]
        command = [
            Path(sys.executable).with_name("welotrope"),
            "serve",
            "--data",
            folder,
            "--port",
            str(self.port),
            *more,
        ]
        self.process = subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
        while True:
            try:
                socket.create_connection(("127.0.0.1", self.port), 1).close()
                return
            except OSError:
                time.sleep(0.02)

    def connect(self) -> http.client.HTTPConnection:
        return http.client.HTTPConnection("127.0.0.1", self.port, timeout=30)

    @property
    def home(self) -> str:
        return f"http://127.0.0.1:{self.port}"

    def stop(self) -> float:
        start = time.perf_counter()
        self.process.send_signal(signal.SIGTERM)
        self.process.wait(20)
        return time.perf_counter() - start


ODD = ("mounts:mount", "adapters:adapter_id", "mounts:x y", ":", "/kit/setups/new?lens_id=1", "ft", "6x6",

    "", " ", "0", "-1", "-0", "1e400", "nan", "inf", "∞", "²", "9" * 5000, "1/0", "½", "2,4 m", "8ft", "7'6\"", "1e-320", "💥",
    "\x00", "a\x07b", "'; DROP TABLE lens; --", "<script>", "{{7*7}}", "../../etc/passwd", "\ufeff", "x" * 3000, "1:2.8", "2-16",
    "9223372036854775808", "true", "null", "[]", "{}", "0x10", "1_000", "１２", "%", "%zz", "2.4m", "f/5.6", "5.6", "50", "450 mm",
    "0.03", "single", "magnified", "shed", "keep", "work", "print", "pixel", "yes", "not known", "2026-03-14", "1", "2", "3",
)  # fmt: skip
GETS = (
    "/", "/scale", "/plan", "/aids", "/practice", "/log", "/kit", "/help", "/jump", "/setups", "/scale/measure", "/scale/marks",
    "/scale/infinity", "/scale/shift", "/scale/print", "/kit/lenses/{}", "/kit/bodies/{}", "/kit/setups/{}", "/kit/adapters/{}",
    "/kit/mounts/{}", "/kit/setups/{}/sheet", "/kit/bodies/{}/slots", "/log/frames/{}", "/practice/trials/{}", "/log/new",
    "/practice/rounds/{}", "/practice/rounds/{}/frame", "/practice/photos/{}.jpg", "/kit/add/lens", "/log/export.csv", "/scale/aid",
    "/log/pictures/{}/thumb", "/log/pictures/{}/full", "/log/sidecars", "/log/sidecars.zip", "/log/review", "/log/rolls/{}",
    "/jobs/{}", "/log/export.json", "/log/contact.pdf", "/kit/attachments/{}", "/log/why", "/field/cards.pdf", "/devices",
    "/practice/hand", "/practice/tape", "/plan/zones", "/plan/light", "/plan/moving", "/plan/sitter", "/plan/close",
    "/plan/night", "/plan/compare", "/kit/backups/{}", "/kit/backups/exports/{}",
    "/kit/export.json", "/kit/import", "/scale/print/sheet.pdf", "/scale/print/sheet.svg", "/{}", "/kit/{}/new", "/api/openapi.json",
)  # fmt: skip
POSTS = (
    "/kit/bodies/detour", "/kit/lenses/detour", "/kit/adapters/detour", "/kit/mounts/detour", "/kit/setups/detour",
    "/scale/print",
    "/kit/lenses", "/kit/bodies", "/kit/adapters", "/kit/mounts", "/kit/setups", "/kit/lenses/{}", "/kit/bodies/{}", "/look", "/unit",
    "/in-hand", "/undo/{}", "/scale/measure", "/scale/marks", "/scale/infinity", "/scale/shift", "/log/frames", "/log/outings",
    "/log/outings/{}", "/log/frames/{}/mark", "/log/frames/{}", "/presets", "/presets/{}/rename", "/practice/rounds",
    "/practice/rounds/{}/shutter", "/aids/constants", "/kit/import", "/kit/import/store", "/kit/setups/{}/sheet/line",
    "/log/pictures/folder", "/log/pictures/dropped", "/log/pictures/drop", "/log/pictures/match", "/log/pictures/clock",
    "/log/pictures/{}/frame", "/log/review/{}", "/log/rolls", "/log/rolls/{}", "/log/rolls/{}/dates", "/log/type",
    "/log/change", "/log/sidecars/undo", "/field/queue", "/field/pocket", "/practice/tape/begin", "/practice/tape",
    "/practice/guess", "/kit/attachments", "/devices/code", "/pair", "/jobs/{}/cancel", "/plan/reaction",
    "/kit/setups/{}/sheet/tick", "/kit/bodies/{}/slots", "/kit/broken/{}/{}/delete", "/presets/{}/delete",
)  # fmt: skip
NAMES = (
    "name", "focal", "stops", "closest_focus", "throw", "diameter", "reading_angle", "reading_distance", "engraved", "mount",
    "protrusion", "image_circle", "length", "rear", "planes", "magnification", "size", "width_px", "finder_magnification",
    "screen_stop", "split_deviation", "steps", "peaking", "rangefinder_base", "confirmation", "slots", "screens", "register_mm",
    "throat", "lens_side", "body_side", "nominal", "measured", "factor", "optics", "body_id", "lens_id", "adapter_id", "standard",
    "pixels", "own", "look", "unit", "setup", "back", "position", "distance", "use", "way", "kind", "error", "end", "stop", "far",
    "near", "at_index", "between", "pair_stop", "angle", "warmth", "farthest", "at", "taken_at", "note", "iso", "shutter",
    "film_frame", "outing", "outcome", "day", "exercise", "aid", "scene", "path", "seconds", "lean", "step", "level", "text",
    "line", "reason", "number", "intent", "subject", "focus", "i", "x", "y", "t", "turned", "colour", "offset", "done", "lines",
    "detail", "light", "place", "view", "moving", "tripod", "numbers_in", "was", "detour", "fills", "engraved_m", "engraved_ft",
    "engraved_units", "replace", "meant", "preset", "part", "paper", "distances", "paste", "distance_error", "id", "whole", "record",
)  # fmt: skip
CALC = ("depth", "zone", "ring", "adapter", "throw", "engraving", "aids")
KEYS = ("focal_mm", "stop", "blur_mm", "focus", "near", "far", "lead_mm", "diameter_mm", "error_mm", "readings", "error_deg",
        "from", "index", "focus_mm", "aids", "target", "constants", "view_stop", "distance_error")  # fmt: skip
VALUES = (50, 0, -1, 1e-320, 1e308, 2**63, 0.03, 8, "2m", "inf", None, True, [], {}, "x" * 200, "\ud800", "½", 1e400,
          [{"angle_deg": 0, "distance": "inf"}, {"angle_deg": 90, "distance": "1m"}], [{"kind": "matte", "finder_magnification": 0.9}],
          [{"kind": "peaking", "pitch_mm": 1e-4, "sensor_px": 6000, "display_px": 160, "threshold_per_px": 1e-3}])  # fmt: skip


def case(rng: random.Random, home: str) -> tuple[str, str, bytes, dict[str, str]]:
    """A request: method, path, body and headers."""
    headers = {"Origin": home}
    if rng.random() < 0.03:
        headers["Host"] = rng.choice(["[", "evil", "127.0.0.1:0x", "[::1", "127.0.0.1@x", ""])
    kind = rng.random()
    if kind < 0.45:
        calc = f"/api/calc/{rng.choice(CALC)}"
        asked = {key: rng.choice(VALUES) for key in rng.sample(KEYS, rng.randint(1, 8))}
        if rng.random() < 0.6:
            asked |= {"focal_mm": 50, "blur_mm": 0.03, "stop": 2.8}
        if rng.random() < 0.3:
            return "GET", f"{calc}?{urlencode({k: str(v) for k, v in asked.items()}, errors='replace')}", b"", headers
        headers["Content-Type"] = "application/json"
        body = json.dumps(asked).encode() if rng.random() < 0.9 else rng.randbytes(60)
        return "POST", calc, body, headers
    fill = [rng.choice((*"123456789", *ODD)) for _ in range(2)]
    values = [(rng.choice(NAMES), rng.choice(ODD)) for _ in range(rng.randint(0, 14))]
    if kind < 0.75:
        path = rng.choice(GETS).format(*(quote(text, safe="") for text in fill))
        method = rng.choice(("GET", "GET", "GET", "HEAD", "DELETE"))
        return method, f"{path}?{urlencode(values)}"[:8000], b"", headers
    path = rng.choice(POSTS).format(*(quote(text, safe="")[:300] for text in fill))
    if rng.random() < 0.1:
        headers["Content-Type"] = "multipart/form-data; boundary=b"
        return "POST", path, rng.choice((b"--b\r\n", b"", b"--b--", rng.randbytes(400))), headers
    headers["Content-Type"] = "application/x-www-form-urlencoded"
    body = urlencode(values).encode() if rng.random() < 0.95 else rng.randbytes(200)
    return "POST", path, body, headers


def fuzz(folder: Path) -> None:
    server = Server(folder)
    rng, counts, bad = random.Random(1907), {}, []
    connection = server.connect()
    for number in range(CASES):
        method, path, body, headers = case(rng, server.home)
        try:
            connection.request(method, path, body, headers)
            answer = connection.getresponse()
            answer.read()
            status = answer.status
        except (http.client.HTTPException, OSError, UnicodeError) as error:
            status = 0 if server.process.poll() is not None or "reset" in str(error).lower() else -1
            connection.close()
            connection = server.connect()
        counts[status // 100] = counts.get(status // 100, 0) + 1
        if status == 0 or status >= 500:
            bad.append((number, status, method, path[:120], body[:200]))
    for entry in bad[:5]:
        print("   ", entry)
    shown = " ".join(f"{key}xx {count}" for key, count in sorted(counts.items()) if key > 0)
    line(f"{CASES} odd requests: answered 500 or reset", f"{len(bad)} ({shown})"[:40], not bad)
    line("Ends at SIGTERM afterwards", f"{server.stop():.1f} s")


def writers(folder: Path) -> None:
    server = Server(folder)
    times: dict[str, list[float]] = {"write": [], "read": []}
    bad: list[str] = []
    until = time.monotonic() + WRITE_S
    frame = urlencode({"at": "2.4 m", "stop": "5.6"})

    def client(seed: int) -> None:
        rng, connection = random.Random(seed), server.connect()
        while time.monotonic() < until:
            write = rng.random() < 0.2
            start = time.perf_counter()
            try:
                if write:
                    connection.request("POST", "/log/frames", frame, {"Origin": server.home, "Content-Type": FORM})
                else:
                    connection.request(
                        "GET", rng.choice(("/help", "/log", "/api/calc/depth?focal_mm=50&stop=8&blur_mm=0.03&focus=2m"))
                    )
                answer = connection.getresponse()
                answer.read()
                if answer.status >= 400:
                    bad.append(f"{answer.status}")
            except (http.client.HTTPException, OSError) as error:
                bad.append(repr(error))
                connection = server.connect()
            times["write" if write else "read"].append(time.perf_counter() - start)

    threads = [threading.Thread(target=client, args=(seed,)) for seed in range(CLIENTS)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    server.stop()
    for kind, found in times.items():
        p95 = statistics.quantiles(found, n=20)[-1]
        line(f"{CLIENTS} clients, 20 % writes, {WRITE_S} s: {kind}s, p95", f"{len(found)}, {p95:.2f} s", p95 <= 1)
    line("… answered 500, refused or reset", f"{len(bad)} {bad[:2]}"[:40], not bad)


FORM = "application/x-www-form-urlencoded"


def stalled(folder: Path) -> None:
    server = Server(folder)
    open_ones = []
    for number in range(STALLED):
        sender = socket.create_connection(("127.0.0.1", server.port))
        length = "" if number % 4 == 0 else "Content-Length: 500\r\n\r\nname=x"
        sender.sendall(
            f"POST /kit/lenses HTTP/1.1\r\nHost: 127.0.0.1:{server.port}\r\nOrigin: {server.home}\r\n"
            f"Content-Type: {FORM}\r\n{length}".encode()
        )
        open_ones.append(sender)
    times = []
    connection = server.connect()
    for _ in range(20):
        start = time.perf_counter()
        connection.request("GET", "/help")
        connection.getresponse().read()
        times.append(time.perf_counter() - start)
    median = statistics.median(times)
    line(f"{STALLED} stalled senders: /help, median", f"{median:.3f} s", median <= 0.1)
    time.sleep(13)
    closed = 0
    for sender in open_ones:
        sender.settimeout(2)
        try:
            while chunk := sender.recv(4096):
                closed += chunk.startswith(b"HTTP/1.1 408")
            closed += 0
        except OSError:
            line("A stalled sender was left open", "", good=False)
            break
        sender.close()
    line(
        "Stalled bodies answered 408, stalled headers closed",
        f"{closed} of {STALLED * 3 // 4}",
        closed == STALLED * 3 // 4,
    )
    held = [socket.create_connection(("127.0.0.1", server.port)) for _ in range(20)]
    for sender in held:
        sender.sendall(b"POST /unit HTTP/1.1\r\nContent-Length: 9\r\n")
    seconds = server.stop()
    line("Ends at SIGTERM with 20 of them open", f"{seconds:.1f} s", seconds < 3)


def kills(folder: Path) -> None:
    """Log frames from four clients, kill −9 at a moment, count what was acknowledged; start again."""
    acknowledged = lost = 0
    rng = random.Random(7)
    frame = urlencode({"at": "2.4 m", "stop": "5.6", "note": "{}"})
    for round_ in range(FRAME_KILLS):
        server = Server(folder)
        seen: list[str] = []

        def client(server: Server = server, seen: list[str] = seen, round_: int = round_) -> None:
            connection = server.connect()
            try:
                for number in range(1000):
                    note = f"k{round_}-{threading.get_ident()}-{number}"
                    connection.request("POST", "/log/frames", frame.replace("%7B%7D", note),
                                       {"Origin": server.home, "Content-Type": FORM})  # fmt: skip
                    answer = connection.getresponse()
                    answer.read()
                    if answer.status < 400:
                        seen.append(note)
            except (http.client.HTTPException, OSError):
                return

        threads = [threading.Thread(target=client) for _ in range(4)]
        for thread in threads:
            thread.start()
        time.sleep(rng.uniform(0.1, 0.5))
        server.process.kill()
        server.process.wait()
        for thread in threads:
            thread.join()
        with sqlite3.connect(folder / DATABASE_NAME) as connection:
            kept = {
                note for (note,) in connection.execute("SELECT note FROM frame WHERE note LIKE ?", (f"k{round_}-%",))
            }
        acknowledged += len(seen)
        lost += len(set(seen) - kept)
    line(f"{FRAME_KILLS} kills −9 during writes: acknowledged writes lost", f"{lost} of {acknowledged}", lost == 0)


def migrations() -> None:
    """Kill a migration at statements spread over all of it, from every released revision."""
    done = bad = 0
    each = MIGRATION_KILLS // len(REVISIONS)
    for revision in REVISIONS:
        for number in range(each):
            with tempfile.TemporaryDirectory() as name:
                folder = Path(name)
                counts = released(revision, folder)
                killed_at(folder, 1 + number * 5)
                try:
                    Database(folder).close()
                    with sqlite3.connect(folder / DATABASE_NAME) as connection:
                        bad += counted(connection) != counts
                except Exception as error:  # noqa: BLE001 - any failure to start is what is looked for
                    print("   ", revision, number, error)
                    bad += 1
                done += 1
    line("Migrations killed: did not start again, or data lost", f"{bad} of {done}", bad == 0)


def starved(folder: Path) -> None:
    """Ask for everything that is heavy at once, and see whether anybody else waits."""
    card, walked = heavy_folder(folder)
    waiting(Server(folder), card, walked, line)


def changed(folder: Path) -> None:
    """Take archives and backups that were changed at random."""
    archives(folder, line)


def mixed(folder: Path) -> None:
    """Kill in the midst of everything that changes something."""
    database = Database(folder)
    add_pictures(lambda: turn(database), folder)
    database.close()
    make = lambda place: Server(place, "--lan", "--address", "127.0.0.2")  # noqa: E731
    mixed_kills(make, folder, folder / PICTURES, KILLS, line)


def main() -> None:
    chosen = set(sys.argv[1:]) or {"fuzz", "writers", "stalled", "kills", "migrations", "starved", "changed", "mixed"}
    with tempfile.TemporaryDirectory() as name:
        for part in (fuzz, writers, stalled, kills, changed, mixed):
            if part.__name__ in chosen:
                folder = Path(name) / part.__name__
                build_demo(folder, pictures=False)
                part(folder)
        if "starved" in chosen:
            starved(Path(name) / "starved")
    if "migrations" in chosen:
        migrations()
    os._exit(1 if FAILED else 0)


if __name__ == "__main__":
    main()
