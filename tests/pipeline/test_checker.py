"""One page checked with what lies around it, and pages written whole."""

from pathlib import Path

import pytest
from PIL import Image

from sarvel.errors import OutputError
from sarvel.pages.read.page_files import PageFile
from sarvel.pipeline.checker import Checker
from sarvel.pipeline.page_writes import write_page


def test_a_text_is_checked_as_if_it_were_saved(tmp_path: Path) -> None:
    Image.new("RGB", (40, 30)).save(tmp_path / "a.png")
    (tmp_path / "s.css").write_text("b { background: url(gone.png) }")
    text = '<head><link rel=stylesheet href=s.css></head><img src="a.png" alt width="40" height="40"><img src="b.png" alt width="4" height="4">'
    page, sheets = Checker(None).checked(tmp_path / "not-saved.html", text)
    assert {one.rule for one in page.findings} >= {"size-of-another-shape", "file-missing"}
    assert [sheet.name for sheet in sheets] == ["s.css"] and page.text == text
    missing = next(one for one in page.notices if one.rule.name == "file-missing")
    assert (missing.severity, missing.start[0], missing.markup) == ("fault", 1, 'src="b.png"')
    place = text.index('src="b.png"') + 1
    assert missing.place.endswith(f"not-saved.html:1:{place}") and missing.cure
    sheet, _ = Checker(None).checked(tmp_path / "s.css", (tmp_path / "s.css").read_text())
    assert [one.rule for one in sheet.findings] == ["file-missing"]


def test_a_page_is_written_whole_unless_it_may_not_be(tmp_path: Path) -> None:
    page, woven = tmp_path / "p.html", tmp_path / "woven.html"
    page.write_text("a")
    page.chmod(0o640)
    assert write_page(PageFile(page, page), b"b") and page.read_bytes() == b"b" and page.stat().st_mode & 0o777 == 0o640
    assert not write_page(PageFile(page, page), b"c", lambda: False) and page.read_bytes() == b"b"
    page.chmod(0o440)
    with pytest.raises(OutputError, match="is read-only and stays as it is"):
        write_page(PageFile(page, page), b"c")
    assert write_page(PageFile(page, woven), b"d") and woven.stat().st_mode & 0o777 == 0o640
