"""The clock of this computer; the demo has one of its own."""

from __future__ import annotations

import datetime as dt


def local_now() -> dt.datetime:
    """Return the wall clock of the place, without a zone, to the second: what a photographer writes down."""
    return dt.datetime.now().replace(microsecond=0)
