"""A page as a person and a browser read it: its words, where its links and forms lead, and what its fields hold."""

import re

from tests.web.pages import soup

# What a page does with its parts; the rest is how it looks.
TOLD = (
    "href", "action", "formaction", "method", "name", "value", "checked", "selected", "disabled", "open", "hidden",
    "hx-get", "hx-post", "hx-target", "hx-trigger", "hx-include", "hx-vals", "aria-label", "aria-invalid", "title",
    "alt", "src", "placeholder", "min", "max", "maxlength", "colspan", "list", "for", "type", "role", "accept",
)  # fmt: skip
DRAWN = (
    "class",
    "x",
    "y",
    "x1",
    "x2",
    "y1",
    "y2",
    "cx",
    "cy",
    "r",
    "rx",
    "width",
    "height",
    "points",
    "transform",
    "viewbox",
    "d",
)
NUMBER = re.compile(r"[-−+]?\d+(?:\.\d+)?")
SHARE = 0.004  # of a number: what another processor may round otherwise


def reading(answer, *, drawings=False):
    """Return the lines of a page: one for each tag that does something, each piece of text, and each drawn shape."""
    lines = []
    _read(soup(answer).select_one("body"), lines, drawings, drawn=False)
    return lines


def _read(tag, lines, drawings, drawn):
    if tag.name in ("script", "style", "template", "defs"):
        return
    drawn = drawn or tag.name == "svg"
    said = [_attribute(tag, name) for name in tag.attrs if name in TOLD or name.startswith("data-")]
    shape = [f"{name}={_whole(tag[name])}" for name in DRAWN if drawn and tag.has_attr(name)]
    if said:
        lines.append(f"<{tag.name} {' '.join(sorted(said))}>")
    if drawn and not drawings:
        return
    if shape:
        lines.append(f"~{tag.name} {' '.join(shape)}")
    for child in tag.contents:
        if isinstance(child, str):
            text = " ".join(child.replace("\xa0", " ").split())
            lines += [text] if text else []
        else:
            _read(child, lines, drawings, drawn)


def _attribute(tag, name):
    value = tag[name]
    text = " ".join(value.split())
    return f"{name}={re.sub(r'[?]v=[0-9a-f]{10}', '', text)}"


def _whole(text):
    return NUMBER.sub(lambda found: f"{float(found[0].replace('−', '-')) + 0.0:.0f}", " ".join(text.split()))


def same_line(one, other):
    """Whether two lines say the same: what a tag does to the letter, figures as near as another processor has them."""
    if one == other or one.startswith("<") or NUMBER.sub("#", one) != NUMBER.sub("#", other):
        return one == other
    pairs = zip(NUMBER.findall(one), NUMBER.findall(other), strict=True)
    return all(a == b or _near(a, b, drawn=one.startswith("~")) for a, b in pairs)


def _near(a, b, drawn):
    places = len(a.partition(".")[2])
    x, y = (float(text.replace("−", "-")) for text in (a, b))
    return abs(x - y) <= max(SHARE * abs(x), 1.01 * 10**-places if places or drawn else 0)
