"""What a selector asks of an element itself: told without the tree, and never otherwise than the tree tells."""

import itertools

import pytest

from sarvel.core.css.device import Device
from sarvel.core.html.document import read_document
from sarvel.core.html.lone_element import lone, means, names_in, reaches
from sarvel.core.html.page_styles import PageStyles

TEXT = '<div class="row"><img class="a b" id="x" src="y"></div>'


@pytest.mark.parametrize(
    ("css", "answers"),
    [
        ("img", ["yes"]), ("IMG.a.b", ["yes"]), ("[src=y]", ["yes"]), ("*", ["yes"]), ("p", ["no"]), ("#y", ["no"]), ("p, img", ["no", "yes"]),
        (".row img", ["perhaps"]), (".gone > img", ["no"]), (".row p", ["no"]), ("img:hover", ["perhaps"]), ("p:hover", ["no"]),
        (":is(.row) img", ["perhaps"]), ("img:first-child", ["perhaps"]), ("img::before", []), ("img:unknown", []), ("img, :unknown", []),
    ],
)  # fmt: skip
def test_what_the_element_alone_tells(css: str, answers: list[str]) -> None:
    element = lone("img", read_document(TEXT).images[0].tag.values())
    assert [means(reach, element, names_in(TEXT)) for reach in reaches(css)] == answers


def test_the_tree_tells_the_same() -> None:
    """Every pair of rules, told with the help of the tree where a third rule makes that necessary, and without."""
    selectors = [
        "img",
        ".a",
        "#x",
        "img.b",
        "[src]",
        "*",
        "p",
        ".row img",
        ".gone img",
        "img:not(.c)",
        "img:first-child",
    ]
    for one, other in itertools.permutations(selectors, 2):
        css = f"{one} {{ width: 1px }} {other} {{ width: 2px; height: 3px }}"
        page = read_document(f"<head><style>{css}</style></head>{TEXT}")
        tag = page.images[0].tag
        told = PageStyles(page, [tag], lambda _: None).values(tag, Device(400, 800))
        whole = next(PageStyles(page, [tag], lambda _: None).outwards(tag, Device(400, 800))).values
        assert told == whole, css
