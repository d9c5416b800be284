"""Regenerate docs/screenshots from the demo data: same data, same clock, same picture on every run."""

from __future__ import annotations

import shutil
import sys
import tempfile
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1]))

from playwright.sync_api import Page, sync_playwright
from tests.browser.conftest import QUIET, SIZES, Site

from welotrope.demo.build import build_demo

TARGET = Path("docs/screenshots")
SCENE = "at=2400mm&stop=5.6&subject=rope+coil@1900&subject=Ida,+hands@2300&subject=name+board@2600&subject=Ove@3200"
SHED = "&".join(
    f"name={name}&distance={metres}+m"
    for name, metres in (("rope+coil", 1.9), ("Ida,+hands", 2.3), ("name+board", 2.6), ("Ove", 3.2))
)

# file, path, size, look, set-up in hand
SHOTS = [
    ("scale", f"/scale?{SCENE}", "table", "bench", 1),
    ("scale-wide-lens", "/scale?at=3200mm&stop=8&subject=front+row@1600&subject=far+shore@inf", "table", "bench", 2),
    ("scale-phone-sun", f"/scale?{SCENE}", "phone", "sun", 1),
    ("scale-night", "/scale?at=inf&stop=3.5", "table", "night", 2),
    ("measure", "/scale/measure", "table", "bench", 3),
    ("infinity", "/scale/infinity", "table", "bench", 2),
    ("print", "/scale/print?chosen=1&part=strip&part=marks&part=card&diameter=64&presets=yes", "table", "bench", 2),
    ("plan", f"/plan?{SHED}", "table", "bench", 1),
    ("plan-phone", f"/plan?{SHED}", "phone", "bench", 1),
    ("aids", "/aids?at=2400mm&stop=1.4", "table", "bench", 1),
    ("aids-split-image-room", "/aids?at=2400mm&stop=8&view=open", "table", "room", 4),
    ("log", "/log", "table", "bench", 1),
    ("log-phone", "/log", "phone", "bench", 1),
    ("kit", "/kit", "table", "bench", 1),
    ("setup-stop", "/kit/setups/3", "table", "bench", 3),
    ("sheet-phone", "/kit/setups/1/sheet", "phone", "bench", 1),
    ("slots", "/kit/bodies/1/slots", "table", "bench", 1),
]


def take(page: Page, site: Site, name: str, path: str, setup: int) -> None:
    page.request.post(f"{site.url}/in-hand", form={"setup": str(setup)}, headers={"origin": site.url})
    page.goto(f"{site.url}{path}")
    if page.locator("#ring-data").count():
        page.wait_for_selector("html[data-instruments=ready]")
    page.evaluate("document.fonts.ready")
    page.screenshot(path=TARGET / f"{name}.png", animations="disabled", caret="hide")
    print(TARGET / f"{name}.png")


def main() -> None:
    TARGET.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        build_demo(Path(folder))
        site = Site(Path(folder))
        chromium = playwright.chromium.launch(
            executable_path=shutil.which("chromium") or shutil.which("chromium-browser"), args=QUIET
        )
        for name, path, size, look, setup in SHOTS:
            context = chromium.new_context(viewport=SIZES[size], reduced_motion="reduce")
            context.add_cookies([{"name": "look", "value": look, "url": site.url}])
            take(context.new_page(), site, name, path, setup)
            context.close()
        chromium.close()
        site.stop()


if __name__ == "__main__":
    main()
