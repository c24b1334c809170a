"""Where images are: alone, in a woven picture, in a picture by hand."""

import pytest

from sarvel.core.html.tags import Wanted, tags
from sarvel.pages.restore.image_places import image_places

IMAGES = Wanted(frozenset({"img", "picture"}))
OURS, PLAIN, WOVEN = '<img data-sarvel="a" src="b">', '<img src="b">', '<img data-woven="b#0" src="c">'


@pytest.mark.parametrize(
    ("page", "mapped", "found"),
    [
        (f"{OURS}{PLAIN}", False, [OURS]),
        (f"{OURS}{PLAIN}", True, [OURS, PLAIN]),
        (f"<picture><source>{WOVEN}</picture>{PLAIN}", False, [f"<picture><source>{WOVEN}</picture>"]),
        (f"<picture class=x>{PLAIN}</picture>", True, [f"<picture class=x>{PLAIN}</picture>"]),
        (f"<picture class=x>{PLAIN}</picture>", False, []),
        (f"<picture> {OURS} </picture>", False, [f"<picture> {OURS} </picture>"]),
        (f"<picture>{PLAIN}{PLAIN}</picture>{OURS}", True, [OURS]),
        (f"<picture>{PLAIN}", True, []),
        (f'<p data-woven=""> {WOVEN} </p>', False, [f'<p data-woven=""> {WOVEN} </p>']),
    ],
)
def test_places(page: str, mapped: bool, found: list[str]) -> None:
    places = list(image_places(page, tags(page, only=IMAGES), mapped=mapped))
    assert [page[start:end] for start, end, *_ in places] == found and not any(fault for *_, fault in places)


@pytest.mark.parametrize(
    ("page", "words"),
    [
        (f"<picture>{OURS}", "not closed, or holds several"),
        (f"<picture>{OURS}<picture>{PLAIN}</picture>", "not closed, or holds several"),
        (f"<picture>{OURS}{PLAIN}</picture>", "not closed, or holds several"),
        (f"<picture>{WOVEN}", "woven picture element is not closed"),
    ],
)
def test_faults(page: str, words: str) -> None:
    ((*_, fault),) = image_places(page, tags(page, only=IMAGES), mapped=False)
    assert fault and words in str(fault)
