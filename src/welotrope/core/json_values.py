"""The JSON objects that cross the border of the product, whose values are checked where they are read."""

from __future__ import annotations

from typing import Any

JsonObject = dict[str, Any]
