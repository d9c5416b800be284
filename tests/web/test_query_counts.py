"""What a page asks of the database does not grow with what is kept there."""

from dataclasses import replace

import pytest
from sqlalchemy import event

from tests.conftest import NOW
from welotrope.core.review.outcomes import Outcome
from welotrope.store.queries import history, kit, log, ring_records

PAGES = [
    "/scale", "/scale/measure", "/scale/infinity", "/scale/marks", "/scale/shift", "/scale/print", "/plan", "/aids",
    "/aids/constants", "/practice", "/log", "/log/new", "/kit", "/kit/bodies/1", "/kit/lenses/1", "/kit/setups/1",
    "/kit/setups/1/sheet", "/kit/bodies/1/slots", "/kit/import", "/help", "/jump", "/setups", "/jobs",
    "/log/pictures", "/log/review", "/log/sidecars?outing=1", "/log/report", "/log/rolls",
]  # fmt: skip
MOST = 22  # of the Kit room, which shows everything owned


def statements(client, path):
    engine = client.app.state.database.engine
    seen = []

    def note(_connection, _cursor, statement, *_rest):
        seen.append(statement)

    event.listen(engine, "before_cursor_execute", note)
    try:
        assert client.get(path).status_code == 200
    finally:
        event.remove(engine, "before_cursor_execute", note)
    return seen


@pytest.fixture
def grown(client):
    """The demo with twelve more lenses, bodies, set-ups and presets, and more frames and changes."""
    with client.app.state.database.session() as uow:
        first = kit.list_setups(uow)[0]
        outing = log.list_outings(uow)[0].id
        frame = log.get_frame(uow, 1)
        for index in range(12):
            with history.recorded(uow, f"Added {index}", NOW):
                lens = kit.save_lens(uow, replace(first.setup.lens, name=f"Lens {index}"))
                body = kit.save_body(uow, replace(first.setup.body, name=f"Body {index}"))
                kit.save_setup(uow, body, lens, first.setup.standard)
                ring_records.add_preset(uow, first.lens_id, f"preset {index}", 2000.0 + index, 8.0, ())
                log.add_frame(uow, outing, frame, outcome=Outcome.HIT)
        uow.commit()
    return client


@pytest.mark.parametrize("path", PAGES)
def test_a_page_asks_as_often_whatever_is_kept(client, path, request):
    before = statements(client, path)
    after = statements(request.getfixturevalue("grown"), path)
    assert len(after) == len(before), "\n".join(after)
    assert len(after) <= MOST, "\n".join(after)
