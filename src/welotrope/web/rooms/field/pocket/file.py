"""The pocket file: the field page with its book, styles, fonts and script in one file that needs no network."""

from __future__ import annotations

import base64
import functools
import re

from welotrope.core.json_values import JsonObject
from welotrope.web.request.templating import STATIC, environment
from welotrope.web.rooms.field.page.book import book_json
from welotrope.web.rooms.field.page.bundle import script_text

_FONT = re.compile(r"url\(\.\./fonts/([\w-]+\.woff2)\)")


def pocket_file(book: JsonObject, look: str) -> str:
    """Return the file as HTML."""
    template = environment().get_template("rooms/field/pocket/file.html")
    return template.render(book=book_json(book), look=look, style=_style(), script=_script(), made=book["made"])


def _script() -> str:
    # A script element ends at its closing tag, wherever that stands.
    return script_text().replace("</script", "<\\/script")


@functools.cache
def _style() -> str:
    return _FONT.sub(_inline, (STATIC / "css/app.css").read_text())


def _inline(found: re.Match[str]) -> str:
    font = base64.b64encode((STATIC / "fonts" / found[1]).read_bytes()).decode()
    return f"url(data:font/woff2;base64,{font})"
