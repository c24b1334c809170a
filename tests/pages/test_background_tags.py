"""Backgrounds in the page: woven like tags, and taken back byte for byte."""

import pytest
import tinycss2
from hypothesis import given
from hypothesis import strategies as st

from sarvel.core.html.dialect import HTML
from sarvel.core.html.tags import read_tag
from sarvel.core.markup.backgrounds import BackgroundFiles
from sarvel.pages.restore.background_tags import backgrounds_in, style_with
from sarvel.pages.restore.blocks import blocks, replaced
from sarvel.pages.restore.set_aside import with_ours
from sarvel.pages.weave.write import attribute

FILES = BackgroundFiles(
    "'p/a.jpg'", "image-set(url('p/a.avif') type('image/avif') 1x, url('p/b.avif') type('image/avif') 2x)"
)

AUTHORS = [
    '<header class="top" style="background-image: url(\'masters/sea.jpg\')" data-sarvel="hero">',
    "<header data-sarvel=hero style='background: #000 url(\"masters/sea.jpg\") no-repeat center / cover; height: 9em' id=x>",
    '<div data-sarvel="hero" style="color: red; background-image: linear-gradient(rgba(0,0,0,.5), red), url(masters/sea.jpg);;">',
    '<DIV Style = "Background-Image:url( masters/sea.jpg )" DATA-SARVEL="hero">',
    '<section data-sarvel="hero" style="background:url(&quot;masters/sea.jpg&quot;)"/>',
]


def woven_all(page: str) -> str:
    found = [block for block in blocks(page) if block.mention and not block.fault]
    changes = []
    for block in found:
        tag = read_tag(block.tag, 0)
        assert tag and block.mention
        style = style_with(block.mention.style, FILES)
        changes.append((block, with_ours(block.tag, tag, {"style": style}, [attribute("style", style, HTML)])))
    return replaced(page, changes)


def undone(page: str) -> str:
    return replaced(page, [(block, block.tag) for block in blocks(page) if not block.fault])


@pytest.mark.parametrize("author", AUTHORS)
def test_a_background_is_woven_and_given_back(author: str) -> None:
    page = f"<p>{author}<b>kept</b></p>"
    once = woven_all(page)
    assert once != page and woven_all(once) == once and undone(once) == page
    (found,) = backgrounds_in(once, HTML)
    assert found.urls == ("masters/sea.jpg",) and not found.fault
    tag = read_tag(once, 3)
    assert tag
    said = [one for one in tinycss2.parse_blocks_contents(tag.values()["style"]) if one.type == "declaration"]
    plain, with_set = (one for one in said if one.lower_name.startswith("background"))
    assert "p/a.jpg" in tinycss2.serialize(plain.value) and "image-set(" in tinycss2.serialize(with_set.value)
    rest = [part.strip() for part in ("cover", "no-repeat", "linear-gradient") if part in author]
    assert all(part in tinycss2.serialize(with_set.value) for part in rest)


@pytest.mark.parametrize(
    "tag",
    [
        '<p style="background: url(a.jpg), url(b.jpg)" data-sarvel="hero">',
        '<p style="background: url({{ a }})" data-sarvel="hero">',
        '<p style="background: url(data:image/png,x)" data-sarvel="hero">',
        '<p style="cursor: url(a.jpg)" data-sarvel="hero">',
        '<p style="background: url(a.jpg)">',
        '<!-- <p style="background: url(a.jpg)" data-sarvel="hero"> -->',
    ],
)
def test_what_is_left_alone(tag: str) -> None:
    assert [block for block in blocks(tag) if block.mention] == []


def test_a_style_that_was_edited_stays_and_is_told() -> None:
    edited = woven_all(AUTHORS[0]).replace('style="background', 'style="color:red;background')
    (block,) = blocks(edited)
    assert "its style was changed by hand in the woven block" in str(block.fault)
    moved = woven_all(AUTHORS[0]).replace('class="top"', 'class="top wide"')
    assert undone(moved) == AUTHORS[0].replace('class="top"', 'class="top wide"')


PIECES = st.sampled_from(
    [*AUTHORS, "<p>", "</p>", "<!--", "-->", '<img alt="', "{% x %}", "<", ">", '"', "'", " style=", "url(", ")"]
)


@given(st.lists(PIECES, max_size=8).map("".join))
def test_any_page_survives(page: str) -> None:
    clean = undone(page)
    once = woven_all(clean)
    assert undone(once) == clean and woven_all(once) == once
