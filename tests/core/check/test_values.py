"""Values that several rules read."""

import pytest

from sarvel.core.check.values import begins_with_auto, css_px, dimension, type_of
from sarvel.core.css.device import Device
from sarvel.core.html.document import read_document


@pytest.mark.parametrize(
    ("attributes", "width", "type_", "auto"),
    [
        ("width=' 40 ' type='Image/AVIF; codecs=av01' sizes='auto, 9px'", 40, "image/avif", True),
        ("width=40px sizes='9px, auto'", 40, "", False),
        ("width=40%", 0, "", False),
        ("sizes=AUTO", 0, "", True),
    ],
)
def test_attributes(attributes: str, width: int, type_: str, auto: bool) -> None:
    tag = read_document(f"<img {attributes}>").images[0].tag
    assert (dimension(tag, "width"), type_of(tag), begins_with_auto(tag)) == (width, type_, auto)


@pytest.mark.parametrize(("css", "px"), [("50vw", 200), ("2rem", 32), ("50%", None), ("var(--w)", None), ("", None)])
def test_lengths(css: str, px: float | None) -> None:
    assert css_px(css, Device(400, 800)) == px
