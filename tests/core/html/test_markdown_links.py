"""Links of Markdown: found where a parser of CommonMark finds them, woven and given back."""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from markdown_it import MarkdownIt

from sarvel.core.html.dialect import DIALECTS
from sarvel.core.html.markdown_links import bare, link_at, markdown_links
from sarvel.core.html.mentions import mentions_in
from sarvel.pages.restore.blocks import blocks, replaced
from sarvel.pages.restore.mention_tags import link_woven, mentioned_in
from sarvel.pages.weave.finished import finished

MARKDOWN = DIALECTS["markdown"]


@pytest.mark.parametrize(
    ("text", "addresses"),
    [
        ("[a](b.jpg)", ["b.jpg"]),
        ('[![a](t.jpg)](b.jpg "T [x](c.jpg)") and [c]( <d e.png> )', ["b.jpg", "d e.png"]),
        ("`[a](b.jpg)` \\[a](b.jpg) <!-- [a](b.jpg) --> <i title='[a](b.jpg)'>", []),
        ("    [a](b.jpg)\n\n```\n[a](b.jpg)\n```\n", []),
        ("[a](b(1).jpg) [b [c]](d.jpg) ![e](f.jpg)", ["b(1).jpg", "d.jpg"]),
        ("---\nx: '[a](b.jpg)'\n---\n[a] (b.jpg) [a](b\njpg)", []),
    ],
)
def test_the_links_of_a_page(text: str, addresses: list[str]) -> None:
    assert [bare(link.address) for link in markdown_links(text)] == addresses
    assert [one.url for one in mentions_in(text, MARKDOWN)] == addresses
    for link in markdown_links(text):
        assert (
            text[link.start :].startswith(link.address)
            and text[link.words[0] - 1] == "["
            and text[link.words[1]] == "]"
        )


def woven(text: str) -> str:
    found = [one for one in mentioned_in(text, MARKDOWN) if not one.fault]
    return replaced(text, [(one, link_woven(one.author, "/p(1/new.jpg")) for one in found])


def undone(text: str) -> str:
    found = [one for one in blocks(text, MARKDOWN, mapped=True) if one.mention and not one.fault]
    return replaced(text, [(one, one.tag) for one in found])


def rendered(text: str) -> list[str]:
    """The addresses of links, as a parser of CommonMark sees them."""
    tokens = (child for token in MarkdownIt("commonmark").parse(text) for child in token.children or [])
    return [
        str(token.attrs["href"])
        for token in tokens
        if token.type == "link_open" and str(token.attrs["href"]).endswith(".jpg")
    ]


PIECES = st.sampled_from(
    ["[", "]", "(", ")", "](a.jpg)", "[x](b.jpg)", "![i](c.jpg)", "`", "\\", "<!--", "-->", "<b>", "\n\n", "\n", "    ", "- ", " ", "w", "<a.jpg>", '"t"']
)  # fmt: skip


@given(st.lists(PIECES, max_size=9).map("".join))
def test_any_page_survives_and_reads_as_before(text: str) -> None:
    once = woven(text)
    assert undone(once) == text and woven(once) == once
    before, after = rendered(text), rendered(once)
    assert len(after) == len(before) and sum(url.endswith("new.jpg") for url in after) == len(
        list(mentioned_in(text, MARKDOWN))
    )


def test_an_edit_is_told() -> None:
    (block,) = blocks(woven("[a](b.jpg)").replace("new", "other"), MARKDOWN, mapped=True)
    assert "was changed by hand" in str(block.fault) and link_at("", 0) is None
    assert finished(link_woven("b.jpg)", "/p/new.jpg"), MARKDOWN) == "/p/new.jpg)"
