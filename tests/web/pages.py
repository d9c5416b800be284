"""Reading answers as a browser would: parsed, not matched as text."""

import functools

import lxml.html
from lxml.cssselect import CSSSelector

_UNREAD = ("script", "style", "template")


@functools.lru_cache(None)
def _selector(text):
    return CSSSelector(text, translator="html")


class Part:
    """An element of a page."""

    def __init__(self, node):
        self.node = node

    def __eq__(self, other):
        return isinstance(other, Part) and self.node is other.node

    def __hash__(self):
        return hash(self.node)

    def __getitem__(self, name):
        return self.node.attrib[name]

    def get(self, name, otherwise=None):
        return self.node.get(name, otherwise)

    def has_attr(self, name):
        return name in self.node.attrib

    @property
    def attrs(self):
        return dict(self.node.attrib)

    @property
    def name(self):
        return self.node.tag

    @property
    def string(self):
        return self.node.text

    @property
    def parent(self):
        return Part(self.node.getparent())

    @property
    def contents(self):
        """Its pieces of text and its elements, in order."""
        found = [self.node.text]
        for child in self.node:
            found += [Part(child) if isinstance(child.tag, str) else None, child.tail]
        return [one for one in found if one]

    def select(self, selector):
        return [Part(node) for node in _selector(selector)(self.node) if node is not self.node]

    def select_one(self, selector):
        return next(iter(self.select(selector)), None)

    def closest(self, selector):
        """The element around it that the selector names, or None."""
        wanted = set(_selector(selector)(self.node.getroottree().getroot()))
        return next((Part(node) for node in self.node.iterancestors() if node in wanted), None)

    def holding(self, selector, text):
        """The first element of the selector that says the text."""
        return next(part for part in self.select(selector) if text in words(part))

    def strings(self):
        """Every piece of text in it but scripts and styles, as it is sent."""
        for one in self.contents:
            if isinstance(one, str):
                yield one
            elif one.name not in _UNREAD:
                yield from one.strings()

    def get_text(self, between=""):
        return between.join(self.strings())

    text = property(get_text)

    def decompose(self):
        self.node.drop_tree()


def soup(answer):
    """The parsed page of an answer, parsed once, or of HTML text."""
    if isinstance(answer, str):
        return Part(lxml.html.document_fromstring(answer))
    if not hasattr(answer, "parsed"):
        answer.parsed = Part(lxml.html.document_fromstring(answer.text))
    return answer.parsed


def words(node):
    """What a person reads there, white space drawn together."""
    return " ".join(node.get_text().split())


def text_of(answer):
    """What a person reads of it: no script and no style."""
    return words(soup(answer))


def headline(answer):
    """What the first heading shows; what is there only for another setting is hidden."""
    heading = soup(answer).select_one("h1")
    for part in heading.select("[hidden]"):
        part.decompose()
    return words(heading)


def undo_path(answer):
    """Where the line at the foot posts to."""
    return soup(answer).select_one('.toast form[action^="/undo/"]')["action"]


def fields_of(answer, action):
    """What the form that posts to ``action`` would send as it stands."""
    form = soup(answer).select_one(f'form[action="{action}"]')
    sent = {}
    for field in form.select("input[name], select[name], textarea[name]"):
        if field.name == "select":
            chosen = field.select_one("option[selected]") or field.select_one("option")
            sent[field["name"]] = chosen.get("value", words(chosen))
        elif field.name == "textarea":
            sent[field["name"]] = field.get_text()
        elif field.get("type") not in ("checkbox", "radio"):
            sent[field["name"]] = field.get("value", "")
        elif field.has_attr("checked"):
            value = field.get("value", "on")
            held = sent.get(field["name"])
            sent[field["name"]] = value if held is None else [*([held] if isinstance(held, str) else held), value]
    return sent
