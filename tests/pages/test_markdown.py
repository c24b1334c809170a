"""Weaving into Markdown: what a parser makes of the lines around an image stays what it was."""

import re

import pytest
from markdown_it import MarkdownIt

from sarvel.core.html.dialect import DIALECTS
from sarvel.core.html.markdown_call import PartialCall, call_tags, image_of
from sarvel.core.markup.picture import Markup
from sarvel.pages.restore.blocks import blocks, replaced
from sarvel.pages.restore.read_back import first_lost
from sarvel.pages.weave.write import render_block
from tests.pages.test_blocks import ALONE, PICTURE

TAG = '<img data-sarvel="card" src="a.jpg" alt="A">'
SHORT = "![A](a.jpg)"


def rest(text: str) -> str:
    """What comes of a text, less its images."""
    page = MarkdownIt("commonmark").enable("table").render(text)
    return re.sub(r"\s+|<picture.*?</picture>|<img[^>]*>", "", page, flags=re.DOTALL)


@pytest.mark.parametrize("markup", [ALONE, PICTURE], ids=["img", "picture"])
@pytest.mark.parametrize("image", [TAG, SHORT, TAG.replace(" src", "\n  src")], ids=["tag", "short", "two lines"])
@pytest.mark.parametrize(
    "around",
    [
        "{}\n",
        "a\n\n{}\n\nb\n",
        "{}\n*b*\n",
        "{} *b*\n",
        "a\n{}\n",
        "> {}\n> *b*\n\nc",
        "- {}\n  *b*\n- c\n",
        "1. a\n\n   {}\n\n   *b*\n",
        "> - {}\n>   *b*\n",
        "<div>\n{}\n*b*\n</div>\n",
        "  {}  \n",
        "| a |\n| - |\n| {} |\n",
        "# {}\n",
        "{}\n===\n",
        "{}\n{}\n",
        "\r\n{}\r\n*b*\r\n",
    ],
)
def test_paragraphs_stay(around: str, image: str, markup: Markup) -> None:
    page, dialect = around.replace("{}", image), DIALECTS["markdown"]
    found = list(blocks(page, dialect, mapped=True))
    once = replaced(page, [(one, render_block(page, one, markup, None, dialect)) for one in found])
    if "\n" in image and re.search(r"[|#>]|^- |^1", around):
        return  # such a tag ends with its line
    assert len(found) == (0 if image == SHORT and "<div>" in around else around.count("{}"))
    assert first_lost(page, found, once, dialect, mapped=True) is None
    assert rest(once) == rest(page)
    again = list(blocks(once, dialect, mapped=True))
    assert replaced(once, [(one, render_block(once, one, markup, None, dialect)) for one in again]) == once
    assert replaced(once, [(one, one.tag) for one in again]) == page


def test_what_would_change_its_paragraphs_is_told_of() -> None:
    dialect, page = DIALECTS["markdown"], f"{TAG}\n\n*b*\n"
    found = list(blocks(page, dialect))
    once = replaced(page, [(one, render_block(page, one, PICTURE, None, dialect)) for one in found])
    assert first_lost(page, found, once, dialect) is None
    assert first_lost(page, found, once.replace(">\n<source", "><source"), dialect) == found[0]


def test_several_images_alone_in_a_paragraph_of_components_are_told_of() -> None:
    dialect = DIALECTS["markdown-script"]
    page = f"{SHORT}\n{SHORT}\n\n{SHORT}\n\n<Box>\n{SHORT}\n</Box>\n\n{SHORT} and\n\n* {SHORT}\n"
    found = list(blocks(page, dialect, mapped=True))
    assert ["in a paragraph of images only" in str(one.fault) for one in found] == [
        True,
        True,
        False,
        False,
        False,
        False,
    ]
    assert [one.within for one in found] == ["", "", "p", "p", "", ""]
    texts = [render_block(page, one, PICTURE, None, dialect) for one in found[2:]]
    assert [text.startswith('<p data-woven=""><picture') and text.endswith("></picture></p>") for text in texts] == [
        True,
        True,
        False,
        False,
    ]


CALL = PartialCall('{{< pictures/{partial} data_master="{src}" alt="{alt}" title="{title}" >}}', ".html")


@pytest.mark.parametrize(
    ("image", "alt", "said"),
    [
        ("![A](a.jpg)", "A", 'pictures/card/a.html data_master="a.jpg" alt="A" title=""'),
        ('![A "b" }}](a.jpg "T|{%")', 'A "b" }}', 'alt="A &quot;b&quot; &#125;&#125;" title="T|&#123;%"'),
        ("![*A*](a.jpg)", "A", None),
        ("![A](<a b.jpg>)", "A", None),
        ("![A](a.jpg 'T')", "A", None),
        ('![A](a.jpg "")', "A", None),
        ("![A][a]", "A", None),
    ],
)
def test_a_call_restores_its_image_or_is_not_written(image: str, alt: str, said: str | None) -> None:
    call = CALL.of(image, alt, "card/a.html")
    assert (call is None) == (said is None)
    if call and said:
        assert said in call and image_of(call) == image
        assert [(tag.start, tag.end) for tag in call_tags(f"a {{{{ b }}}} {call} {{% c %}}")] == [(10, 10 + len(call))]
