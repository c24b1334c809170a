"""The even spread over viewports: what it must meet."""

from itertools import pairwise

from sarvel.core.css.media import parse_media
from sarvel.core.layout.unlisted import FINE, NARROWEST, WIDEST, viewports_of


def test_both_ends_of_every_range_are_met() -> None:
    conditions = ["(min-width: 701px)", "(max-width: 900.5px)", "(width > 333px)", "(min-width: 9000px)"]
    widths = [width for width, _ in viewports_of((parse_media(css).test.can_hold for css in conditions), tall=False)]
    assert widths == sorted(widths) and (widths[0], widths[-1]) == (NARROWEST, WIDEST)
    assert {701, 900.5, 333.01} <= set(widths)
    assert max(b - a for a, b in pairwise(widths)) <= 16


def test_viewports_of_all_shapes() -> None:
    found = viewports_of([parse_media("(min-width: 1000px)").test.can_hold], tall=True)
    widths, heights = (sorted({one[side] for one in found}) for side in (0, 1))
    assert 1000 in widths and (heights[0], heights[-1]) == (NARROWEST, WIDEST) == (widths[0], widths[-1])
    assert all(b <= FINE * a + 1e-9 for sides in (widths, heights) for a, b in pairwise(sides))
    assert len(found) == len(widths) * len(heights)
