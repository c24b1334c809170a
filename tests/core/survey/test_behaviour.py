"""Groups of images that behave alike, and the selectors that mean each group's images and no others."""

import re

import pytest

from sarvel.core.html.ancestors import ancestors_of
from sarvel.core.html.dialect import HTML
from sarvel.core.html.document import read_document, value_of
from sarvel.core.layout.alike import Measured
from sarvel.core.layout.bends import first_looks
from sarvel.core.survey.behaviour import Behaviour, behaving, ratios_of
from sarvel.core.survey.groups import Group, LocalImage


def grouped(page: str) -> list[Group]:
    """Groups of the images of a page; each says by its title how many percent of the viewport it is wide; 0 for unknown."""
    document = read_document(page)
    around = ancestors_of(page, HTML, [one.tag.start for one in document.images])
    images, rest = [], []
    for one in document.images:
        share = int(value_of(one.tag, "title") or 0) / 100
        widths = {viewport: share * viewport for viewport in first_looks()}
        image = LocalImage(
            one, value_of(one.tag, "src") or "", "p.html", str(one.number), 900, ancestors=around[one.tag.start]
        )
        if share:
            images.append((image, Behaviour(Measured(widths, {}), {}, (share, 0.0))))
        else:
            rest.append(image)
    return behaving(images, 900, rest)


def img(share: int, src: str = "a.jpg", more: str = "") -> str:
    return f'<img src="{src}" title="{share}" {more}>'


@pytest.mark.parametrize(
    ("page", "takes"),
    [
        (img(50) + img(50, "b.jpg"), {"50vw": ["img"]}),
        (img(50, more='class="card"') + img(50, "b.jpg", 'class="card x"') + img(20), {"50vw": [".card"], "20vw": ["img"]}),
        (img(50) + img(20, "b.jpg"), {"50vw": ['[title="50"]'], "20vw": ["img"]}),
        (f'<div class="top">{img(50)}</div><p>{img(20)}</p>', {}),
        (img(50, more='data-sarvel="hero"') + img(50, "b.jpg") + img(20, "c.jpg"), {}),
    ],
)  # fmt: skip
def test_each_group_takes_its_own(page: str, takes: dict[str, list[str]]) -> None:
    """By the first of the groups that means an image, as a plan is read."""
    groups = grouped(page)
    for group in groups:
        assert group.seen and group.seen.alike and len(group.seen.fitted.steps) == 1
        for one in group.images:
            taker = next((other for other in groups if any(map(one.is_meant, other.selectors))), None)
            assert value_of(one.image.tag, "data-sarvel") or taker is group, (group.name, group.selectors)
    found = {group.seen.fitted.steps[0][1]: group.selectors for group in groups if group.seen}
    assert not takes or len(found) == len(takes)


@pytest.mark.parametrize(
    ("page", "taken"),
    [
        (f'<div class="sheet">{img(50)}</div><p>{img(0, "b.jpg")}</p>', [".sheet img"]),
        (img(50, more='class="card"') + img(0, "b.jpg"), [".card"]),
        (img(50, more='class="card"') + img(0, "b.jpg", 'class="card"'), ['[src="a.jpg"]']),
    ],
)
def test_images_of_unknown_width_are_taken_by_no_group(page: str, taken: list[str]) -> None:
    groups = grouped(page)
    assert [selector for group in groups for selector in group.selectors] == taken


def test_what_nothing_tells_apart_shares_a_slot_wide_enough_for_all() -> None:
    page = re.sub(r"title", "data-w", f"<p>{img(50)}</p><p>{img(20)}</p>")
    (group,) = grouped_by(page)
    assert group.seen and not group.seen.alike and group.seen.fitted.steps == ((0, "50vw"),)


def grouped_by(page: str) -> list[Group]:
    """As `grouped`, by an attribute that no selector of ours looks at."""
    document = read_document(page)
    around = ancestors_of(page, HTML, [one.tag.start for one in document.images])
    images = []
    for one in document.images:
        share = int(value_of(one.tag, "data-w") or 0) / 100
        image = LocalImage(one, "a.jpg", "p.html", str(one.number), 900, ancestors=around[one.tag.start])
        images.append((image, Behaviour(Measured({v: share * v for v in first_looks()}, {}), {}, (0.0, 0.0))))
    return behaving(images, 900)


def test_ratios_of_boxes_that_crop() -> None:
    boxes = [(viewport, viewport / 2, 200.0, "cover", "50% 50%", (900, 600)) for viewport in range(300, 900, 50)]
    assert ratios_of(boxes) == {viewport: viewport / 400 for viewport in range(300, 900, 50)}
    assert ratios_of([(*one[:4], "0% 0%", one[5]) for one in boxes]) == {}, "cropped elsewhere than to its middle"
    assert ratios_of([(*one[:3], "fill", *one[4:]) for one in boxes]) == {}
    assert ratios_of([(v, 300.0, 200.0, "cover", "50% 50%", (900, 600)) for v in range(300, 900, 50)]) == {}, (
        "not cropped"
    )
