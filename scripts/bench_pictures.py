"""Pictures and the long log: how fast they are read, measured, shown and searched, and how much memory that takes."""

from __future__ import annotations

import statistics
import tempfile
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import cv2
from fastapi.testclient import TestClient
from PIL import Image
from playwright.sync_api import sync_playwright
from sqlalchemy import insert
from tests.browser.chromium import QUIET, chromium_path
from tests.browser.conftest import Site

from bench_sharpness import FRESH, KNOWN, accuracy
from welotrope.core.picture.picture import NewPicture, PictureExif
from welotrope.core.picture.sharpness_map import sharpness_map
from welotrope.demo.build import build_demo
from welotrope.demo.pictures import Wear, render, scene_called, worn
from welotrope.interchange.pictures.opened import opened
from welotrope.interchange.pictures.workers import PictureWorkers
from welotrope.store.models import FrameRow
from welotrope.store.queries import pictures
from welotrope.store.session import Database
from welotrope.web.app.application import create_app

WIDTH, COUNT, FRAMES = 6000, 120, 100_000
Row = Callable[[str, float, str, float], None]


def picture_bench(row: Row, floor: Row, home: str) -> None:
    with tempfile.TemporaryDirectory() as held:
        folder = Path(held)
        card = _card(folder)
        _reading(card, folder, row, floor)
        _measuring(card, row)
        _showing(card, folder, row)
    _long_log(row, home)
    for scenes, which in ((KNOWN, "it was made with"), (FRESH, "kept aside")):
        right, close, noise, _ = accuracy(336, scenes)
        floor(f"sharpest depth named, of 336 pictures of scenes {which}", 100 * right, "%", 95)
        floor("the same or the next depth", 100 * close, "%", 99)
        row("cells of noise alone called sharp", 100 * noise, "%", 1)


def _card(folder: Path) -> list[Path]:
    """Twenty-four million pixels of a scene with noise, so often: each file with other bytes behind its end."""
    card = folder / "card"
    card.mkdir()
    small = render(scene_called("quay", 3, 50.0), 50.0, None, 2.0, 1500)
    shown = worn(
        cv2.resize(small, (WIDTH, WIDTH * 2 // 3), interpolation=cv2.INTER_CUBIC), Wear(iso=800, quality=None), 1
    )
    exif = Image.Exif()
    exif.get_ifd(0x8769)[0x9003] = "2026:03:14 09:40:00"
    Image.fromarray(shown[:, :, ::-1]).save(card / "0.jpg", quality=92, exif=exif)
    data = (card / "0.jpg").read_bytes()
    for index in range(1, COUNT):
        (card / f"{index}.jpg").write_bytes(data + index.to_bytes(4, "big"))
    return sorted(card.iterdir())


def _peak_mb(pids: list[int]) -> float:
    found = 0.0
    for pid in pids:
        for line in Path(f"/proc/{pid}/status").read_text().splitlines():
            if line.startswith("VmHWM"):
                found += int(line.split()[1]) / 1024
    return found


def _reading(card: list[Path], folder: Path, row: Row, floor: Row) -> None:
    workers = PictureWorkers(count=2)
    look = lambda path: workers.ask("look", path, thumb=str(folder / f"{path.stem}.thumb"))  # noqa: E731
    with ThreadPoolExecutor(2) as pool:
        list(pool.map(look, card[:4]))
        start = time.perf_counter()
        list(pool.map(look, card))
        floor(
            f"24-megapixel JPEGs read with thumbnail ({card[0].stat().st_size / 1e6:.0f} MB each)",
            COUNT / (time.perf_counter() - start),
            "/s",
            15,
        )
        list(pool.map(lambda path: workers.ask("measure", path, preview=str(folder / f"{path.stem}.pre")), card[:6]))
    pids = [worker._process.pid for worker in list(workers._idle.queue) if worker is not None]
    row("memory of both processes at their peak", _peak_mb(pids), "MB", 700)
    workers.close()


def _measuring(card: list[Path], row: Row) -> None:
    decode, whole = [], []
    for _ in range(7):
        start = time.perf_counter()
        with opened(card[0]) as picture:
            grey = picture.grey()
        middle = time.perf_counter()
        sharpness_map(grey)
        decode.append(middle - start)
        whole.append(time.perf_counter() - middle)
    row("sharpness map, by its full grey decode", statistics.median(whole) / statistics.median(decode), "×", 2.0)


def _showing(card: list[Path], folder: Path, row: Row) -> None:
    data = folder / "data"
    build_demo(data, pictures=False)
    database = Database(data)
    with database.session() as uow:
        for index, path in enumerate(card[:12]):
            new = NewPicture(
                sha256=f"{index:064d}", name=path.name, folder=str(path.parent), media_type="image/jpeg",
                bytes=path.stat().st_size, width_px=WIDTH, height_px=WIDTH * 2 // 3, exif=PictureExif(),
            )  # fmt: skip
            pictures.add_picture(uow, new, "bench", outing_id=1)
        uow.commit()
    database.close()
    site = Site(data)
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=chromium_path(), args=QUIET)
        times = []
        for number in range(1, 6):  # each in a page of its own, the first of them the first the server shows
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            page.goto(f"{site.url}/log")
            start = time.perf_counter()
            page.goto(f"{site.url}/log/review?picture={number}")
            page.wait_for_selector("#review[data-sharp=yes]")
            times.append(time.perf_counter() - start)
            page.wait_for_timeout(900)  # it makes the next one ready, which is not asked for here
            if number < 5:
                page.close()
        row("24-megapixel JPEG at 1:1, first shown", statistics.median(times), "s", 0.5)
        times = []
        for _ in range(6):
            page.wait_for_timeout(900)  # as long as a look at it takes at least
            start = time.perf_counter()
            page.keyboard.press("n")
            page.wait_for_url("**/log/review?picture=*")
            page.wait_for_selector("#review[data-sharp=yes]")
            times.append(time.perf_counter() - start)
        row("the next one, ready meanwhile", statistics.median(times), "s", 0.15)
        browser.close()
    site.stop()


def _long_log(row: Row, home: str) -> None:
    with tempfile.TemporaryDirectory() as held:
        folder = Path(held)
        build_demo(folder, pictures=False)
        database = Database(folder)
        with database.session() as uow:
            rows = [dict(one._mapping) for one in uow.sql.execute(FrameRow.__table__.select())]
            many = []
            for index in range(FRAMES):
                one = dict(rows[index % len(rows)])
                one.pop("id")
                one["taken_at"] = one["taken_at"].replace(year=2000 + index % 25, minute=index % 60)
                many.append(one)
            uow.sql.execute(insert(FrameRow), many)
            uow.commit()
        database.close()
        with TestClient(create_app(folder), base_url=home, headers={"origin": home}) as client:
            for what, path in (
                ("an outing", "/log?outing=1"),
                ("all of them", "/log?outing=all"),
                ("found by words", "/log?outing=all&q=norrvik+f/1.4+magnified"),
                ("nothing found", "/log?outing=all&q=zebra"),
            ):
                client.get(path)
                times = []
                for _ in range(9):
                    start = time.perf_counter()
                    client.get(path)
                    times.append((time.perf_counter() - start) * 1000)
                row(f"log of 100 000 frames, {what}", statistics.median(times), "ms", 60)
