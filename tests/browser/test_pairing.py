"""A phone paired over the network; another address of the loopback stands for it."""

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import Site

LAN = "127.0.0.2"


@pytest.fixture
def reached(demo_folder):
    site = Site(demo_folder, lan=LAN)
    yield site
    site.stop()


@pytest.fixture
def stranger(browser, reached):
    context = browser.new_context(viewport={"width": 390, "height": 844}, base_url=f"http://{LAN}:{reached.port}")
    yield context.new_page()
    context.close()


def test_a_phone_is_let_in_by_a_code_once_and_let_in_no_more(open_page, browser, reached, stranger):
    computer = open_page(reached, "/devices")
    stranger.goto("/field")
    expect(stranger.locator("body")).to_contain_text("not paired")  # no code
    computer.get_by_role("button", name="Make a code").click()
    code = computer.locator("[data-code]").inner_text()
    expect(computer.locator("svg.qr")).to_be_visible()
    stranger.goto("/pair?code=WRONGONE")
    stranger.get_by_label("What you call this device").fill("my phone")
    stranger.get_by_role("button", name="Pair").click()
    expect(stranger.get_by_role("alert")).to_contain_text("not the code")
    stranger.get_by_label("Code").fill(code)
    stranger.get_by_role("button", name="Pair").click()
    stranger.wait_for_selector("html[data-ready=yes]")
    stranger.locator("#f-log").click()
    stranger.locator("[data-tab=log]").click()
    expect(stranger.locator("#f-main")).to_contain_text("All of it has gone over")
    second = browser.new_context(base_url=f"http://{LAN}:{reached.port}").new_page()
    second.goto(f"/pair?code={code}")
    second.get_by_label("What you call this device").fill("a thief")
    second.get_by_role("button", name="Pair").click()
    expect(second.get_by_role("alert")).to_contain_text("was used")
    second.context.close()
    computer.goto("/devices")
    expect(computer.locator("table").first).to_contain_text("my phone")
    computer.get_by_role("button", name="Remove device").click()
    expect(computer.locator("main")).to_contain_text("None.")
    stranger.reload()
    expect(stranger.locator("body")).to_contain_text("not paired")
