"""Speed and memory of the simulated finder: single frames, warm-up, a turning ring in Chromium, two finders open."""

from __future__ import annotations

import socket
import statistics
import subprocess
import sys
import time
import urllib.request
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

from playwright.sync_api import Browser, Page, sync_playwright
from tests.browser.chromium import QUIET, chromium_path

from welotrope.core.finder.finder import FrameRequest
from welotrope.core.finder.round import Round, RoundRequest
from welotrope.core.kit.setup import Setup
from welotrope.core.practice.scene_list import SCENES
from welotrope.demo import skarnmere
from welotrope.interchange.scene_files import rendering_called
from welotrope.web.rooms.practice.round import jpeg

Row = Callable[[str, float, str, float], None]
AIDS = (
    ("matte", "plank"), ("split_image", "shed"), ("microprism", "sitter"), ("collar", "quay"), ("rangefinder", "shed"),
    ("magnified", "plank"), ("peaking", "plank"), ("confirmation", "quay"), ("split_image", "bench"),
    ("microprism", "pebbles"), ("magnified", "figurehead"), ("peaking", "shore"),
)  # fmt: skip
TURNED = (
    ("split_image", "shed"), ("matte", "plank"), ("magnified", "figurehead"), ("peaking", "bench"),
    ("rangefinder", "shed"), ("confirmation", "quay"), ("collar", "pebbles"), ("microprism", "reeds"),
)  # fmt: skip
PICTURES_S = 45
TURN = """async (speed) => {
    const canvas = document.querySelector('canvas');
    const strip = document.querySelector('.finder-strip');
    const box = canvas.getBoundingClientRect();
    const shown = () => Number(document.getElementById('finder').dataset.frames);
    const ring = () => strip.getAttribute('aria-valuenow');
    canvas.setPointerCapture = () => {};
    const fire = (kind, x) => canvas.dispatchEvent(new PointerEvent(kind, {
        pointerId: 1, button: 0, clientX: box.left + x, clientY: box.top + 50, bubbles: true }));
    fire('pointerdown', 300);
    let [x, before, at, last] = [300, shown(), ring(), null];
    const gaps = [], start = performance.now();
    while (performance.now() - start < 4000) {
        x += speed;
        fire('pointermove', x % 600 < 300 ? x % 600 : 600 - x % 600);
        const now = await new Promise(requestAnimationFrame);
        last ??= now;
        if (ring() === at) { last = now; continue; }
        at = ring();
        if (shown() === before) continue;
        before = shown();
        gaps.push(now - last);
        last = now;
    }
    fire('pointerup', x);
    return gaps;
}"""
RUN = """async () => {
    const shown = () => Number(document.getElementById('finder').dataset.frames);
    const [from, start] = [shown(), performance.now()];
    await new Promise((then) => setTimeout(then, 3000));
    return (shown() - from) / ((performance.now() - start) / 1000);
}"""
FAST, SLOW = 5, 1  # pixels a refresh of the display: 38° and 8° of ring a second


@contextmanager
def served(folder: Path) -> Iterator[tuple[str, int]]:
    """Serve the demo data from a process of its own; gives its address and process number."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    command = [Path(sys.executable).with_name("welotrope"), "demo", "--data", folder, "--port", str(port)]
    process = subprocess.Popen(command, stdout=subprocess.DEVNULL)
    try:
        for _ in range(500):
            try:
                urllib.request.urlopen(f"http://127.0.0.1:{port}/help").read()
                break
            except OSError:
                time.sleep(0.02)
        yield f"http://127.0.0.1:{port}", process.pid
    finally:
        process.terminate()
        process.wait()


def open_round(browser: Browser, base: str, aid: str, scene: str) -> tuple[Page, float]:
    """Open a round; returns its page and the seconds from asking for its page until all is made ready."""
    page = browser.new_page(viewport={"width": 1280, "height": 800})
    form = {"exercise": "single", "aid": aid, "scene": scene, "stop": "1.4"}
    url = page.request.post(f"{base}/practice/rounds", form=form, headers={"origin": base}).url
    page.goto(url, wait_until="domcontentloaded")
    start = time.perf_counter()
    page.wait_for_selector("#finder[data-warm=yes]", timeout=30_000)
    return page, time.perf_counter() - start


def single_frames(row: Row) -> None:
    setup = Setup(body=skarnmere.BODIES["ostrel"], lens=skarnmere.LENSES["norrvik"])
    slowest = 0.0
    for aid, scene in AIDS:
        made = Round(setup, RoundRequest("single", aid, scene, 1.4), 7, renderings=rendering_called)
        step = 3.0 if aid not in ("magnified", "peaking", "confirmation") else 1.0
        made.frame(FrameRequest(aid=aid, angle_deg=100.0, step=step))  # paints the layers, which belongs to the warm-up
        times = []
        for angle in range(40, 70, 2):
            start = time.perf_counter()
            jpeg(made.frame(FrameRequest(aid=aid, angle_deg=float(angle), step=step)))
            times.append((time.perf_counter() - start) * 1000)
        slowest = max(slowest, statistics.median(times))
    row("Finder, one frame rendered and packed, slowest aid, median", slowest, "ms", 60)


def first_frames(row: Row) -> None:
    """Time from asking for a rendered scene to its first frame, nothing of it in memory."""
    setup = Setup(body=skarnmere.BODIES["ostrel"], lens=skarnmere.LENSES["norrvik"])
    times = []
    for scene in [one.name for one in SCENES if one.rendered and one.anywhere]:
        start = time.perf_counter()
        made = Round(setup, RoundRequest("single", "magnified", scene, 1.4), 7, renderings=rendering_called)
        jpeg(made.frame(FrameRequest(aid="magnified", angle_deg=100.0)))
        times.append(time.perf_counter() - start)
    row("Finder, first frame of a rendered scene, median of all", statistics.median(times), "s", 1)


def refreshes(chromium: Browser, base: str, row: Row, floor: Row) -> None:
    """Time from one new picture to the next while the ring turns, by the times of the display."""
    warm, middles, slowest, shares = [], [], [], []
    for aid, scene in TURNED:
        page, seconds = open_round(chromium, base, aid, scene)
        warm.append(seconds)
        for speed in (FAST, SLOW):
            gaps = sorted(page.evaluate(TURN, speed))
            middles.append(statistics.median(gaps))
            slowest.append(gaps[int(0.95 * len(gaps))])
            shares.append(100 * len(gaps) * 1000 / 60 / max(sum(gaps), 1))
        page.close()
    row("Finder, warm-up of a scene, median of eight", statistics.median(warm), "s", 2)
    row("Finder, from one new picture to the next while turning, slowest aid's median", max(middles), "ms", 17)
    row("Finder, the same, 95 of 100, median of all aids", statistics.median(slowest), "ms", 17)
    row("Finder, the same, 95 of 100, slowest aid", max(slowest), "ms", 34)
    floor("Finder, refreshes of the display with a new picture while turning, worst aid", min(shares), "%", 80)


def moving(chromium: Browser, base: str, floor: Row) -> None:
    """Frames a second of a scene that moves, each made for its moment."""
    page = chromium.new_page(viewport={"width": 1280, "height": 800})
    form = {"exercise": "trap", "aid": "matte", "scene": "boat", "stop": "5.6"}
    page.goto(page.request.post(f"{base}/practice/rounds", form=form, headers={"origin": base}).url)
    page.wait_for_selector("#finder[data-ready=yes]")
    page.keyboard.press("Space")
    floor("Finder, new frames a second of a scene that moves", float(page.evaluate(RUN)), "/s", 25)
    page.close()


def finder(folder: Path, row: Row, floor: Row) -> None:
    single_frames(row)
    first_frames(row)
    with served(folder):
        time.sleep(PICTURES_S)  # the demo renders its pictures, in as much memory as it likes
    with served(folder) as (base, _), sync_playwright() as playwright:
        chromium = playwright.chromium.launch(executable_path=chromium_path(), args=QUIET)
        refreshes(chromium, base, row, floor)
        moving(chromium, base, floor)
        chromium.close()
    with served(folder) as (base, pid), sync_playwright() as playwright:
        chromium = playwright.chromium.launch(executable_path=chromium_path(), args=QUIET)
        for aid, scene in (("collar", "pebbles"), ("microprism", "reeds")):
            page, _ = open_round(chromium, base, aid, scene)
            page.evaluate(TURN, FAST)
        status = Path(f"/proc/{pid}/status").read_text()
        resident = next(int(line.split()[1]) for line in status.splitlines() if line.startswith("VmRSS"))
        row("Server with two finders open", resident / 1000, "MB", 350)
        chromium.close()
