"""Mentions in pages: woven, taken back byte for byte, and left alone once someone has changed them."""

import json
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sarvel.core.address.address import InFolder
from sarvel.core.html.dialect import DIALECTS, HTML, Dialect
from sarvel.core.html.mentions import mentions_in
from sarvel.pages.restore.blocks import blocks, replaced
from sarvel.pages.restore.mention_tags import mentioned_in
from sarvel.pages.weave.finished import finished
from sarvel.pages.weave.mention import Where, mention_woven
from tests.core.edition.test_compose import BANNER, LAMP, only

SLOT = replace(BANNER, crops=(replace(BANNER.crops[-1], ratio=1.0),), formats=("jpeg",), densities=(1,))
PICTURES = {
    "m.jpg": (
        replace(only(replace(SLOT, widths=(300,)), replace(LAMP, key="m.jpg")), alt='A "lamp" & more'),
        InFolder("p"),
    ),
    "i.png": (
        only(replace(SLOT, widths=(32, 180, 192, 512), formats=("png",)), replace(LAMP, key="i.png")),
        InFolder("p"),
    ),
}

DATA = '<script type="application/ld+json">{"image": ["m.jpg", "x.jpg"], "photo": {"@type": "ImageObject", "url": "m.jpg", "width": 4, "height": "3"}}</script>'
PAGES = [
    ("html", '<a class="b" href="m.jpg" id=c>'),
    ("html", "<A HREF=m.jpg>it</A><a href=m.jpg/>"),
    ("html", "<video controls poster = 'm.jpg'></video>"),
    ("html", '<input type="image" src="m.jpg" alt="Go"><object data="m.jpg" type="image/jpeg">'),
    ("html", '<svg><image width="9" xlink:href="m.jpg"/></svg>'),
    ("html", '<meta property="og:image" content="m.jpg"><meta property="og:image:width" content="4000"><meta property="og:image:alt" content="Lamp">'),
    ("html", '<head>\n  <link rel="icon" href="i.png" type="image/x-icon">\n  <title>x</title>'),
    ("html", '<link href="i.png" sizes="180x180" rel="apple-touch-icon"><link rel=icon href=i.png>'),
    ("html", DATA),
    ("xhtml", '<link rel="icon" href="i.png" /><image xlink:href="m.jpg" />'),
    ("markdown", 'Words, <a href="m.jpg">it</a>,\nand <video poster="m.jpg"></video>.'),
    ("script", 'const a = <a className="b" href="m.jpg"><svg><image xlinkHref="m.jpg" /></svg></a>;'),
    ("sections", '<template>\n  <a href="m.jpg">it</a>\n</template>'),
    ("json", '{\n  "name": "x",\n  "icons": [\n    {"src": "i.png", "purpose": "any"},\n    {"src": "x.png"}\n  ]\n}\n'),
    ("json", '{"icons":[{"src":"i.png","sizes":"180x180"}]}'),
]  # fmt: skip


def woven(page: str, dialect: Dialect, *, marked: bool = True) -> str:
    changes = []
    has_home = any("apple-touch" in one.author for one in mentioned_in(page, dialect))
    for one in mentioned_in(page, dialect):
        known = {url: PICTURES[url] for url in one.urls if url in PICTURES}
        if known and not one.fault:
            where = Where(dialect, page[: one.start], has_home=has_home)
            new = mention_woven(one, known, where)
            changes.append((one, new if marked else finished(new, dialect)))
    return replaced(page, changes)


def undone(page: str, dialect: Dialect) -> str:
    return replaced(page, [(one, one.tag) for one in blocks(page, dialect, mapped=True) if not one.fault])


@pytest.mark.parametrize(("dialect", "page"), PAGES)
def test_a_mention_is_woven_and_given_back(dialect: str, page: str) -> None:
    once = woven(page, DIALECTS[dialect])
    assert once != page and woven(once, DIALECTS[dialect]) == once
    assert undone(once, DIALECTS[dialect]) == page
    assert not any(one.url in PICTURES for one in mentions_in(once, DIALECTS[dialect]))
    final = woven(page, DIALECTS[dialect], marked=False)
    assert "woven" not in final and mentions_in(final, DIALECTS[dialect]) != mentions_in(page, DIALECTS[dialect])


def test_what_a_page_says_of_the_image_is_kept_right() -> None:
    found = {(one.part, one.url) for one in mentions_in(woven(PAGES[5][1], HTML), HTML)}
    (file,) = (url for part, url in found if not part)
    assert found == {("", file), ("width", "300"), ("alt", 'A "lamp" & more')} and file.startswith("p/m-")


def test_linked_data_keeps_its_form() -> None:
    said = json.loads(woven(DATA, HTML).partition(">")[2].removesuffix("</script>"))
    file = said["image"][0]
    assert said == {
        "image": [file, "x.jpg"],
        "photo": {"@type": "ImageObject", "url": file, "width": 300, "height": said["photo"]["height"]},
    }
    assert isinstance(said["photo"]["height"], str)


def test_an_icon_has_the_sizes_that_browsers_ask_for() -> None:
    found = [(one.url.split("-")[-1].split(".")[0]) for one in mentions_in(woven(PAGES[6][1], HTML), HTML)]
    assert found == ["32", "192", "180"]
    assert [one.url.split("-")[-1].split(".")[0] for one in mentions_in(woven(PAGES[7][1], HTML), HTML)] == [
        "180",
        "32",
        "192",
    ]
    (any_, large, other) = json.loads(woven(PAGES[13][1], DIALECTS["json"]))["icons"]
    assert (any_["sizes"].split("x")[0], large["sizes"].split("x")[0]) == ("192", "512")
    assert any_["purpose"] == large["purpose"] == "any" and other == {"src": "x.png"}


@pytest.mark.parametrize(
    ("page", "before", "after"),
    [
        (PAGES[0][1], "p/m-", "q/m-"),
        (PAGES[6][1], 'sizes="192x192"', 'sizes="193x193"'),
        (DATA, '"width": 300', '"width": 301'),
        (PAGES[8][1], '["m.jpg"', '["n.jpg", "m.jpg"'),
    ],
)
def test_a_change_by_hand_stays_and_is_told(page: str, before: str, after: str) -> None:
    once = woven(page, HTML)
    assert before in once
    (fault,) = {str(one.fault) for one in blocks(once.replace(before, after), HTML, mapped=True)}
    assert "was changed by hand" in fault
    moved = once.replace("<", "<!-- more --><", 1)
    assert undone(moved, HTML) == f"<!-- more -->{page}" or "<!-- more -->" not in moved


PIECES = st.sampled_from(
    [*(page for dialect, page in PAGES if dialect == "html"), "<!--", "-->", '"', "'", "<script>", "</script>", "{", "<link data-woven>", " href=", ">"]
)  # fmt: skip


@given(st.lists(PIECES, max_size=6).map("".join))
def test_any_page_survives(page: str) -> None:
    clean = undone(page, HTML)
    once = woven(clean, HTML)
    assert undone(once, HTML) == clean and woven(once, HTML) == once
