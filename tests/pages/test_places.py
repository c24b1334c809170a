"""Marks on tags of a page that is served."""

from sarvel.pages.read.places import with_places


def test_tags_are_numbered_in_the_order_given() -> None:
    text = '<p><img src="a"><IMG\n src=b><img></p>'
    starts = [text.index("<IMG"), text.index("<img")]
    assert with_places(text, starts, "data-n") == '<p><img data-n="1" src="a"><IMG data-n="0"\n src=b><img></p>'
    assert with_places(text, [], "data-n") == text
