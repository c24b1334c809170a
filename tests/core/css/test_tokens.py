"""CSS text as tokens: what is loose, what is too deep, what commas part."""

import pytest

from sarvel.core.css.device import Device
from sarvel.core.css.features import feature_test
from sarvel.core.css.tokens import DEEPEST, is_too_deep, loose_end, parted, tokens_of


@pytest.mark.parametrize(
    ("css", "loose"),
    [
        ("calc(1px + (2px))", ""), ('url("a)b")', ""), ("(", "a '(' that is never closed"), (")", "a ')' that nothing opens"),
        ("[(])", "a ']' that nothing opens"), ("1px /* x", "a comment"), ("'a", "a quote that is never closed"),
    ],
)  # fmt: skip
def test_what_would_reach_beyond_its_end(css: str, loose: str) -> None:
    assert loose_end(css) == loose


def test_depth_is_bounded() -> None:
    assert not is_too_deep("(" * DEEPEST + ")" * DEEPEST) and is_too_deep("(" * (DEEPEST + 1))
    assert [token.serialize() for token in tokens_of("(" * 10_000)] == ["!"]


def test_commas_in_brackets_part_nothing() -> None:
    assert [len(part) for part in parted(tokens_of("a,b(c,d),(e,f)"))] == [1, 1, 1]


FEATURES = [
    ("min-width:640px", Device(640, 900), True), ("min-width:640px", Device(639, 900), False), ("width<640px", Device(639, 900), True),
    ("400px<=width<800px", Device(400, 900), True), ("400px<=width<800px", Device(800, 900), False), ("640px>width", Device(639, 1), True),
    ("orientation:portrait", Device(900, 900), True), ("resolution>=2dppx", Device(1, 1, 2), True), ("resolution>=192dpi", Device(1, 1, 1.9), False),
    ("aspect-ratio>16/9", Device(160, 90), False), ("hover", Device(1, 1), False), ("color", Device(1, 1), True), ("monochrome", Device(1, 1), False),
    ("prefers-reduced-data:reduce", Device(1, 1), None),
]  # fmt: skip


@pytest.mark.parametrize(("css", "device", "holds"), FEATURES)
def test_a_media_feature_on_a_device(css: str, device: Device, *, holds: bool | None) -> None:
    found = feature_test([token for token in tokens_of(css) if token.type != "whitespace"])
    assert found is not None and found[0](device) is holds
    assert holds is None or device.width in (found[1] if holds else found[2])


@pytest.mark.parametrize(
    "css",
    [
        "",
        "min-width",
        "width=1px=2px",
        "orientation:sideways",
        "min-orientation:portrait",
        "1px<width>2px",
        "width"[:4],
    ],
)
def test_what_is_no_feature(css: str) -> None:
    assert feature_test([token for token in tokens_of(css) if token.type != "whitespace"]) is None
