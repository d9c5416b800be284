"""The ring of a zoom is read at its long end, whatever focal length is in hand."""

from tests.web.pages import text_of
from welotrope.store.queries import kit, log


def test_readings_of_a_zoom_are_asked_for_at_its_long_end(client):
    for page in ("measure", "infinity", "shift", "marks"):
        assert "zoom to 70 mm first" in text_of(client.get(f"/scale/{page}?setup=7&zoom=35"))
        assert "zoom to 70 mm first" not in text_of(client.get(f"/scale/{page}?setup=1"))


def test_a_zoom_stays_where_it_was_left_and_an_odd_focal_length_is_refused(client, database):
    assert client.post("/zoom?setup=7", data={"zoom": "50"}).status_code == 200
    with database.session() as uow:
        assert kit.get_setup(uow, 7).setup.lens.focal_mm == 50
    for odd, words in (("105", "zooms from 35 to 70"), ("wide", "not a number")):
        answer = client.post("/zoom?setup=7", data={"zoom": odd})
        assert answer.status_code == 422
        assert words in text_of(answer)
    assert "at 35" not in text_of(client.post("/zoom?setup=1", data={"zoom": "35"}))


def test_a_frame_is_logged_and_changed_at_its_own_focal_length(client, database):
    client.post("/log/frames?setup=7&zoom=35", data={"at": "3 m", "stop": "8", "back": "/log"})
    with database.session() as uow:
        frame = max((frame for _, frame in log.every_frame(uow)), key=lambda frame: frame.id)
    assert frame.focal_mm == 35
    client.post(f"/log/frames/{frame.id}", data={"at": "3 m", "stop": "11"})
    with database.session() as uow:
        changed = log.get_frame(uow, frame.id)
    assert changed.far_mm > frame.far_mm > 6_000
