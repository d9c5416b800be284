"""Speed and size of the application, measured on this machine and printed as a table; medians of repeated runs."""

from __future__ import annotations

import gzip
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1]))

from fastapi.testclient import TestClient
from tests.browser.chromium import QUIET, chromium_path
from tests.browser.conftest import Site

from bench_facing import accuracy as facing_accuracy
from bench_facing import landing
from bench_field import field_bench
from bench_finder import finder
from bench_hand import hand_bench
from bench_live import accuracy as live_accuracy
from bench_live import speed as live_speed
from bench_pictures import picture_bench
from bench_statements import calibration_table, photographers_table
from bench_testshot import accuracy, speed
from welotrope.core.plan.close_plan import search
from welotrope.core.plan.trap import Trap, TrapHand, trap_chances
from welotrope.core.ring.table import ring_table
from welotrope.demo.build import build_demo
from welotrope.store.queries import kit, log
from welotrope.store.queries.mounts import list_attachments
from welotrope.store.session import Database
from welotrope.web.app.application import create_app
from welotrope.web.components.ring import table_json

HOME = "http://127.0.0.1:8420"


def median_ms(work: Callable[[], object], runs: int = 40) -> float:
    work()
    times = []
    for _ in range(runs):
        start = time.perf_counter()
        work()
        times.append((time.perf_counter() - start) * 1000)
    return statistics.median(times)


def after_change_ms(folder: Path, work: Callable[[], object], runs: int = 9) -> float:
    """Return the median where a frame was logged just before, so that nothing kept from the last time holds."""
    work()
    times = []
    for _ in range(runs):
        fill_log(folder, 1)
        start = time.perf_counter()
        work()
        times.append((time.perf_counter() - start) * 1000)
    return statistics.median(times)


def row(what: str, value: float, unit: str, limit: float) -> None:
    verdict = "ok" if value <= limit else "OVER"
    print(f"{what:<62} {value:>9.2f} {unit:<3} {limit:>7g} {unit:<3} {verdict}")


def floor(what: str, value: float, unit: str, least: float) -> None:
    verdict = "ok" if value >= least else "UNDER"
    print(f"{what:<62} {value:>9.2f} {unit:<3} {f'≥ {least:g}':>7} {unit:<3} {verdict}")


def import_seconds(module: str) -> float:
    code = f"import time; t = time.perf_counter(); import {module}; print(time.perf_counter() - t)"
    runs = [float(subprocess.check_output([sys.executable, "-c", code])) for _ in range(5)]
    return statistics.median(runs)


def fill_log(folder: Path, frames: int) -> None:
    database = Database(folder)
    with database.session() as session:
        first = log.get_frame(session, 1)
        for _ in range(frames):
            log.add_frame(session, 1, first)
        session.commit()
    database.close()


def server(folder: Path) -> None:
    with TestClient(create_app(folder), base_url=HOME) as client:
        row("Scale page, server", median_ms(lambda: client.get("/scale")), "ms", 20)
        for room in ("plan", "aids", "kit", "scale/measure", "scale/print"):
            row(f"{room.title()} page, server", median_ms(lambda room=room: client.get(f"/{room}")), "ms", 25)
        for section in ("zones", "light", "moving", "sitter", "close?depth=8", "night", "compare"):
            row(f"Plan, {section}, server", median_ms(lambda section=section: client.get(f"/plan/{section}")), "ms", 40)
        for room in ("scale", "plan", "aids", "kit", "practice/hand", "log/why", "field"):
            milliseconds = after_change_ms(folder, lambda room=room: client.get(f"/{room}"))
            row(f"{room.title()} page right after a frame was logged, server", milliseconds, "ms", 100)
    fill_log(folder, 10_000)
    with TestClient(create_app(folder), base_url=HOME) as client:
        row("Log page with 10 000 frames, server", median_ms(lambda: client.get("/log")), "ms", 60)


def plans(folder: Path) -> None:
    """Time the search among forty attachments, and ten thousand runs through a trap."""
    database = Database(folder)
    with database.session() as session:
        setup = kit.list_setups(session)[0].setup
        owned = [one for _, one in list_attachments(session)]
    database.close()
    forty = [replace(one, name=f"{one.name} {turn}") for turn in range(6) for one in owned][:40]
    row("Search of 40 attachments", median_ms(lambda: search(setup, forty, 60.0, 100.0), 10), "ms", 150)
    trap = Trap(focus_mm=6000, near_mm=5463, far_mm=6654, speed=3)
    hand = TrapHand(reaction_s=0.25, spread_s=0.06, presses=10)
    row("Trap, 50 000 runs", median_ms(lambda: trap_chances.__wrapped__(trap, hand), 10), "ms", 100)


def table(folder: Path) -> None:
    database = Database(folder)
    with database.session() as session:
        setups = [stored.setup for stored in kit.list_setups(session)]
    database.close()
    slowest = max(setups, key=lambda setup: setup.ring().throw_deg * len(setup.lens.stops))
    ring, blur = slowest.ring(), slowest.blur_mm
    row("Ring table, all marked stops at 0.25°, largest demo lens", median_ms(
        lambda: ring_table(ring, slowest.lens.stops, blur)), "ms", 10)  # fmt: skip
    text = table_json(slowest, slowest.lens.stops[0]).encode()
    row("Ring table, bytes before compression", len(text) / 1000, "kB", 100)
    row("Ring table, bytes on the wire (gzip)", len(gzip.compress(text)) / 1000, "kB", 60)


DRAG = """() => {
    const ring = document.getElementById('ring');
    const box = ring.getBoundingClientRect();
    const fire = (kind, x) => ring.dispatchEvent(new PointerEvent(kind, {
        pointerId: 1, button: 0, clientX: box.left + x, clientY: box.top + 150, bubbles: true }));
    ring.setPointerCapture = () => {};
    fire('pointerdown', 300);
    const times = [];
    for (let step = 0; step < 300; step += 1) {
        const start = performance.now();
        fire('pointermove', 300 + (step % 150));
        times.push(performance.now() - start);
    }
    fire('pointerup', 300);
    return times.sort((a, b) => a - b)[150];
}"""


def browser(folder: Path) -> None:
    from playwright.sync_api import sync_playwright

    site = Site(folder)
    with sync_playwright() as playwright:
        chromium = playwright.chromium.launch(executable_path=chromium_path(), args=QUIET)
        page = chromium.new_page()
        client = page.context.new_cdp_session(page)
        client.send("Network.enable")
        sizes: list[float] = []
        client.on("Network.loadingFinished", lambda event: sizes.append(event["encodedDataLength"]))
        page.goto(f"{site.url}/scale")
        page.wait_for_selector("html[data-instruments=ready]")
        page.wait_for_load_state("networkidle")
        row("Scale page, first load, everything on the wire", sum(sizes) / 1000, "kB", 350)
        row("Drag step, script", page.evaluate(DRAG), "ms", 4)
        chromium.close()
    site.stop()


def start_seconds(folder: Path) -> float:
    """Time from the command to the first answered page, on a folder that is there already, as if with its pictures."""
    import socket
    import urllib.request

    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    start = time.perf_counter()
    welotrope = Path(sys.executable).with_name("welotrope")
    command = [welotrope, "demo", "--data", folder, "--port", str(port), "--no-pictures"]
    process = subprocess.Popen(command, stdout=subprocess.DEVNULL)
    try:
        while True:
            try:
                urllib.request.urlopen(f"http://127.0.0.1:{port}/scale").read()
                return time.perf_counter() - start
            except OSError:
                time.sleep(0.02)
    finally:
        process.terminate()
        process.wait()


def main() -> None:
    print(f"{'':<62} {'measured':>13} {'at most':>11}")
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        build_demo(folder, pictures=False)
        table(folder)
        plans(folder)
        row(
            "import welotrope.core with optics, ring, plan, aids",
            import_seconds("welotrope.core.aids.advice"),
            "s",
            0.25,
        )
        row("import welotrope.core", import_seconds("welotrope.core"), "s", 0.25)
        row(
            "Second start of the demo to the first page",
            statistics.median(start_seconds(folder) for _ in range(5)),
            "s",
            2,
        )
        browser(folder)
        finder(folder, row, floor)
        server(folder)
    field_bench(row)
    picture_bench(row, floor, HOME)
    hand_bench(row, floor, HOME)
    calibration_table()
    photographers_table()
    speed()
    landing()
    accuracy(300)
    facing_accuracy(60)
    live_speed(row)
    live_accuracy(row, floor)


if __name__ == "__main__":
    main()
