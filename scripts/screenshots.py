"""Regenerate docs/screenshots from the demo data: same data, same clock, same picture on every run."""

from __future__ import annotations

import sys
import tempfile
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1]))

import numpy as np
from playwright.sync_api import Browser, Page, sync_playwright
from tests.browser.chromium import QUIET, chromium_path
from tests.browser.conftest import SIZES, Site

from welotrope.core.finder.round import Release, RoundRequest
from welotrope.demo.build import build_demo
from welotrope.store.queries import kit

TARGET = Path("docs/screenshots")
SCENE = "at=2400mm&stop=5.6&subject=rope+coil@1900&subject=Ida,+hands@2300&subject=name+board@2600&subject=Ove@3200"
SHED = "&".join(
    f"name={name}&distance={metres}+m"
    for name, metres in (("rope+coil", 1.9), ("Ida,+hands", 2.3), ("name+board", 2.6), ("Ove", 3.2))
)

RACE = "distance=30m&stop=4&moves=rowing&angle=10"

# file, path, size, look, set-up in hand
SHOTS = [
    ("scale", f"/scale?{SCENE}", "table", "bench", 1),
    ("measure", "/scale/measure", "table", "bench", 3),
    ("plan", f"/plan?{SHED}", "table", "bench", 1),
    ("zones", "/plan/zones?stop=8", "table", "bench", 2),
    ("moving", f"/plan/moving?{RACE}", "phone", "sun", 5),
    ("why", "/log/why", "table", "bench", 8),
    ("close", "/plan/close?subject=6cm", "table", "bench", 1),
    ("night", "/plan/night?foreground=2m", "phone", "night", 2),
    ("aids", "/aids?at=2400mm&stop=1.4", "table", "bench", 1),
    ("live", "live:/aids/live?at=2400mm&stop=2", "table", "bench", 1),
    ("hand", "/practice/hand", "table", "bench", 4),
    ("shots", "made-up-shots", "table", "bench", 4),
    ("finder", "round:drop-in/split_image/plank/1.4", "table", "bench", 4),
    ("log", "/log", "table", "bench", 1),
    ("pictures", "/log/pictures", "table", "bench", 1),
    ("review", "/log/review?picture=4", "table", "room", 1),
    ("kit", "/kit", "table", "bench", 1),
    ("field", "/field", "phone", "sun", 1),
]


def sweep(page: Page, address: str) -> None:
    """Turn the made-up camera through focus and back to the best."""
    page.goto(address)
    page.get_by_role("button", name="Try it without a camera").click()
    page.locator("#live[data-made-up=yes]").wait_for(timeout=120_000)
    ring = page.get_by_label("Ring of the made-up camera")
    for place in [*np.arange(6, 22, 0.3), *np.arange(22, 15, -0.3)]:
        ring.evaluate("(ring, value) => { ring.value = value }", str(place))
        page.wait_for_timeout(80)
    page.get_by_label("Outline what is sharp").select_option(index=1)
    page.wait_for_timeout(4000)


def take(page: Page, site: Site, name: str, path: str, setup: int) -> None:
    page.request.post(f"{site.url}/in-hand", form={"setup": str(setup)}, headers={"origin": site.url})
    if path == "made-up-shots":
        page.goto(f"{site.url}/shots?aid=split_image")
        page.get_by_role("button", name="Try it without a camera").click()
        page.get_by_role("link", name="See what came of it").click(timeout=120_000)
        page.wait_for_selector(".shot-large")
    elif path.startswith("live:"):
        sweep(page, f"{site.url}{path.removeprefix('live:')}")
    elif path.startswith("round:"):
        play(page, site, *path.removeprefix("round:").split("/"))
    else:
        page.goto(f"{site.url}{path}")
    if page.locator("#ring-data").count():
        page.wait_for_selector("html[data-instruments=ready]")
    if page.locator("#review").count():
        page.wait_for_selector("#review[data-sharp=yes]")
    page.evaluate("document.fonts.ready")
    page.screenshot(path=TARGET / f"{name}.png", animations="disabled", caret="hide")
    print(TARGET / f"{name}.png")


def play(page: Page, site: Site, exercise: str, aid: str, scene: str, stop: str) -> None:
    """Open a round of a fixed seed and turn the ring some way towards its subject."""
    keeper = site.server.config.app.state.rounds
    database = site.server.config.app.state.database
    with database.session() as session:
        stored = kit.find_selected_setup(session)
    opened = keeper.open(stored.id, stored.setup, RoundRequest(exercise, aid, scene, float(stop)), seed=7)
    target = opened.round.judge(Release(angle_deg=opened.round.start_deg, lean_mm=0.0, seconds=0.0)).target_deg
    opened.round.start_deg = opened.round.ring.clamp(target - 5)
    page.goto(f"{site.url}/practice/rounds/{opened.key}")
    page.wait_for_selector("#finder[data-warm=yes]")


def main() -> None:
    TARGET.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        build_demo(Path(folder))
        site = Site(Path(folder))
        chromium = playwright.chromium.launch(executable_path=chromium_path(), args=QUIET)
        for name, path, size, look, setup in SHOTS:
            context = chromium.new_context(viewport=SIZES[size], reduced_motion="reduce")
            seen = {"look": look, "seen": "aids-plan-practice-scale-shots"}
            context.add_cookies([{"name": key, "value": value, "url": site.url} for key, value in seen.items()])
            take(context.new_page(), site, name, path, setup)
            context.close()
        newcomer(chromium, Path(folder) / "new")
        chromium.close()
        site.stop()


def newcomer(chromium: Browser, folder: Path) -> None:
    """Take the first page of an empty kit."""
    site = Site(folder)
    page = chromium.new_page(viewport=SIZES["table"])
    page.goto(site.url)
    if page.locator("#review").count():
        page.wait_for_selector("#review[data-sharp=yes]")
    page.evaluate("document.fonts.ready")
    page.screenshot(path=TARGET / "start.png", animations="disabled", caret="hide")
    site.stop()


if __name__ == "__main__":
    main()
