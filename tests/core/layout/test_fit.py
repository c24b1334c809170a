"""How well a picked file fits, worked out by hand."""

import pytest

from sarvel.core.css.device import Device
from sarvel.core.html.document import read_document
from sarvel.core.html.source_selection import pick
from sarvel.core.layout.fit import fit


@pytest.mark.parametrize(
    ("markup", "dpr", "width", "densest", "words", "needed"),
    [
        ('<img srcset="a 390w, b 780w" sizes="100vw">', 2, None, None, "sharp", 780),
        ('<img srcset="a 390w, b 780w" sizes="100vw">', 3, None, None, "soft by 33%", 1170),
        ('<img srcset="a 390w, b 780w" sizes="100vw">', 3, None, 2, "sharp", 780),
        (
            '<img srcset="a 390w, b 780w" sizes="100vw">',
            3,
            600,
            2,
            "soft by 23%",
            780,
        ),  # the file is narrower than it says
        ('<img srcset="a 1560w" sizes="100vw">', 1, None, None, "300% too wide", 390),
        ('<img src="a">', 1, None, None, "unknown", None),
        ('<img src="a">', 2, 400, None, "soft by 50%", 800),  # shown at its own size
        ("<img>", 1, None, None, "unknown", None),
    ],
)
def test_a_fit(
    markup: str, dpr: float, width: int | None, densest: float | None, words: str, needed: int | None
) -> None:
    device = Device(390, 844, dpr)
    found = fit(pick(read_document(markup).images[0].element, device), device, shown=None, width=width, densest=densest)
    assert (str(found), found.needed) == (words, needed) and found.soft == words.startswith("soft")
