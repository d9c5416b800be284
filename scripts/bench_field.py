"""The field page, the pocket file and the archive, with ten set-ups and ten thousand frames."""

from __future__ import annotations

import datetime as dt
import statistics
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from tests.browser.chromium import QUIET, chromium_path
from tests.browser.conftest import Site

from welotrope.core.units.distance import Unit
from welotrope.demo.build import build_demo
from welotrope.store.archive import write_archive
from welotrope.store.queries import kit, log
from welotrope.store.session import Database
from welotrope.web.rooms.field import page as field
from welotrope.web.rooms.field.pocket import pocket_file

_TAP = """() => { const times = [];
  for (let tap = 0; tap < 30; tap += 1) {
    const begun = performance.now();
    document.getElementById('f-log').click();
    times.push(performance.now() - begun);
  }
  return times.sort((a, b) => a - b)[15]; }"""


def ten_setups(folder: Path) -> None:
    """Fill a folder with the demo and set-ups up to ten."""
    build_demo(folder, pictures=False)
    database = Database(folder)
    with database.session() as uow:
        stored = kit.list_setups(uow)
        for index in range(10 - len(stored)):
            kit.save_setup(uow, 1 + index % 2, 1 + index % 3, stored[0].setup.standard)
        uow.commit()
    database.close()


def field_bench(row: Callable[[str, float, str, float], None]) -> None:
    """Measure and print."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        ten_setups(folder)
        _pocket(folder, row)
        _page(folder, row)
        _archive(folder, row)


def _pocket(folder: Path, row: Callable[[str, float, str, float], None]) -> None:
    database = Database(folder)
    times, size = [], 0
    for _ in range(5):
        field._hand.cache_clear()
        begun = time.perf_counter()
        with database.session(write=False) as uow:
            made = field.field_book(uow, dt.datetime(2026, 3, 15), kit.find_selected_setup(uow), Unit.METRIC)
        size = len(pocket_file(made, "sun").encode())
        times.append(time.perf_counter() - begun)
    database.close()
    row("Pocket file of ten set-ups built, nothing kept", statistics.median(times), "s", 1)
    row("Pocket file of ten set-ups", size / 1000, "kB", 600)


def _page(folder: Path, row: Callable[[str, float, str, float], None]) -> None:
    from playwright.sync_api import sync_playwright

    site = Site(folder)
    with sync_playwright() as playwright:
        chromium = playwright.chromium.launch(executable_path=chromium_path(), args=QUIET)
        ready, sizes, tap = [], [], 0.0
        for _ in range(5):
            page = chromium.new_context(viewport={"width": 390, "height": 844}).new_page()
            client = page.context.new_cdp_session(page)
            client.send("Network.enable")
            client.send("Emulation.setCPUThrottlingRate", {"rate": 4})
            loaded: list[float] = []
            client.on("Network.loadingFinished", lambda event, loaded=loaded: loaded.append(event["encodedDataLength"]))
            page.goto(f"{site.url}/field")
            page.wait_for_selector("html[data-ready=yes]")
            ready.append(page.evaluate("performance.getEntriesByName('field-ready')[0].startTime") / 1000)
            sizes.append(sum(loaded) / 1000)
            tap = page.evaluate(_TAP)
            page.context.close()
        chromium.close()
    site.stop()
    row("Field page of ten set-ups, on the wire", statistics.median(sizes), "kB", 250)
    row("Field page to interactive, CPU slowed 4 times", statistics.median(ready), "s", 1)
    row("Tap to logged, CPU slowed 4 times", tap, "ms", 50)


def _archive(folder: Path, row: Callable[[str, float, str, float], None]) -> None:
    database = Database(folder)
    with database.session() as uow:
        first = log.get_frame(uow, 1)
        for _ in range(10_000):
            log.add_frame(uow, 1, first)
        uow.commit()
    steps: list[int] = []
    begun = time.perf_counter()
    write_archive(database, folder / "all.zip", dt.datetime(2026, 3, 15), step=lambda done, *_: steps.append(done))
    row("Export of 10 000 frames", time.perf_counter() - begun, "s", 5)
    database.close()
    assert len(steps) > 5, "the export tells how far it is"
