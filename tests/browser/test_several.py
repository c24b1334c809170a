"""Pages shared out among browsers; the browsers are made up."""

import contextlib
import threading
from collections.abc import Iterator

import pytest

from sarvel.browser import several
from sarvel.browser.session import BrowserGoneError, StuckError
from sarvel.errors import BrowserError, PageError

FAULTS = {
    "missing": PageError.at("", "is not there"),
    "stuck": StuckError.at("", "does not answer"),
    "deadly": BrowserGoneError.at("", "the browser ended"),
}


class Browsers:
    """Counts the browsers that are started, and those that are open."""

    def __init__(self) -> None:
        self.started = self.open = 0
        self.refuses = False

    @contextlib.contextmanager
    def session(self, _address: str, _driver: str | None) -> Iterator[object]:
        if self.refuses:
            raise BrowserError.at("", "there is no browser", "install one")
        self.started += 1
        self.open += 1
        try:
            yield object()
        finally:
            self.open -= 1

    @contextlib.contextmanager
    def begin(self, _browser: object) -> Iterator[object]:
        yield self.look

    def look(self, page: str) -> str:
        if fault := FAULTS.get(page.rstrip("0123456789")):
            raise fault
        return page.upper()


@pytest.fixture
def browsers(monkeypatch: pytest.MonkeyPatch) -> Browsers:
    made = Browsers()
    monkeypatch.setattr(several, "session", made.session)
    return made


@pytest.mark.parametrize(
    ("pages", "count", "started"),
    [
        ([], 2, 0),
        (["a"], 4, 1),
        (["a", "missing", "b"], 1, 1),  # a page that does not come ends no browser
        (["a", "stuck", "b"], 1, 2),
        (["deadly1", "a", "deadly2", "b"], 1, 3),
    ],
)
def test_every_page_has_one_result(browsers: Browsers, pages: list[str], count: int, started: int) -> None:
    seen: dict[str, object] = dict(several.looked_at(pages, browsers.begin, None, count))  # type: ignore[arg-type]
    assert list(seen) == pages and browsers.started == started and browsers.open == 0
    for page, result in seen.items():
        assert isinstance(result, PageError) if page[:4] in ("miss", "stuc", "dead") else result == page.upper()


def test_browsers_work_at_one_time(browsers: Browsers, monkeypatch: pytest.MonkeyPatch) -> None:
    meet = threading.Barrier(3, timeout=30)
    monkeypatch.setattr(browsers, "look", lambda page: (meet.wait(), page)[1])
    assert {page for page, _ in several.looked_at(["a", "b", "c"], browsers.begin, None, 3)} == {"a", "b", "c"}  # type: ignore[arg-type]


def test_what_ends_the_whole(browsers: Browsers) -> None:
    with pytest.raises(BrowserError, match="3 times"):
        list(several.looked_at(["deadly1", "deadly2", "deadly3", "a"], browsers.begin, None, 1))  # type: ignore[arg-type]
    browsers.refuses = True
    with pytest.raises(BrowserError, match="there is no browser"):
        list(several.looked_at(["a", "b"], browsers.begin, None, 2))  # type: ignore[arg-type]
