"""Waiting for what a page does, as long as a busy machine needs."""

import time

PATIENCE_S = 60


def until(page, holds):
    """Wait until something holds; scripts from outside may not poll the page itself."""
    ends = time.monotonic() + PATIENCE_S
    while time.monotonic() < ends:
        if holds():
            return
        page.wait_for_timeout(20)
    raise AssertionError("it never held")


def answered(page):
    """Wait until the site has answered one more request of the page, behind all those sent before."""
    page.evaluate("fetch('/help').then((answer) => answer.text())")
