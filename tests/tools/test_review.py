"""The report for a review, as a document, and against an earlier one."""

import json

import pytest

from sarvel.tools.report.document import as_document
from sarvel.tools.report.review import as_markdown
from sarvel.tools.report.since import by_device, since
from tests.tools.samples import DESKTOP, HOSTILE, PHONE, PIXEL, picture, report


def test_a_document_holds_all_but_pictures() -> None:
    document = as_document(report())
    text = json.dumps(document, allow_nan=False)
    assert "base64" not in text and HOSTILE in document["pictures"][0]["master"]  # type: ignore[index]
    assert document["pages_fetch"] == {
        "pages": 1,
        "masters_bytes": 1_000_000,
        "bytes": {PHONE: 20_000, DESKTOP: 30_000},
    }


def test_what_changed_since_an_earlier_report() -> None:
    earlier = as_document(report(picture(), picture("banner", "rock.jpg")))
    now = report(picture(phone=26_000), picture("badge", "crest.png", 100, 200))
    told = since(now, json.loads(json.dumps(earlier)))
    assert [(one.slot, one.device, one.before, one.now, one.by) for one in told.changes] == [
        ("banner", DESKTOP, 30_000, None, -30_000),
        ("banner", PHONE, 20_000, None, -20_000),
        ("card", PHONE, 20_000, 26_000, 6_000),
        ("badge", DESKTOP, None, 200, 200),
        ("badge", PHONE, None, 100, 100),
    ]
    assert by_device(now, told) == {PHONE: "−13.9 kB", DESKTOP: "−29.8 kB"}
    same = since(now, as_document(now))
    assert same.changes == () and by_device(now, same) == dict.fromkeys((PHONE, DESKTOP), "as many bytes")
    with pytest.raises(KeyError):
        since(now, {})


def test_markdown_is_of_ten_changes_and_its_words_are_text() -> None:
    old = report(*(picture(master=f"{i}.jpg") for i in range(12)))
    new = report(*(picture(master=f"{i}.jpg", phone=20_000 + i) for i in range(12)))
    text = as_markdown(new, since(new, as_document(old)), pictures=False)
    assert "the 10 largest of 11" in text and text.count("| card") == 0 and text.count("in card |") == 10
    assert "| `11.jpg` in card | 360x740@3 | 20 kB | 20 kB | +0.0 kB |" in text and PIXEL not in text
    assert PIXEL in as_markdown(new, since(new, as_document(old)), pictures=True)
    assert "**over budget by 100%**: `index.html` on 360x740@3, 20 kB of 10 kB" in text
    hostile = as_markdown(report(), None, pictures=True)
    assert "\\<img src=x onerror=alert(1)\\>" in hostile and "\n<img" not in hostile and "`` " in hostile
    assert "No picture changed" in as_markdown(new, since(new, as_document(new)), pictures=False)
