"""Pages on files: which there are, what they ask for, what is woven and given back."""

import contextlib
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from sarvel.core.address.address import InFolder
from sarvel.core.html.dialect import DIALECTS, HTML
from sarvel.errors import PageError, PlanError
from sarvel.files.ledger import Ledger
from sarvel.pages.read.asks import read_page
from sarvel.pages.read.encodings import encoding_of
from sarvel.pages.read.expression import Expression
from sarvel.pages.read.page_files import PageFile, find_pages, master_named, read_text, seen_from
from sarvel.pages.read.project import Project
from sarvel.pages.read.references import names_in_pages
from sarvel.pages.read.scan import find_all, is_image, names_in
from sarvel.pages.restore.marks import changes, mark_of
from sarvel.pages.weave.output_address import Addresses
from sarvel.pages.weave.partials import partial, partial_name
from sarvel.pages.weave.weaver import unweave, weave
from sarvel.pipeline.roots import project_of
from sarvel.pipeline.site import read_site
from sarvel.plan.read import read_plan
from tests.conftest import PAGE


def test_pages_asks_and_what_is_woven(rendered: Path) -> None:
    plan = read_plan(rendered / "sarvel.toml")
    with Ledger() as ledger:
        edition = read_site(plan, ledger).edition
    file = rendered / "pages" / "index.html"
    page = read_page(PageFile(file, file), plan.slots, project_of(plan), plan.masters_folder)
    assert [(ask.slot, ask.key, ask.fault) for ask in page.asks] == [
        ("banner", "gull.jpg", None),
        ("badge", "seal.png", None),
    ]
    addresses = Addresses(plan.output, plan.root, "/made")
    woven = weave(page, edition, addresses, set(), None, {})
    assert woven.count == 2 and "/made/gull-banner-" in woven.text and woven.before == PAGE.encode()
    unmade = weave(page, edition, addresses, {("badge", "seal.png")}, None, {})
    assert unmade.count == 1 and "run `sarvel render` first" in str(unmade.faults[0])
    file.write_bytes(woven.content)
    again = read_page(PageFile(file, file), plan.slots, project_of(plan), plan.masters_folder)
    assert unweave(again).text == PAGE and weave(again, edition, addresses, set(), None, {}).text == woven.text
    block = again.blocks[0]
    text = woven.text[block.start : block.end]
    assert mark_of(text, HTML) in text and not changes(text, HTML).lost
    assert "stands between its tags" in changes(text.replace("<source", "<b></b>x<source", 1), HTML).lost
    part = partial(next(iter(edition.pictures.values())), InFolder("/made"), None, ".html", "{{ alt }}", {})
    assert (
        'alt="{{ alt }}"' in part
        and 'data-woven="' not in part
        and partial_name("a", "b/c.jpg", ".html") == "a/b/c.jpg.html"
    )


BANNER, BADGE = (
    '<img data-sarvel="banner" src="../masters/gull.jpg">',
    '<img data-sarvel="badge" src="../masters/seal.png" alt="">',
)


@pytest.mark.parametrize(
    ("text", "urgent"),
    [(BADGE + BANNER, 1), (BANNER + BANNER, 0), (BADGE + BADGE, 0), (BANNER.replace("gull", "none") + BADGE, 1), ("", None)],
)  # fmt: skip
def test_of_what_is_seen_at_once_the_largest_is_urgent(rendered: Path, text: str, urgent: int | None) -> None:
    plan_file, file = rendered / "sarvel.toml", rendered / "pages" / "index.html"
    plan_file.write_text(plan_file.read_text().replace('sizes = "40px"', 'sizes = "40px"\nloading = "eager"'))
    file.write_text(text)
    plan = read_plan(plan_file)
    with Ledger() as ledger:
        edition = read_site(plan, ledger).edition
    page = read_page(PageFile(file, file), plan.slots, project_of(plan), plan.masters_folder)
    woven = weave(page, edition, Addresses(plan.output, plan.root, "/made"), set(), None, {}).text
    images = [one.partition(">")[0] for one in woven.split("<img ")[1:]]
    high = [number for number, one in enumerate(images) if 'fetchpriority="high"' in one]
    assert high == ([] if urgent is None else [urgent])
    assert woven.count('loading="eager"') == woven.count("data-woven=")


@pytest.mark.parametrize(
    ("tag", "asked"),
    [
        ("<img src=\"{{ asset('masters/gull.jpg') }}\">", [("badge", "gull.jpg", "")]),
        ("<img src=\"{{ asset('elsewhere/gull-7.jpg') }}\">", []),
        ('<img src="{{ photo }}">', []),
        ('<img data-sarvel="banner" src="{% static \'masters/none.jpg\' %}">', [("banner", "none.jpg", "")]),
        ('<img data-sarvel="banner" src="~/masters/gull.jpg">', [("banner", "gull.jpg", "")]),
    ],
)
def test_calls_of_templates_ask_for_the_master_that_they_name(
    site: Path, tag: str, asked: list[tuple[str, str, str]]
) -> None:
    plan_file, file = site / "sarvel.toml", site / "pages" / "index.html"
    plan_file.write_text(plan_file.read_text().replace('sizes = "40px"', 'sizes = "40px"\nselectors = ["img"]'))
    file.write_text(tag)
    plan = read_plan(plan_file)
    page = read_page(PageFile(file, file), plan.slots, project_of(plan), plan.masters_folder)
    assert [(ask.slot, ask.key, str(ask.fault or "")) for ask in page.asks] == asked


def test_a_page_of_xml_stays_xml(rendered: Path) -> None:
    """An img that holds what it cannot hold would be cropped in two; it is well-formed, and stays as it is."""
    plan = read_plan(rendered / "sarvel.toml")
    with Ledger() as ledger:
        edition = read_site(plan, ledger).edition
    addresses = Addresses(plan.output, plan.root, "/made")
    for inner, count in (("", 1), ("<b>x</b>", 0)):
        file = rendered / "pages" / "a.xhtml"
        file.write_text(f'<p>&nbsp;<img data-sarvel="banner" src="../masters/gull.jpg" alt="">{inner}</img></p>')
        page = read_page(PageFile(file, file, DIALECTS["xhtml"]), plan.slots, project_of(plan), plan.masters_folder)
        woven = weave(page, edition, addresses, set(), None, {})
        assert woven.count == count and (not count) == any(
            "no longer be well-formed XML" in str(one) for one in woven.faults
        )
        assert count or woven.text == file.read_text()


def test_which_pages_there_are(tmp_path: Path) -> None:
    for name in ("a.html", "b.md", "c.css", "sub/d.html", "f.txt"):
        (tmp_path / "pages" / name).parent.mkdir(parents=True, exist_ok=True)
        (tmp_path / "pages" / name).write_text("")
    pages, others = find_pages(tmp_path, ["pages"], tmp_path / "out", content={"pages/*.md": "card", "pages": "badge"})
    assert {seen_from(tmp_path, page.target): page.slot for page in pages} == {
        "out/a.html": "badge", "out/b.md": "card", "out/sub/d.html": "badge",
    }  # fmt: skip
    assert [file.target.name for file in others] == ["c.css", "f.txt"]
    pages, _ = find_pages(tmp_path, ["pages/*.txt", "pages/f.txt"], None)
    assert [page.source.name for page in pages] == ["f.txt"], "what is named itself is a page, whatever its ending"
    for patterns, content in ((["none"], {}), (["pages"], {"none": "card"})):
        with pytest.raises(PlanError, match="none"):
            find_pages(tmp_path, patterns, None, content=content)


@pytest.mark.parametrize(
    ("src", "key"),
    [("../masters/a b.jpg", "a b.jpg"), ("../masters/a%20b.jpg?v=1", "a b.jpg"), ("/masters/x/y.jpg", "x/y.jpg"), ("y.jpg", "y.jpg"), ("../../out.jpg", None),
     ("https://h/masters/a.jpg", None), ("data:image/png,", None)],
)  # fmt: skip
def test_the_master_that_a_src_means(tmp_path: Path, src: str, key: str | None) -> None:
    assert (
        master_named(
            Expression(src), tmp_path / "pages" / "a.html", Project(tmp_path, (tmp_path,)), tmp_path / "masters"
        )
        == key
    )


@pytest.mark.parametrize(
    ("content", "text", "encoding"),
    [
        (b"\xef\xbb\xbf\xc3\xa9", "é", "utf-8"),
        (b"\xe9", "\udce9", "ascii"),
        ("é".encode("utf-16"), "é", "utf-16-le"),
        (b"", "", "utf-8"),
        (b"<meta charset=utf-8>\xe9", "<meta charset=utf-8>\udce9", "ascii"),
        ('<meta charset="Windows-1251">Маяк'.encode("cp1251"), '<meta charset="Windows-1251">Маяк', "cp1251"),
        (b"<meta charset=windows-1251>a", "<meta charset=windows-1251>a", "cp1251"),
        (b"<!-- <meta charset=big5> -->a", "<!-- <meta charset=big5> -->a", "utf-8"),
        ("<meta charset=big5>é".encode(), "<meta charset=big5>é", "utf-8"),
        ('<META HTTP-EQUIV="Content-Type" CONTENT="text/html; charset=gb2312">灯塔'.encode("gbk"), '<META HTTP-EQUIV="Content-Type" CONTENT="text/html; charset=gb2312">灯塔', "gbk"),
        ("<meta charset=shift_jis>能".encode("cp932"), "<meta charset=shift_jis>能", "cp932"),
        ("<meta charset=iso-2022-jp>灯".encode("iso2022_jp"), "<meta charset=iso-2022-jp>灯", "iso2022_jp"),
        (b"<meta charset=latin1>\xe9\x81", "<meta charset=latin1>é\udc81", "cp1252"),
        (b"<meta charset=gbk>\xff\xfe", "<meta charset=gbk>\udcff\udcfe", "gbk"),
        ('<?xml version="1.0" encoding="koi8-r"?>Маяк'.encode("koi8-r"), '<?xml version="1.0" encoding="koi8-r"?>Маяк', "koi8-r"),
        (b"<meta charset=nothing>\xe9", "<meta charset=nothing>\udce9", "ascii"),
    ],
)  # fmt: skip
def test_texts_come_back_byte_for_byte(tmp_path: Path, content: bytes, text: str, encoding: str) -> None:
    (tmp_path / "a").write_bytes(content)
    read = read_text(tmp_path / "a")
    assert (read.text, read.encoding, read.encoded(read.text)) == (text, encoding, content)
    assert read.mark or encoding_of(content) == encoding
    assert read.encoded("→").removeprefix(read.mark) in ("→".encode(encoding, "replace"), b"&#8594;")
    assert read.encoded("é").decode(encoding).removeprefix("\ufeff") in ("é", "&#233;")


@pytest.mark.parametrize(
    ("content", "name"),
    [
        ("<p>".encode("utf-32"), "UTF-32"),
        ("<p>".encode("utf-32-be"), "UTF-32"),
        ("<p>".encode("utf-32-le"), "UTF-32"),
        ("<p>Маяк".encode("utf-16-le"), "UTF-16 without a byte-order mark"),
        ("<p>Маяк".encode("utf-16-be"), "UTF-16 without a byte-order mark"),
    ],
)
def test_encodings_that_browsers_do_not_read_are_told(tmp_path: Path, content: bytes, name: str) -> None:
    (tmp_path / "a").write_bytes(content)
    with pytest.raises(PageError, match=f"a: is {name}, which browsers do not read; save it as UTF-8"):
        read_text(tmp_path / "a")


@settings(max_examples=300)
@given(
    st.binary(max_size=60),
    st.sampled_from(
        ["", "windows-1251", "gbk", "big5", "shift_jis", "euc-jp", "euc-kr", "koi8-r", "macintosh", "gb18030"]
    ),
)
def test_any_bytes_come_back(tmp_path_factory: pytest.TempPathFactory, content: bytes, label: str) -> None:
    file = tmp_path_factory.getbasetemp() / "any.html"
    file.write_bytes(b"<meta charset=%s><p>" % label.encode() + content)
    with contextlib.suppress(PageError):  # of NULs
        read = read_text(file)
        assert read.encoded(read.text) == file.read_bytes()
        assert read.encoded(read.text + "→").startswith(file.read_bytes())


def test_a_text_that_cannot_be_read(tmp_path: Path) -> None:
    with pytest.raises(PageError, match="cannot be read"):
        read_text(tmp_path)


def test_names_in_texts_and_files_of_a_site(tmp_path: Path) -> None:
    (tmp_path / "a.html").write_text('<img src="/x/a%20b.1a2b.webp?v#y"> url(c.png) {"d": "e.jpg"} &#103;.gif')
    (tmp_path / "b.css").write_text("")
    (tmp_path / "c.PNG").write_bytes(b"")
    (tmp_path / "node_modules").mkdir()
    (tmp_path / "node_modules" / "d.html").write_text("")
    assert names_in_pages([tmp_path / "a.html", tmp_path / "none"]) >= {"a b.1a2b.webp", "c.png", "e.jpg", "g.gif"}
    assert names_in([tmp_path / "a.html"]) >= {"a%20b.1a2b.webp", "c.png", "e.jpg"}
    found = find_all([tmp_path], set(), {})
    assert [[file.name for file in some] for some in (found.images, found.pages, found.sheets)] == [
        ["c.PNG"],
        ["a.html"],
        ["b.css"],
    ]
    assert is_image(Path("a.JPEG")) and not is_image(Path("a.html"))
