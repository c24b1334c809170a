"""Weaving and taking back: whatever the author wrote comes back byte for byte."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sarvel.core.html.master_attribute import master_of
from sarvel.core.html.tags import read_tag
from sarvel.core.markup.picture import Markup, Room, Source
from sarvel.pages.restore.blocks import blocks, replaced
from sarvel.pages.weave.write import render_block

IMAGE = Source("", "", "p/a-1.jpg 1w, p/a-2.jpg 2w", "auto, 100vw", 200, 100)
SIZE = Room("size", (200, 100))
ALONE = Markup((), IMAGE, "p/a-1.jpg", eager=False, room=SIZE)
PICTURE = Markup(
    (Source("(min-width: 9px)", "image/avif", "p/a.avif 1x", "", 200, 100),),
    IMAGE,
    "p/a-1.jpg",
    eager=True,
    urgent=True,
    room=Room("ratio", (200, 100)),
)

AUTHORS = [
    '<img data-sarvel="card" src="masters/a.jpg" alt="A">',
    "<img data-sarvel=card src=masters/a.jpg alt=A>",
    "<IMG SRC='masters/a.jpg' Data-Sarvel='card' ALT=''/>",
    '<img\n\tSrc = "masters/a.jpg"\n\tdata-sarvel="card"\n\tclass="x y" id=z\n/>',
    '<img data-sarvel="card" src="masters/a.jpg" width="300" height=200 WIDTH="1" srcset="old 1x" sizes="1px" alt="&quot;A&quot; &amp; b">',
    '<img data-sarvel="card" src="masters/a.jpg" src="twice" loading="eager" decoding=sync fetchpriority="low" alt>',
    '<img data-sarvel="card" src="masters/a.jpg" alt="{{ page.title | upper }}" {% if x %}class="y"{% endif %} />',
    '<img src="masters/a.jpg" data-sarvel="card">',
]


def weave_all(page: str, markup: Markup, alt: str | None = "From the plan") -> str:
    return replaced(
        page,
        [(block, render_block(page, block, markup, alt)) for block in blocks(page) if block.src and not block.fault],
    )


def undo_all(page: str) -> str:
    return replaced(page, [(block, block.tag) for block in blocks(page) if block.src and not block.fault])


@pytest.mark.parametrize("markup", [ALONE, PICTURE], ids=["img", "picture"])
@pytest.mark.parametrize("author", AUTHORS)
@pytest.mark.parametrize("around", ["{}", "<p>\r\n\t  {}\r\n</p>", "<pre>a {}b</pre> <!-- {} --> {}"])
def test_undo_gives_back_the_page_and_weaving_twice_changes_nothing(author: str, markup: Markup, around: str) -> None:
    page = around.replace("{}", author)
    once = weave_all(page, markup)
    assert once != page
    assert weave_all(once, markup) == once
    assert undo_all(once) == page
    other = weave_all(once, ALONE if markup is PICTURE else PICTURE)
    assert undo_all(other) == page


@pytest.mark.parametrize("author", AUTHORS)
def test_the_woven_img_says_ours_and_keeps_the_authors(author: str) -> None:
    (block,) = blocks(author)
    text = render_block(author, block, ALONE, "From the plan")
    tag = read_tag(text, 0)
    assert tag and tag.end == len(text)

    def value(name: str) -> str | None:
        found = tag.get(name)
        return found.value if found else None

    assert (value("src"), value("srcset"), value("sizes")) == (ALONE.src, IMAGE.srcset, IMAGE.sizes)
    theirs = "300" in author  # what the author says of its size is part of the layout already
    assert (value("width"), value("height")) == (("300", "200") if theirs else ("200", "100"))
    assert master_of(tag) == "masters/a.jpg"
    assert value("loading") == ("eager" if "eager" in author else "lazy")
    assert value("decoding") == ("sync" if "sync" in author else "async")
    assert (value("alt") == "From the plan") == ("alt" not in author.lower())
    assert (
        len({attribute.name.lower() for attribute in tag.attributes}) >= len(tag.attributes) - 1
    )  # but data-was-src or -width


@pytest.mark.parametrize(
    "around", ["a {}", "{} a", "<b>{}</b>", "<a href=x>{}</a>", "<div>{}<i></i></div>", "<pre>\n{}\n</pre>", "x{}\n"]
)
def test_a_picture_in_text_has_no_white_space_between_its_elements(around: str) -> None:
    page = around.replace("{}", '<img data-sarvel="card" src="masters/a.jpg" alt="A">')
    text = weave_all(page, PICTURE)
    assert '<picture style="display:contents"\n  ><source media="(min-width: 9px)" type="image/avif" hidden\n' in text
    assert 'style="aspect-ratio:auto 200/100"></picture>' in text and undo_all(text) == page


@pytest.mark.parametrize(
    "around", ["{}", "a\n  {}\nb", "<div>{}</div>", "<p> {} <br>x", "<pre></pre>\n{}", "<LI class=x>{}<li>"]
)
def test_a_picture_on_lines_of_its_own_is_laid_out(around: str) -> None:
    page = around.replace("{}", '<img data-sarvel="card" src="masters/a.jpg" alt="A">')
    text = weave_all(page, PICTURE)
    pad = "  " if "\n  {" in around else " " * 0
    begin = [
        '<picture style="display:contents">',
        '  <source media="(min-width: 9px)" type="image/avif" hidden',
    ]
    end = ['    style="aspect-ratio:auto 200/100">', "</picture>"]
    assert f"\n{pad}".join(begin) in text and f"\n{pad}".join(end) in text and undo_all(text) == page


def test_an_author_may_edit_a_woven_tag() -> None:
    page = weave_all('<img data-sarvel="card" src="masters/a.jpg" alt="A">', PICTURE)
    edited = page.replace('alt="A"', 'alt="B" class="new"').replace(">\n</picture>", ' id="late">\n</picture>')
    assert undo_all(edited) == '<img data-sarvel="card" src="masters/a.jpg" alt="B" class="new" id="late">'


@pytest.mark.parametrize(
    ("page", "place", "words"),
    [
        (
            '<picture>\n <source>\n <img data-sarvel="a" src="b"><img></picture>',
            (3, 2),
            "is in a picture element that is not closed, or",
        ),
        (
            '<p><picture><img data-sarvel="a" data-woven="b#0" src="c"><p>',
            (1, 4),
            "is not closed; write </picture>",
        ),
        ('<p>\n<img data-sarvel="a" src="b', (2, 1), "is cut off by the end of the file"),
        ('<img data-sarvel="a" src="b" alt="c', (1, 1), "is cut off by the end of the file"),
        ('<picture><img data-sarvel="a" data-woven="b#0" src="c"><picture>', (1, 1), "is not closed"),
    ],
)
def test_faults(page: str, place: tuple[int, int], words: str) -> None:
    (block,) = blocks(page)
    assert (block.line, block.column) == place and words in str(block.fault)


@pytest.mark.parametrize(
    "page",
    [
        "<!-- <img data-sarvel='a' src='b'> -->",
        "<script>\"<img data-sarvel='a' src='b'>\"</script>",
        "<textarea><img data-sarvel='a' src='b'></textarea>",
        "<img src='b'><picture><img src='c'></picture>",
        "<picture></picture>",
        "<script>'<img data-sarvel=",
        "<!-- <img data-sarvel=",
        "<p>a < b <img ",
    ],
)
def test_what_is_left_alone(page: str) -> None:
    assert list(blocks(page)) == []


PIECES = st.sampled_from(
    [
        *AUTHORS,
        "<p>",
        "</p>",
        "<picture>",
        "</picture>",
        "<!--",
        "-->",
        "<script>",
        "</script>",
        "\n",
        "\r\n",
        "  ",
        "text",
        "<img>",
        '<img alt="',
        "{% x %}",
        "<",
        ">",
        "é",
    ]
)


@given(st.lists(PIECES, max_size=12).map("".join), st.sampled_from([ALONE, PICTURE]))
def test_any_page_survives(page: str, markup: Markup) -> None:
    clean = undo_all(page)  # pieces may form what looks woven
    once = weave_all(clean, markup)
    assert weave_all(once, markup) == once
    assert undo_all(once) == clean
