"""The field page in a browser: opening it at the moment the tests take place in."""

import datetime as dt

from tests.conftest import NOW


def open_field(open_page, site, size="phone", look="sun", path="/field"):
    """Open the field page with the clock of the server."""
    page = open_page(site, "/help", size=size, look=look)
    page.clock.set_system_time(NOW.replace(tzinfo=dt.UTC))
    page.goto(path)
    page.wait_for_selector("html[data-ready=yes]")
    page.wait_for_load_state("networkidle")  # nothing is on its way when a test takes the server away
    return page


def tab(page, name):
    page.locator(f"#f-tabs [data-tab={name}]").click()
