"""Debian's Chromium as tests, bench and pictures start it."""

import shutil

QUIET = [
    "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking",
    "--disable-component-update", "--disable-sync", "--disable-default-apps",
]  # fmt: skip
# The first starts and draws in half the time of the whole browser.
_NAMES = ("chromium-headless-shell", "chromium", "chromium-browser")


def chromium_path():
    path = next((found for name in _NAMES if (found := shutil.which(name))), None)
    assert path, "Chromium is missing: make test installs it"
    return path
