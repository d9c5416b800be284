"""What a page is given is exactly what its template shows: nothing missing, nothing unused."""

import dataclasses
import re

import pytest
from jinja2 import nodes

from welotrope.web.request.context import RequestContext
from welotrope.web.request.templating import WEB, environment

PAGES = [
    "/scale", "/scale/measure", "/scale/infinity", "/scale/marks", "/scale/shift", "/scale/print", "/plan", "/plan/zones", "/plan/light",
    "/plan/moving", "/plan/sitter", "/plan/close?depth=5", "/plan/night", "/plan/compare", "/aids",
    "/aids/constants", "/practice", "/log", "/log/new", "/log/frames/1", "/kit", "/kit/bodies/1", "/kit/lenses/1",
    "/kit/mounts/1", "/kit/adapters/1", "/kit/setups/1", "/kit/setups/1/sheet", "/kit/bodies/1/slots", "/kit/import",
    "/help", "/help/plan", "/kit/attachments/1", "/practice/trials/1", "/log/pictures", "/log/review?picture=1", "/log/sidecars", "/log/report",
    "/log/rolls", "/log/rolls/1", "/log/clock", "/log/why", "/practice/tape",
    "/practice/hand", "/practice/reaction",
]  # fmt: skip


THINGS = {"mounts"}


def parsed(name):
    return environment().parse((WEB / name).read_text())


def parts(name, seen):
    """The tree of a template, of all it extends and includes, and of the macros it takes from elsewhere."""
    if name in seen:
        return
    seen[name] = tree = parsed(name)
    # What is included with a page of its own is a fragment, and shows that.
    other = {
        id(node)
        for given in tree.find_all(nodes.With)
        if any(target.name == "page" for target in given.targets)
        for node in given.find_all(nodes.Include)
    }
    for node in tree.find_all((nodes.Include, nodes.Extends)):
        if isinstance(node.template, nodes.Const) and id(node) not in other:
            parts(node.template.value, seen)
    for node in tree.find_all(nodes.FromImport):
        macros = {macro.name: macro for macro in parsed(node.template.value).find_all(nodes.Macro)}
        wanted = [name if isinstance(name, str) else name[0] for name in node.names]
        while wanted:
            macro = wanted.pop()
            if macro in macros and (node.template.value, macro) not in seen:
                seen[node.template.value, macro] = macros[macro]
                wanted += [c.node.name for c in macros[macro].find_all(nodes.Call) if isinstance(c.node, nodes.Name)]


def shown(name):
    """Attributes of the page that a template and its parts ask for."""
    seen = {}
    parts(name, seen)
    return {
        found.attr
        for tree in seen.values()
        for found in tree.find_all(nodes.Getattr)
        if isinstance(found.node, nodes.Name) and found.node.name == "page"
    }


@pytest.fixture
def given(pictured_client, monkeypatch):
    """Pages by the template they were given to."""
    taken = {}
    page = RequestContext.page

    def noted(self, template, given, **more):
        taken[f"rooms/{template}"] = given
        return page(self, template, given, **more)

    monkeypatch.setattr(RequestContext, "page", noted)
    for path in PAGES:
        assert pictured_client.get(path).status_code == 200, path
    begun = pictured_client.post("/practice/rounds", data={"exercise": "single", "aid": "matte", "stop": "1.4"})
    assert begun.status_code == 200
    return taken


def test_a_page_holds_what_its_template_shows_and_nothing_else(given):
    assert len(given) >= len(PAGES)
    used_by = {}
    for template, page in given.items():
        used_by.setdefault(type(page), set()).update(shown(template))
        absent = sorted(name for name in shown(template) if not hasattr(page, name))
        assert absent == [], (template, absent)
    idle = {}
    for kind, used in used_by.items():
        if not dataclasses.is_dataclass(kind):
            continue
        # What a property is made of is used where the property is.
        made_of = {
            name
            for attribute in used
            if isinstance(getattr(kind, attribute, None), property)
            for name in getattr(kind, attribute).fget.__code__.co_names
        }
        unused = [field.name for field in dataclasses.fields(kind) if field.name not in used | made_of]
        # The things that can be chosen by name are looked up by the name of their list.
        unused = [name for name in unused if name not in THINGS]
        if unused:
            idle[kind.__name__] = unused
    assert idle == {}


def test_no_template_reckons():
    """Adding and multiplying is done where it is tested; a template only places what it is given."""
    sums = (nodes.Add, nodes.Sub, nodes.Mul, nodes.Div, nodes.FloorDiv, nodes.Pow, nodes.Mod)
    for path in sorted(WEB.rglob("*.html")):
        tree = environment().parse(path.read_text())
        found = [node.lineno for node in tree.find_all(sums) if not _writes(node)]
        assert found == [], (path.relative_to(WEB), found)


def _writes(node):
    """Whether it is no sum but text written in a form, such as ``'%.1f' % value``."""
    return isinstance(node, nodes.Mod) and isinstance(node.left, nodes.Const) and isinstance(node.left.value, str)


def test_options_come_from_the_lists_they_belong_to():
    """No list of words that the core has a list of is written out in a template."""
    for path in sorted(WEB.rglob("*.html")):
        written = re.findall(r"<option value=\"([a-z ]+)\"", path.read_text())
        assert [word for word in written if word not in ("", "taking", "open")] == [], path.relative_to(WEB)
