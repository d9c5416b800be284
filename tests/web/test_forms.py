"""Every input that a record declares stands on the page of its form: one that does not could never be filled in."""

from urllib.parse import parse_qsl, urlsplit

import pytest

from tests.web.pages import soup
from welotrope.core.inputs import inputs_of
from welotrope.web.forms import RecordForm

# Two set-ups decide what is asked on a page between them: on film and digital, with a screen and without.
PAGES = {
    "AdapterForm": ("/kit/adapters/new",),
    "AddedCameraForm": ("/kit/add/camera",),
    "AddedLensForm": ("/kit/add/lens", "/kit/add/lens?form=zoom"),
    "AttachmentForm": ("/kit/attachments/new",),
    "BodyForm": ("/kit/bodies/new",),
    "CardsAskedForm": ("/field/cards",),
    "CloseAskedForm": ("/plan/close?subject=12+cm&depth=5",),
    "CompareAskedForm": ("/plan/compare",),
    "FirstAskedForm": ("/start",),
    "FrameForm": ("/log/new", "/log/frames/1"),
    "LensForm": ("/kit/lenses/new",),
    "LightAskedForm": ("/plan/light",),
    "LinesAskedForm": ("/log/type",),
    "MeasureForm": ("/scale/measure",),
    "MountForm": ("/kit/mounts/new",),
    "NightAskedForm": ("/plan/night",),
    "PrintForm": ("/scale/print",),
    "RollForm": ("/log/rolls",),
    "SetupForm": ("/kit/setups/new",),
    "SitterAskedForm": ("/plan/sitter",),
    "TrapAskedForm": ("/plan/moving",),
    "ZonesAskedForm": ("/plan/zones",),
}


def forms(kind=RecordForm):
    for form in kind.__subclasses__():
        yield from forms(form) if form.__subclasses__() else [form]


def names_on(client, paths):
    """Return the names of inputs on pages, and of what links of the page say."""
    pages = [soup(client.get(path)) for path in paths]
    linked = {
        name
        for page in pages
        for link in page.select("main a[href]")
        for name, _ in parse_qsl(urlsplit(link["href"]).query)
    }
    return linked | {field["name"] for page in pages for field in page.select("main [name]")}


def test_every_form_is_looked_at(client):
    assert {form.__name__ for form in forms() if form.__module__.startswith("welotrope")} <= {
        *PAGES,
        "SharpnessStandardForm",
    }


@pytest.mark.parametrize("name", PAGES)
def test_every_input_stands_on_its_page(client, empty_client, name):
    form = next(one for one in forms() if one.__name__ == name)
    names = set()  # typical values are asked about where there are some: see the tests of the start page
    if name == "FirstAskedForm":
        names = names_on(empty_client, PAGES[name])
    for setup in (1, 2, 3, 4):
        client.post("/in-hand", data={"setup": str(setup)})
        names |= names_on(client, PAGES[name])
    assert {one.name for one in inputs_of(form.record)} - names - {"typical"} == set()


def test_a_part_of_a_form_that_nothing_is_in_is_refused():
    form = next(one for one in forms() if one.__name__ == "MountForm")
    with pytest.raises(LookupError, match="Mount asks for nothing in zoom"):
        form().inputs("zoom")
