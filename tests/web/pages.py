"""Reading answers as a browser would: parsed, not matched as text."""

from bs4 import BeautifulSoup


def soup(answer):
    """The parsed page of an answer, parsed once, or of HTML text."""
    if isinstance(answer, str):
        return BeautifulSoup(answer, "lxml")
    if not hasattr(answer, "parsed"):
        answer.parsed = BeautifulSoup(answer.text, "lxml")
    return answer.parsed


def words(node):
    """What a person reads there, white space drawn together."""
    return " ".join(node.get_text().split())


def text_of(answer):
    """What a person reads of it: no script and no style."""
    return words(soup(answer))


def headline(answer):
    """What the first heading shows; what is there only for another setting is hidden."""
    heading = soup(answer).h1
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
