"""Uses of images and what they need, worked out by hand; estimates by the formula they claim."""

import pytest

from sarvel.core.css.device import Device
from sarvel.core.css.sheet import read_sheet
from sarvel.core.html.document import read_document
from sarvel.core.layout.audience import Visits
from sarvel.core.layout.growth import GROWTH
from sarvel.core.survey.estimate import Sample, sample_of, typical, weighed
from sarvel.core.survey.uses import Need, Use, uses_of, uses_of_sheet

PHONE, DESK = Visits(Device(400, 800, 3), 3, ""), Visits(Device(1000, 700, 1), 1, "")

# Markup; for each address how wide it is shown, and what the phone (three visits of four, served as 2x) and the desk need.
CASES = [
    ('<img src="a.jpg">', {"a.jpg": (None, [800, 1000])}),
    ('<img src="a.jpg" width="300">', {"a.jpg": ((300, 300), [600, 300])}),
    ('<img src="a.jpg" width="600">', {"a.jpg": ((400, 600), [800, 600])}),
    ('<img src="a.jpg" width="600" style="width: 50vw">', {"a.jpg": ((200, 500), [400, 500])}),
    ('<img src="a.jpg" width="50%" style="width: 1 px">', {"a.jpg": (None, [800, 1000])}),
    ('<img src="a.jpg" srcset="a.jpg 500w, b.jpg 1200w" sizes="100vw">', {"a.jpg": (None, []), "b.jpg": ((400, 1000), [800, 1000])}),
    ('<img src="a.jpg" srcset="b.jpg 2x" width="100">', {"a.jpg": ((100, 100), [None, 100]), "b.jpg": ((100, 100), [200])}),
    ('<picture><source media="(min-width: 900px)" srcset="w.jpg"><img src="a.jpg" width="400"></picture>',
     {"w.jpg": ((400, 400), [None, 400]), "a.jpg": ((400, 400), [800])}),
    ('<img src="{{ a }}"><img src="data:image/png,">', {"{{ a }}": (None, [800, 1000])}),
    ('<p style="background: url(a.jpg)">', {"a.jpg": (None, [800, 1000])}),
    ("<style>p { background: url(a.jpg), url(font.woff) }</style>", {"a.jpg": (None, [800, 1000])}),
]  # fmt: skip


@pytest.mark.parametrize(("markup", "wanted"), CASES)
def test_uses(markup: str, wanted: dict[str, tuple[tuple[float, float] | None, list[float | None]]]) -> None:
    found = {use.url: use for use in uses_of(read_document(markup), (PHONE, DESK), {})}
    assert {url: use.shown for url, use in found.items()} == {url: shown for url, (shown, _) in wanted.items()}
    for url, (_, widths) in wanted.items():
        shares = dict(zip((0.75, 0.25), widths, strict=False))
        assert found[url].needs == tuple(Need(share, width) for share, width in shares.items() if width is not None)


def test_the_place_of_a_use_is_where_it_is_written() -> None:
    text = '<p>\n<img alt="" src="a.jpg"><style>b{c:d}\ne { background: url("f.png") }</style>'
    assert [text[use.start :][:10] for use in uses_of(read_document(text), (DESK,), {})] == ['src="a.jpg', "background"]
    css = "a { b: c }\r\nd { background-image: url(e.png) }"
    assert [css[use.start :][:16] for use in uses_of_sheet(read_sheet(css).declarations, (DESK,))] == [
        "background-image"
    ]


def test_a_sample_grows_as_its_two_encodes_did() -> None:
    assert sample_of([(256, 2560), (512, 2560 * 2**1.5)]).at(1024) == pytest.approx(2560 * 4**1.5)  # type: ignore[list-item]
    assert sample_of([(100, 1000)]).at(200) == pytest.approx(1000 * 2**GROWTH)
    assert sample_of([(256, 1000), (512, 1001)]).growth == 1.2 and sample_of([(256, 1), (512, 1001)]).growth == 2.0


def test_what_is_not_sampled_goes_by_the_median_of_bytes_a_pixel() -> None:
    samples = [(Sample(1000, weight), 0.5) for weight in (10_000, 20_000, 90_000)]
    assert typical(samples, 4000, 1000).at(1000) == pytest.approx(20_000 / 2)


def test_weighed() -> None:
    use = Use("a.jpg", 0, "img", None, (Need(0.75, 500), Need(0.25, 1000)))
    one = weighed(2000, 100_000, [use], Sample(1000, 40_000, 2.0))
    assert one.widest == 1000 and one.too_many == 4
    assert one.fitting == pytest.approx(0.75 * 10_000 + 0.25 * 40_000)
    assert one.saves == pytest.approx(100_000 - 17_500)
    small = weighed(400, 3_000, [use], Sample(1000, 40_000, 2.0))
    assert small.fitting == 3_000 and small.saves == 0  # an estimate above what it weighs saves nothing
    part = Use("a.jpg", 0, "img", None, (Need(0.25, 1000),))
    assert weighed(2000, 100_000, [part], Sample(1000, 40_000, 2.0)).saves == pytest.approx(60_000 / 4)
    assert weighed(2000, 100_000, [], Sample(1000, 40_000, 2.0)).saves == 0
