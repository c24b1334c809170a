"""Addresses of files in a folder, and how parts of addresses are escaped."""

from urllib.parse import unquote

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sarvel.core.address.address import InFolder, below, escaped
from sarvel.core.markup.picture import write_markup
from tests.core.edition.test_compose import BADGE, BANNER, LAMP, only


@pytest.mark.parametrize(
    ("name", "keeps", "url"),
    [
        ("a-b_c.jpg", "", "a-b_c.jpg"),
        ("a b,c.jpg", "", "a%20b%2Cc.jpg"),
        ("a/b", "", "a%2Fb"),
        ("a/b?", "/", "a/b%3F"),
        ("Küste", "", "K%C3%BCste"),
        ("\udcff", "", "%FF"),  # a byte of a file name that is no UTF-8
        ("'\"<", "", "'%22%3C"),
    ],
)
def test_escapes(name: str, keeps: str, url: str) -> None:
    assert escaped(name, keeps=keeps) == url
    assert unquote(url, errors="surrogateescape") == name


@given(st.text())
def test_nothing_is_left_that_srcset_or_html_takes_for_its_own(name: str) -> None:
    assert not set(escaped(name)) & set(' ,"<>\\\t\n\f\r#?')
    assert unquote(escaped(name)) == name


def test_files_in_a_folder() -> None:
    picture = only(BANNER)
    crop = picture.crops[0]
    [*_, largest] = next(iter(crop.renditions.values()))
    for prefix in ("", "/p", "https://h/p"):
        way = InFolder(prefix)
        assert way.of(picture, crop, largest) == below(prefix, largest.name) and not way.by_accept
    assert InFolder("/p") == InFolder("/p") and len({InFolder("/p"), InFolder("/p")}) == 1
    assert write_markup(only(BADGE, LAMP), InFolder("/p"), None).src.startswith("/p/")
