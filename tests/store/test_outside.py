"""Which files outside the data folder may be touched, whatever a record says of their places."""

import os
import unicodedata
from pathlib import Path

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from welotrope.store import outside

SUFFIXES = {".jpg", ".tif"}


@pytest.fixture(scope="module")
def ground(tmp_path_factory):
    """A data folder, a named folder with pictures at two depths, and around it what nobody may touch."""
    root = tmp_path_factory.mktemp("ground")
    data, card, other = root / "data", root / "card", root / "other"
    for folder in (data, card / "deep" / "er", other):
        folder.mkdir(parents=True)
    for path in (
        card / "a.jpg",
        card / "deep/er/b.JPG",
        other / "secret.jpg",
        other / "secret.xmp",
        card / "notes.txt",
    ):
        path.write_bytes(b"x")
    (card / "link.jpg").symlink_to(other / "secret.jpg")
    (card / "link.xmp").symlink_to(other / "secret.xmp")
    (card / "way").symlink_to(other)
    os.mkfifo(card / "pipe.jpg")
    outside.name_folder(data, card)
    return data, card, other


def test_pictures_of_a_named_folder_are_read_and_have_sidecars(ground):
    data, card, _ = ground
    assert outside.may_read(data, str(card), "a.jpg", SUFFIXES) == card / "a.jpg"
    assert outside.may_read(data, str(card / "deep/er"), "b.JPG", SUFFIXES) == card / "deep/er/b.JPG"
    assert outside.may_write(data, str(card), "a.xmp") == card / "a.xmp"
    assert outside.may_look_into(data, str(card / "deep"))


HOSTILE = [
    "../other/secret.jpg", "..", ".", "", "/etc/passwd", "link.jpg", "way/secret.jpg", "pipe.jpg", "notes.txt", "gone.jpg",
    "a.jpg\0.txt", "a\n.jpg", "C:\\Windows\\win.ini", "..\\other\\secret.jpg", "\\\\server\\share\\a.jpg", "con.jpg",
    "NUL", "A.JPG/", "x" * 300 + ".jpg", "\ud800.jpg",
]  # fmt: skip


@pytest.mark.parametrize("name", HOSTILE)
def test_no_other_name_is_read(ground, name):
    data, card, _ = ground
    assert outside.may_read(data, str(card), name, SUFFIXES) is None


@pytest.mark.parametrize("name", ["link.xmp", "../other/secret.xmp", "a.jpg", "notes.txt", "way/secret.xmp", "a.xmp\0"])
def test_nothing_but_a_sidecar_of_its_own_is_written(ground, name):
    data, card, _ = ground
    assert outside.may_write(data, str(card), name) is None


@pytest.mark.parametrize(
    "place", ["other", "", "card/way", "card/../other", "card/deep/../../other", "/dev", "cardigan"]
)
def test_no_other_folder_is_entered(ground, place):
    data, card, _ = ground
    (card.parent / "cardigan").mkdir(exist_ok=True)
    folder = str(card.parent / place) if place and not place.startswith("/") else place
    for name in ("secret.jpg", "a.jpg", "zero.jpg"):
        assert outside.may_read(data, folder, name, SUFFIXES) is None
    assert outside.may_write(data, folder, "new.xmp") is None
    assert not outside.may_look_into(data, folder)


PARTS = st.one_of(
    st.sampled_from(
        ["..", ".", "card", "other", "way", "deep", "er", "/", "\\", "C:", "~", "a.jpg", "secret.jpg", "\0"]
    ),
    st.text(max_size=6),
)


@settings(suppress_health_check=[HealthCheck.function_scoped_fixture], max_examples=300)
@given(
    folder=st.lists(PARTS, max_size=6),
    name=st.lists(PARTS, min_size=1, max_size=4),
    form=st.sampled_from(["NFC", "NFD"]),
)
def test_whatever_is_allowed_lies_in_the_named_folder(ground, folder, name, form):
    data, card, _ = ground
    for base in (str(card), str(card.parent), ""):
        where = unicodedata.normalize(form, base + "/" + "/".join(folder)) if folder else base
        called = unicodedata.normalize(form, "".join(name))
        for found in (outside.may_read(data, where, called, SUFFIXES), outside.may_write(data, where, called + ".xmp")):
            if found is not None:
                assert Path(os.path.realpath(found)).is_relative_to(os.path.realpath(card))
                assert not found.is_symlink()


@pytest.mark.parametrize("written", [b"", b"{", b"[1, null]", b'{"a": 1}', b'["relative"]', b"\xff"])
def test_a_broken_list_of_folders_allows_nothing(tmp_path, written):
    (tmp_path / outside.NAMED_FILE).write_bytes(written)
    assert not outside.may_look_into(tmp_path, str(tmp_path))
    outside.name_folder(tmp_path, tmp_path)
    assert outside.may_look_into(tmp_path, str(tmp_path))
