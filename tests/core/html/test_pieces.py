"""Pieces of attribute values in the text of their page, and edits of them."""

import pytest

from sarvel.core.html.document import read_document
from sarvel.core.html.pieces import Edit, added, edited, overlap, piece_edit, piece_span, taken_away, written

# A tag, the piece of its srcset to find, what to write there, and the tag then.
CASES = [
    ('<img srcset="a.jpg 2 x">', "2 x", "2x", '<img srcset="a.jpg 2x">'),
    ("<img srcset='a.jpg 2 x'>", "2 x", '2"x', "<img srcset='a.jpg 2&quot;x'>"),
    ("<img srcset=a.jpg>", "a.jpg", "a.jpg 2x", '<img srcset="a.jpg 2x">'),
    ('<img srcset="a.jpg?w=1&amp;h=2 2 x">', "2 x", "2x", '<img srcset="a.jpg?w=1&amp;h=2 2x">'),
    ('<img srcset="a.jpg?w=1&amp;h=2 2 x">', "&h", "&w", '<img srcset="a.jpg?w=1&amp;w=2 2 x">'),
    ('<img srcset = "&#x61;.jpg 2 x">', "a.jpg", "b.jpg", '<img srcset = "b.jpg 2 x">'),
]


@pytest.mark.parametrize(("text", "piece", "new", "after"), CASES)
def test_a_piece_is_found_and_replaced(text: str, piece: str, new: str, after: str) -> None:
    [image] = read_document(text).images
    value = image.tag.values()["srcset"]
    start = value.index(piece)
    assert edited(text, piece_edit(text, image.tag, "srcset", start, start + len(piece), new)) == after
    first, end = piece_span(text, image.tag, "srcset", start, start + len(piece))
    assert read_document(f'<img srcset="{text[first:end]}">').images[0].tag.values()["srcset"] == piece


def test_what_cannot_be_found_is_told_as_a_whole_and_not_edited() -> None:
    text = "<img srcset alt=x>"
    [image] = read_document(text).images
    assert piece_edit(text, image.tag, "srcset", 0, 1, "a") == piece_edit(text, image.tag, "id", 0, 1, "a") == ()
    assert text[slice(*piece_span(text, image.tag, "srcset", 0, 1))] == "srcset"


def test_attributes_are_added_and_taken_away() -> None:
    text = '<img alt=x\n  id="a">'
    [image] = read_document(text).images
    [alt, id_] = image.tag.attributes
    assert edited(text, [taken_away(text, id_)]) == "<img alt=x>"
    assert edited(text, [added(image.tag, 'width="3"'), taken_away(text, alt)]) == '<img\n  id="a" width="3">'
    assert written("alt", 'a "b" <c> & d') == 'alt="a &quot;b&quot; &lt;c&gt; &amp; d"'
    assert [overlap(Edit(1, 3, ""), other) for other in (Edit(2, 4, ""), Edit(3, 4, ""), Edit(1, 1, ""))] == [
        True,
        False,
        True,
    ]
