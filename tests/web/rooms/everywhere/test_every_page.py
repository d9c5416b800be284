"""What every page has: looks and a jump list, and names that stay text."""

from tests.web.pages import text_of


def test_look_is_remembered_and_jump_lists_everything(client):
    assert 'data-look="night"' in client.post("/look", data={"look": "night", "back": "/scale"}).text
    words = text_of(client.get("/jump"))
    for name in ("Scale", "shed bench", "Teal, from shed to launch", "Brannoch 135", "Kyrstad Reflex"):
        assert name in words


def test_subject_names_cannot_break_out_of_the_page(client):
    nasty = "</script><img src=x>"
    answer = client.get("/scale", params={"subject": f"{nasty}@2000"})
    assert "<img" not in answer.text
