"""The pocket file opened from a folder with no network; its log carried back."""

import datetime as dt

from playwright.sync_api import expect

from tests.browser.field import tab
from tests.conftest import NOW

# A promise of the page's own: a function to be waited for would be read again by its policy, which forbids that.
KEPT = """async () => {
  for (let tries = 0; tries < 400; tries++) {
    const kept = (await (await caches.open("welotrope-field")).keys()).map((one) => new URL(one.url).pathname);
    const both = kept.includes("/field") && kept.some((path) => path.includes("/field/script.js"));
    if (both && navigator.serviceWorker.controller) return true;
    await new Promise((later) => setTimeout(later, 20));
  }
  return false;
}"""


def test_the_pocket_file_works_from_a_folder_and_its_log_comes_back(browser, open_page, site, tmp_path):
    page = open_page(site, "/field/pocket")
    with page.expect_download() as download:
        page.get_by_role("link", name="Save the pocket file").click()
    pocket = tmp_path / "pocket.html"
    download.value.save_as(pocket)
    phone = browser.new_context(viewport={"width": 390, "height": 844}, offline=True, accept_downloads=True)
    troubles = []
    carried = phone.new_page()
    carried.on("pageerror", lambda error: troubles.append(str(error)))
    carried.on("console", lambda message: troubles.append(message.text) if message.type == "error" else None)
    carried.on(
        "request", lambda sent: None if sent.url.startswith(("file:", "data:", "blob:")) else troubles.append(sent.url)
    )
    carried.clock.set_system_time(NOW.replace(tzinfo=dt.UTC))
    carried.goto(pocket.as_uri())
    carried.wait_for_selector("html[data-ready=yes]")
    carried.locator("#f-hand").select_option("2")
    for _ in range(3):
        carried.locator("#f-log").click()
        carried.locator("#f-next").click()
    carried.locator("#f-undo").click()
    tab(carried, "ring")
    carried.get_by_role("button", name="11", exact=True).click()
    carried.locator("#f-log").click()
    tab(carried, "log")
    carried.get_by_role("button", name="hit").first.click()
    carried.reload()
    tab(carried, "log")
    expect(carried.locator(".f-name")).to_contain_text("3 frames")
    with carried.expect_download() as saved:
        carried.get_by_role("link", name="Save the log").click()
    back = tmp_path / "log.json"
    saved.value.save_as(back)
    phone.close()
    assert troubles == []
    page.get_by_label("The file it saved").set_input_files(back)
    page.get_by_role("button", name="Show what it holds").click()
    page.get_by_role("button", name="Take over").click()
    expect(page.get_by_role("status").last).to_contain_text("of a pocket file")
    assert page.locator("#frames").inner_text().count("Velloise 20") == 3


def test_the_field_page_is_there_again_when_the_server_is_not(open_page, site):
    page = open_page(site, "/field", size="phone", look="sun")  # its own clock: a made-up one hides what was loaded
    page.wait_for_selector("html[data-ready=yes]")
    assert page.evaluate(KEPT), "the page or its script is not in the cache"
    site.stop()
    page.locator("#f-log").click()
    page.reload()
    page.wait_for_selector("html[data-ready=yes]")
    tab(page, "log")
    expect(page.locator(".f-name")).to_contain_text("1 frame")
