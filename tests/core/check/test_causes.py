"""One finding for one cause, and orders in which nothing is dead."""

import pytest

from sarvel.core.check.causes import causes_alone
from sarvel.core.check.order import living_order, order_edits
from sarvel.core.check.rule import Finding
from sarvel.core.html.document import read_document
from sarvel.core.html.pieces import edited
from tests.core.check.test_check import FILES, IMG, OLD, check, picture


@pytest.mark.parametrize(
    ("markup", "rules"),
    [
        # One missing comma: an unknown list, so a sizes for nothing, and one small file on every device.
        (IMG.replace(" alt", ' srcset="a.webp 400w b.webp 800w" sizes="100vw" alt'), ["candidate-dropped"]),
        (IMG.replace(" alt", ' srcset="a.webp 400w" sizes="(min-widht: 9px) 100vw, 1200px" alt'), ["length-dropped"]),
        (picture('<source media="(min-widht: 640px)" srcset="b.webp">'), ["source-never-chosen"]),
        (picture('<source type="image/web" srcset="b.webp">', OLD), ["type-unknown"]),
        (picture('<source src="b.webp">'), ["src-on-source"]),
        (IMG.replace(" alt", ' srcset="b.webp 1x, a.webp 2x" alt'), ["densities-out-of-order"]),
        (IMG.replace(" alt", ' scrset="b.webp 400w" alt'), ["attribute-misspelt"]),
        # Two causes at two images are two findings.
        (IMG.replace(" alt", " loading=lazzy alt") * 2, ["value-unknown", "value-unknown"]),
    ],
)
def test_what_follows_from_a_fault_is_not_told_beside_it(markup: str, rules: list[str]) -> None:
    assert [one.rule for one in check(markup, FILES.get)] == rules


def test_what_is_outside_images_follows_from_nothing() -> None:
    page = read_document(f"<p></p>{IMG}")
    found = [Finding("candidate-dropped", page.images[0].tag.start, 9, ""), Finding("image-soft", 0, 3, "")]
    assert causes_alone(page, found) == found


def test_orders() -> None:
    def dead(order: list[int]) -> list[int]:
        return [place for place, one in enumerate(order) if any(before <= one for before in order[:place])]

    assert living_order(3, lambda order: dead(list(order))) == [2, 1, 0]
    assert living_order(2, lambda _: [1]) == []
    assert living_order(25, lambda _: [1]) is None  # too many to try: nothing is said of an order
    page = read_document("<picture><source> <source id=a>\n<source id=b></picture>")
    sources = page.pictures[0].sources
    assert (
        edited(page.text, order_edits(page.text, sources, [2, 0, 1]))
        == "<picture><source id=b> <source>\n<source id=a></picture>"
    )
    page = read_document("<picture><source><!-- x --><source></picture>")
    assert order_edits(page.text, page.pictures[0].sources, [1, 0]) == ()
