"""What is well of a page before and after, without a browser."""

from dataclasses import replace
from pathlib import Path

import pytest

from sarvel.browser.page_state import FetchedImage, PageState
from sarvel.browser.session import Session
from sarvel.core.css.device import Device
from sarvel.errors import BrowserError, PlanError
from sarvel.pipeline.listener import Nobody
from sarvel.plan.read import read_plan
from sarvel.tools.confirm import built as confirm_built
from sarvel.tools.confirm import devices as confirm_each
from sarvel.tools.confirm.outcome import Confirmed, ConfirmedSite, Times, fair_times, least_shifting, strayed
from sarvel.tools.confirm.woven import _chooses_files

PHONE = Device(400, 800, 2)
STATE = PageState(1000, [], [], [], 0.0, 0, None)
WELL = Confirmed(Path("a.html"), PHONE, STATE, STATE, [], 0.0, [], [], [], 1)
MARKUP = '<picture><img src="/p/a-800.jpg" srcset="/p/a-400.jpg 400w, /p/a-800.jpg 800w" sizes="100vw"></picture>'


@pytest.mark.parametrize(
    ("measured", "times"),
    [
        ([(900.0, 300.0)], (900.0, 300.0)),
        ([(900.0, 1200.0), (880.0, 310.0)], (880.0, 310.0)),
        ([(900.0, 1200.0), (950.0, 1100.0)], (900.0, 1100.0)),
        ([(900.0, 1200.0), (None, 1100.0)], (900.0, 1100.0)),
        ([(None, 300.0)], (None, 300.0)),
    ],
)
def test_a_page_that_comes_later_is_timed_once_more(measured: list[Times], times: Times) -> None:
    left = iter(measured)
    assert fair_times(lambda: next(left)) == times and not list(left)


def test_what_is_well() -> None:
    assert WELL.is_well
    others = (
        {"changes": None}, {"grown": 3.0}, {"broken": ["a"]}, {"errors": ["a"]}, {"strayed": [("a", "b")]}, {"after": replace(STATE, shift=0.2)},
    )  # fmt: skip
    assert not any(replace(WELL, **one).is_well for one in others)


@pytest.mark.parametrize(
    ("fetched", "expected"), [("800", ([], 1)), ("400", ([("a-400.jpg", "a-800.jpg")], 0))], ids=["right", "strayed"]
)
def test_images_that_fetch_another_file_than_is_predicted(fetched: str, expected: object) -> None:
    image = FetchedImage(0, "/p/a-800.jpg", f"http://here/p/a-{fetched}.jpg", 400, 400, "", "a.jpg", woven=True)
    assert strayed(MARKUP, "http://here/b/c.html", replace(STATE, images=[image]), PHONE) == expected


def test_what_shifts_is_looked_at_once_more() -> None:
    shifting, asked = replace(STATE, shift=0.3), []

    def again() -> tuple[PageState, PageState]:
        asked.append(1)
        return replace(STATE, shift=0.1), STATE

    assert least_shifting(STATE, STATE, again) == (0.0, STATE) and not asked
    assert least_shifting(STATE, shifting, again) == (0.1, STATE) and len(asked) == 1


def test_without_a_browser_a_line_says_so(site: Path) -> None:
    """Nothing listens at the driver's address; folders that hold nothing are told of before any browser is asked."""
    plan = read_plan(site / "sarvel.toml")
    driver = "http://127.0.0.1:9"
    with pytest.raises(PlanError, match="none: there is no such folder; build the site into it"):
        confirm_built.confirm_built(plan, (Path("none"), site), [], [PHONE], driver, Nobody())
    with pytest.raises(BrowserError, match="no browser could be started"):
        confirm_built.confirm_built(plan, (site / "pages", site / "pages"), [], [PHONE], driver, Nobody())

    def look(_: Session) -> None:
        raise AssertionError

    result = ConfirmedSite()
    confirm_each.confirm_each([], [PHONE], driver, result, Nobody(), Path, look)  # type: ignore[arg-type]  # never called
    assert result == ConfirmedSite()


@pytest.mark.parametrize(
    ("css", "chooses"),
    [
        ("a { background: url(a.png) } @media (min-width: 9px) { a { color: red } }", False),
        ("@media (min-width: 9px) { a { background: url(data:image/png;base64,AA) } }", False),
        ("@media (min-width: 9px) { a { background: url(a.png) } }", True),
        ("a { background: image-set('a.png' 1x, 'b.png' 2x) }", True),
        ("@import 'other.css';", True),
    ],
)
def test_a_stylesheet_by_which_devices_fetch_other_files(css: str, tmp_path: Path, *, chooses: bool) -> None:
    (tmp_path / "site.css").write_text(css)
    assert _chooses_files(tmp_path / "site.css") == chooses
