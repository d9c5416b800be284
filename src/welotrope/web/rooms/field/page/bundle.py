"""A script with all that it imports as one, for a page that is a single file or a phone that is slow to ask.

Each module becomes a function that returns what it exports. Understood are the two ways our scripts write them:
``import { a, b } from "./file.js";`` and ``export`` before a function, a class or a constant.
"""

from __future__ import annotations

import functools
import hashlib
import re
from pathlib import Path

from welotrope.web.request.templating import WEB

_IMPORT = re.compile(r'^import \{ ([^}]+) \} from "(\.[^"]+)";\n', re.MULTILINE)
_EXPORT = re.compile(r"^export ((?:async )?function|class|const) (\w+)", re.MULTILINE)
_OTHER = re.compile(r"^(?:import|export)\b.*", re.MULTILINE)


def bundled(entry: Path) -> str:
    """Return a script and its imports as one script; raises ValueError for an import of another kind."""
    parts: dict[Path, str] = {}
    _gather(entry.resolve(), parts, ())
    return "\n".join(["const $ = {};", *parts.values()])


def _gather(path: Path, parts: dict[Path, str], within: tuple[Path, ...]) -> None:
    if path in parts:
        return
    if path in within:
        raise ValueError(f"{path.name} imports itself")
    text = path.read_text()
    for _, where in _IMPORT.findall(text):
        _gather((path.parent / where).resolve(), parts, (*within, path))
    parts[path] = _as_function(path, text)


def _as_function(path: Path, text: str) -> str:
    def taken(found: re.Match[str]) -> str:
        return f"const {{ {found[1]} }} = $[{_key((path.parent / found[2]).resolve())}];\n"

    given = [name for _, name in _EXPORT.findall(text)]
    body = _EXPORT.sub(r"\1 \2", _IMPORT.sub(taken, text))
    strange = _OTHER.search(body)
    if strange:
        raise ValueError(f"{path.name} imports or exports in a way that is not understood: {strange[0]}")
    return f"$[{_key(path)}] = (() => {{\n{body}\nreturn {{ {', '.join(given)} }};\n}})();"


def _key(path: Path) -> str:
    return f'"{path.parent.name}/{path.name}"'


@functools.cache
def script_text() -> str:
    """Return the script of the field page."""
    return bundled(WEB / "rooms/field/script/main.js")


@functools.cache
def script_version() -> str:
    """Return a hash of it, by which browsers may keep it for ever."""
    return hashlib.sha256(script_text().encode()).hexdigest()[:10]
