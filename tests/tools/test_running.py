"""Images of a site that runs, matched to the tags of templates."""

from pathlib import Path

import pytest

from sarvel.browser.links import address_on_this_machine
from sarvel.browser.look import ShownBox
from sarvel.browser.page_boxes import PageBoxes
from sarvel.errors import PlanError
from sarvel.tools.start.running import ImageTag, matched

FILE = Path("src/A.jsx")


def page(*images: tuple[str, str, float]) -> PageBoxes:
    """A page with images: address, classes, and the width on every viewport."""
    boxes = {
        number: {at: ShownBox(width, 100, True, 0.1, "fill", "50% 50%", (900, 600), False) for at in (240, 3840)}
        for number, (_, _, width) in enumerate(images)
    }
    return PageBoxes(boxes=boxes, named=[(address, classes) for address, classes, _ in images])


@pytest.mark.parametrize(
    ("name", "classes", "width"),
    [
        ("a.jpg", "", 300),  # the widest of all that show it
        ("a.jpg", "card", 200),
        ("a.jpg", "elsewhere", 300),  # a class that the browser does not show tells nothing
        ("b.png", "", 50),
        ("c.jpg", "", 70),
        ("d.jpg", "", None),
    ],
)
def test_a_tag_is_matched_by_its_file_and_its_classes(name: str, classes: str, width: float | None) -> None:
    pages = [
        page(("http://x/static/a.4f3e21.jpg", "big", 300), ("http://x/assets/a-4f3e21.jpg?v=1", "card round", 200)),
        page(("http://x/_next/image?url=%2Fimg%2Fb.png&w=640", "", 50), ("http://x/c.jpg", "", 70), ("data:image/png,", "", 9)),
        page(("http://x/ab.jpg", "", 999)),
    ]  # fmt: skip
    found = matched([ImageTag((FILE, 7), name, frozenset(classes.split()))], pages)
    widths = {one.box.widths[240] for one in found.values()}
    assert widths == ({width} if width else set())


@pytest.mark.parametrize(
    ("url", "address"),
    [("http://localhost:3000/", "http://localhost:3000"), ("127.0.0.1:80/app/", "http://127.0.0.1:80/app"), ("https://example.org", None),
     ("file:///etc", None)],
)  # fmt: skip
def test_only_this_machine_is_measured(url: str, address: str | None) -> None:
    if address:
        assert address_on_this_machine(url) == address
    else:
        with pytest.raises(PlanError, match="is no address on this machine"):
            address_on_this_machine(url)
