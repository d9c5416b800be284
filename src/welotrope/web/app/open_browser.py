"""Open the application in the browser of whoever started it."""

from __future__ import annotations

import os
import sys
import threading
import webbrowser


def open_browser(url: str) -> None:
    """Open an address in the browser, beside everything else; nothing happens where there is no screen."""
    if sys.platform.startswith("linux") and not (os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY")):
        return  # a browser of the terminal would take the terminal
    threading.Thread(target=webbrowser.open, args=(url,), daemon=True).start()
