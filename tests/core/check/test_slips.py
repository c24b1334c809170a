"""Faulty values as people write them, what is meant by each, and whether nothing else can be."""

import pytest

from sarvel.core.check.condition_slips import entry_spans, media_slip, sizes_slips
from sarvel.core.check.context import LinkedFile
from sarvel.core.check.slips import Slip, did_you_mean, nearest, slip_of, swap
from sarvel.core.check.srcset_slips import is_name, srcset_slips

FILES = {
    "a.jpg": LinkedFile(400, 300), "b.jpg": LinkedFile(800, 600), "my%20boat.jpg": LinkedFile(400, 300),
    **dict.fromkeys(("my", "boat.jpg", "5x", "a.jpg%20b.jpg"), LinkedFile(missing=True)),
}  # fmt: skip

# A srcset, what is meant by its faulty candidate ("" where that cannot be told), what of it is marked, and whether it is sure.
SRCSETS = [
    ("a.jpg 400w b.jpg 800w", "a.jpg 400w, b.jpg 800w", "400w", True),
    ("a.jpg 1x\n  b.jpg 2x", "a.jpg 1x,\n  b.jpg 2x", "1x", True),
    ("/i/a 400w /i/b 800w", "/i/a 400w, /i/b 800w", "400w", True),
    ("a.jpg b.jpg 2x", "a.jpg, b.jpg 2x", "a.jpg", True),
    ("a.jpg 1x, b.jpg 1,5x", "b.jpg 1.5x", "1,5x", True),
    ("a.jpg, b.jpg, 2x", "b.jpg 2x", ", 2x", True),
    ("a.jpg 400w; b.jpg 800w", "a.jpg 400w, b.jpg 800w", "400w;", True),
    ("a.jpg 400px, b.jpg 800w", "a.jpg 400w", "400px", True),
    ("a.jpg 500px, b.jpg 800w", "a.jpg 500w", "500px", False),  # the file is 400 px wide
    ("a.jpg 400W, b.jpg 800w", "a.jpg 400w", "400W", True),
    ("a.jpg 1x, b.jpg 2X", "b.jpg 2x", "2X", True),
    ("a.jpg 1x, b.jpg x2", "b.jpg 2x", "x2", True),
    ("a.jpg 1x, b.jpg @2x", "b.jpg 2x", "@2x", True),
    ("a.jpg 1x, b.jpg 2 x", "b.jpg 2x", "2 x", True),
    ("a.jpg 1x, b.jpg +2x", "b.jpg 2x", "+2x", True),
    ("a.jpg 400, b.jpg 800w", "a.jpg 400w", "400", True),
    ("c.jpg 400", "c.jpg 400w", "400", False),
    ("a.jpg 400.0w, b.jpg 800w", "a.jpg 400w", "400.0w", True),
    ("a.jpg 1x, b.jpg 800px", "b.jpg 800w", "800px", False),  # the other one has a density
    ("my boat.jpg 400w, b.jpg 800w", "my%20boat.jpg 400w", "my boat.jpg", True),
    ("c d.jpg 2x", "c%20d.jpg 2x", "c d.jpg", False),
    ("a.jpg 400w 2x", "a.jpg 400w", "400w 2x", True),
    ("a.jpg -400w", "", "", False),
    ("a.jpg 50%", "", "", False),
]  # fmt: skip
SIZES = [
    ("400", "400px", "400", True),
    ("(min-width: 800px) 400, 100vw", "(min-width: 800px) 400px", "400", True),
    ("(min-width: 800) 400px, 100vw", "(min-width: 800px) 400px", "800", True),
    ("(min-width: 800) 400, 100vw", "(min-width: 800px) 400px", "800) 400", True),
    ("(min-widht: 800px) 400px, 100vw", "(min-width: 800px) 400px", "min-widht", True),
    ("min-width: 800px 400px, 100vw", "(min-width: 800px) 400px", "min-width: 800px", True),
    ("(min-width 800px) 400px, 100vw", "(min-width: 800px) 400px", "min-width", True),
    ("(min-width: 800px), 400px, 100vw", "(min-width: 800px) 400px", ",", True),
    ("(min-width: 800px), 100vw", "(min-width: 800px) 100vw", ",", False),  # the length may be forgotten
    ("(min-width: 800px) 400px 100vw", "(min-width: 800px) 400px, 100vw", "400px", True),
    ("(min-width: 800px) 400px; 100vw", "(min-width: 800px) 400px, 100vw", "400px;", True),
    ("(min-width: 800px): 400px, 100vw", "(min-width: 800px) 400px", ":", True),
    ("100vw (max-width: 600px), 50vw", "(max-width: 600px) 100vw", "100vw (max-width: 600px)", True),
    ("screen and (min-width: 800px) 400px, 9vw", "(min-width: 800px) 400px", "screen and ", True),
    ("calc(100vw-2rem)", "calc(100vw - 2rem)", "100vw-2rem", True),
    ("100vw - 32px", "calc(100vw - 32px)", "100vw - 32px", True),
    ("100wv", "100vw", "100wv", True),
    ("400p", "400px", "400p", False),
    ("400 px", "400px", "400 px", True),
    ("(width => 800px) 400px, 9vw", "(width >= 800px) 400px", "=>", True),
    ("(min-width:8px) and(max-width:900px) 4px", "(min-width:8px) and (max-width:900px) 4px", "and", True),
    ("(min-width: 800px 400px, 100vw", "(min-width: 800px) 400px, 100vw", "800px", True),
    ("50%", "", "", False),
    ("calc(100% - 2rem)", "", "", False),
    ("var(--wide)", "", "", False),
    ("100vm", "", "", False),
]  # fmt: skip
MEDIA = [
    ("(min-widht: 800px)", "(min-width: 800px)", "min-widht", True),
    ("min-width: 800px", "(min-width: 800px)", "min-width: 800px", True),
    ("screen and min-width: 800px", "screen and (min-width: 800px)", "min-width: 800px", True),
    ("sreen and (min-width: 800px)", "screen and (min-width: 800px)", "sreen", True),
    ("(min-width: 800)", "(min-width: 800px)", "800", True),
    ("(width >= 800)", "(width >= 800px)", "800", True),
    ("(max-width: 600xp)", "(max-width: 600px)", "600xp", True),
    ("@media (min-width: 800px)", "(min-width: 800px)", "@media ", True),
    ("(min-width: 800px) (max-width: 900px)", "(min-width: 800px) and (max-width: 900px)", " (", True),
    ("(min-width: 800px) && (max-width: 900px)", "(min-width: 800px) and (max-width: 900px)", "&&", True),
    ("(min-width: 900px) and (max-width: 800px)", "(min-width: 800px) and (max-width: 900px)", "900px) and (max-width: 800px", False),
    ("(orientation: landscpae)", "(orientation: landscape)", "landscpae", True),
    ("(something: else)", "", "", False),
]  # fmt: skip


def told(value: str, slip: Slip | None, meant: str, marked: str, sure: bool) -> None:
    assert (slip.meant.strip() if slip else "") == meant
    if slip:
        assert (value[slice(*slip.marked)], slip.sure) == (marked, sure)
        assert slip.says


@pytest.mark.parametrize(("value", "meant", "marked", "sure"), SRCSETS)
def test_what_is_meant_by_a_srcset(value: str, meant: str, marked: str, sure: bool) -> None:
    [(_, slip)] = srcset_slips(value, FILES.get)
    told(value, slip, meant, marked, sure)
    if slip:
        assert srcset_slips(value[: slip.start] + slip.text + value[slip.end :], FILES.get) == []


@pytest.mark.parametrize(("value", "meant", "marked", "sure"), SIZES)
def test_what_is_meant_by_sizes(value: str, meant: str, marked: str, sure: bool) -> None:
    [(_, _, fault, slip)] = sizes_slips(value)
    told(value, slip, meant, marked, sure)
    assert fault
    if slip:
        assert sizes_slips(value[: slip.start] + slip.text + value[slip.end :]) == []


@pytest.mark.parametrize(("value", "meant", "marked", "sure"), MEDIA)
def test_what_is_meant_by_media(value: str, meant: str, marked: str, sure: bool) -> None:
    told(value, media_slip(value), meant, marked, sure)


def test_parts_of_the_search() -> None:
    assert entry_spans(" (a) calc(1px, 2px) , 3px") == [(1, 19), (22, 25)]
    assert entry_spans("") == [(0, 0)]
    assert nearest("scrset", ("sizes", "srcset")) == "srcset"
    assert (did_you_mean("lazzy", ("lazy", "")), did_you_mean("x", ("lazy",))) == (": did you mean lazy?", "")
    assert is_name("a/b.jpg?w=3") and not is_name("5x")
    two = (swap("a", "b", "an a"), swap("c", "d", "a c", sure=False))
    slip = slip_of("- ac -", 2, 4, two, lambda text: text == "bd")
    assert slip and (slip.says, slip.sure, slip.text) == ("an a; a c", False, "bd")
    assert slip_of("x", 0, 1, two, lambda _: False) is None
    assert slip_of("a" * 3000, 0, 3000, two, lambda text: text == "b" * 3000) is None  # longer than anybody writes
