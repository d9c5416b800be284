"""What a paired device can do: a table. What is not in it is done at the computer."""

from __future__ import annotations

import re
from dataclasses import dataclass

_ID = r"\d+"
_KEY = r"[0-9A-Za-z_-]+"


@dataclass(frozen=True)
class Leave:
    """Something a device may do, in words, with the methods and paths that it takes."""

    words: str
    reads: tuple[str, ...] = ()
    sends: tuple[str, ...] = ()

    def covers(self, method: str, path: str) -> bool:
        """Whether a request is part of it."""
        patterns = self.reads if method in ("GET", "HEAD", "OPTIONS") else self.sends if method == "POST" else ()
        return any(re.fullmatch(pattern, path) for pattern in patterns)


MAY = (
    Leave(
        "read Field, Scale, Plan, Aids and Kit",
        reads=(
            "/", "/field", r"/field/(script|away)\.js", r"/field/cards(\.pdf|\.svg)?", r"/field/pocket(\.html)?",
            "/scale", "/scale/(aid|infinity|marks|measure|print|shift)", r"/scale/print\.(csv|pdf|svg)",
            "/plan", "/plan/(close|compare|light|moving|night|sitter|zones)", "/aids", "/aids/constants",
            "/aids/live(/scale)?", rf"/aids/live/made-up/{_KEY}\.json", rf"/aids/live/made-up/{_KEY}/{_ID}\.jpg",
            "/kit",
            f"/kit/(adapters|attachments|bodies|lenses|mounts|setups)/{_ID}", f"/kit/bodies/{_ID}/slots",
            f"/kit/setups/{_ID}/sheet", "/setups", "/jump", "/help", f"/help/{_KEY}", "/api/docs", "/api/openapi.json",
            "/api/calc/[a-z]+", r"/manifest\.webmanifest",
        ),
        sends=("/api/calc/[a-z]+", "/api/live/(measure|outline)"),
    ),
    Leave(
        "read the log, log and mark frames, and undo that",
        reads=("/log", f"/log/frames/{_ID}", "/log/(new|report|review|rolls|type|why)", f"/log/rolls/{_ID}"),
        sends=(
            "/field/queue", "/log/frames", f"/log/frames/{_ID}", f"/log/frames/{_ID}/mark", "/log/outings",
            "/log/type", "/log/type/echo", f"/log/review/{_ID}", f"/undo/{_ID}",
        ),
    ),
    Leave("see test shots", reads=("/shots", rf"/shots/{_ID}\.jpg")),
    Leave("see pictures as thumbnails and at screen size", reads=(f"/log/pictures/{_ID}/(thumb|preview)",)),
    Leave(
        "practise",
        reads=(
            "/practice", "/practice/(approach|daily|display|guess|hand|lean|reaction|tape)",
            rf"/practice/photos/{_KEY}\.jpg", f"/practice/rounds/{_KEY}(/frame)?", f"/practice/trials/{_ID}",
        ),
        sends=(
            "/practice/(approach|daily|display|guess|lean|tape)", "/practice/(approach|daily|guess|lean|tape)/begin",
            "/practice/person", "/practice/rounds", f"/practice/rounds/{_KEY}/(leave|shutter)", "/plan/reaction",
        ),
    ),
    Leave(
        "select a set-up, units and look, save presets, and tick off the sheet",
        sends=("/in-hand", "/zoom", "/unit", "/look", "/seen", "/presets", f"/kit/setups/{_ID}/sheet/tick"),
    ),
)  # fmt: skip
MAY_NOT = (
    "delete anything, change the kit or the ring, see where files lie, bring files in or take them out, stop work, or"
    " let other devices in"
)
# What an undo of a device may take back: what it may log and practise.
UNDOES = {"frame", "outing", "trial", "drill", "preset", "picture", "sheet_tick", "received", "eye_constant"}


def may(method: str, path: str) -> bool:
    """Whether a paired device may send a request."""
    return any(leave.covers(method, path) for leave in MAY)
