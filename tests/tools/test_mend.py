"""Mends, proved by checking again: what is mended is gone, nothing broken comes, and a second time nothing is left to do."""

from collections import Counter
from collections.abc import Callable
from pathlib import Path

import pytest

from sarvel.core.check.all_rules import check
from sarvel.core.check.rule import Finding
from sarvel.core.html.dialect import DIALECTS
from sarvel.core.html.document import read_document
from sarvel.pages.read.page_files import PageFile
from sarvel.pipeline.page_writes import write_page
from sarvel.rules import RULES
from sarvel.tools.mend import mend, mend_files
from tests.core.check.test_check import CASES, FILES, IMG, OLD, context_of, picture

LIST = ' srcset="a.webp 400w, b.webp 800w"'


def found(text: str, dialect: str = "html") -> list[Finding]:
    return check(read_document(text, DIALECTS[dialect]), context_of(FILES.get))


def img(more: str) -> str:
    return IMG.replace(" alt", f" {more} alt")


# Markup, and the same mended.
MENDED = [
    (img('srcset="a.webp 400w b.webp 800w" sizes="50vw"'), img('srcset="a.webp 400w, b.webp 800w" sizes="50vw"')),
    (img("srcset='a.webp 1x, b.webp 1,5x'"), img("srcset='a.webp 1x, b.webp 1.5x'")),
    (img('srcset="a.webp 400w&#44; b.webp 800px" sizes=400'), img('srcset="a.webp 400w&#44; b.webp 800w" sizes="400px"')),
    (img(f'{LIST} sizes="(min-width: 600) 300, 50vw"'), img(f'{LIST} sizes="(min-width: 600px) 300px, 50vw"')),
    (img(f'{LIST} sizes="50vw, (min-width: 900px) 400px"'), img(f'{LIST} sizes="(min-width: 900px) 400px, 50vw"')),
    (img(f'{LIST} sizes="(max-width: 600px) 400px"'), img(f'{LIST} sizes="(max-width: 600px) 400px, 100vw"')),
    (img(f'{LIST.replace("800w", "700w")} sizes="50vw"'), img(f'{LIST} sizes="50vw"')),
    (img('srcset="a.webp 800w, b.webp 400w" sizes="50vw"'), img(f'{LIST[1:]} sizes="50vw"')),
    (img('srcset="b.webp 1x, a.webp 2x"'), img('srcset="b.webp 2x, a.webp 1x"')),
    (img('srcset="a.webp, b.webp 800w" sizes="50vw"'), img('srcset="a.webp 400w, b.webp 800w" sizes="50vw"')),
    (img('scrset="b.webp 2x"'), img('srcset="b.webp 2x"')),
    (img("loading=lazzy"), img('loading="lazy"')),
    (img('alt="A gull"'), IMG),
    (IMG.replace('"400"', '"400px"'), IMG),
    (picture('<source type="image/web" srcset="a.webp">', OLD), picture('<source type="image/webp" srcset="a.webp">', OLD)),
    (picture('<source type=image/avif srcset="a.webp">', OLD), picture('<source type="image/webp" srcset="a.webp">', OLD)),
    (picture('<source srcset="a.avif">', OLD), picture('<source srcset="a.avif" type="image/avif">', OLD)),
    (picture('<source src="b.webp">'), picture('<source srcset="b.webp">')),
    (picture('<source srcset="a.webp"> <source srcset="a.avif" type="image/avif">', OLD), picture('<source srcset="a.avif" type="image/avif"> <source srcset="a.webp">', OLD)),
    (f'<picture>{OLD}\n<source type="image/webp" srcset="a.webp"></picture>', f'<picture><source type="image/webp" srcset="a.webp">{OLD}</picture>'),
    (picture('<source media="(min-widht: 600px)" srcset="b.webp">'), picture('<source media="(min-width: 600px)" srcset="b.webp">')),
    (picture('<source media="(max-width: 640px)" srcset="a.webp"><source media="(min-width: 640px)" srcset="b.webp">'),
     picture('<source media="(max-width: 639.98px)" srcset="a.webp"><source media="(min-width: 640px)" srcset="b.webp">')),
    (f'<link rel=preload href="a.webp">{IMG}', f'<link rel=preload href="a.webp" as="image">{IMG}'),
    (f'<link rel=preload as=image href="a.webp" crossorigin>{IMG}', f'<link rel=preload as=image href="a.webp">{IMG}'),
]  # fmt: skip
LEFT = [
    img('srcset="c.jpg 400" sizes="50vw"'),  # of a file that is not at hand
    img(f'{LIST} sizes="50%"'),
    img('srcset="a.webp 1x, b.webp 1x"'),
    IMG.replace("A gull", "{{ alt }}").replace("<img", '<img data-woven="m.jpg#0" loading="lazzy"'),  # of weave
    picture('<source srcset="b.webp" type="image/webp"><!-- why --><source srcset="a.avif" type="image/avif">', OLD),
    picture('<source media="(min-width: 900px) and (max-width: 800px)" srcset="b.webp">'),
]


@pytest.mark.parametrize(("text", "after"), MENDED)
def test_what_is_sure_is_mended(text: str, after: str) -> None:
    new, gone, left = mend(text, found)
    assert new == after and gone and left == found(after)
    assert mend(new, found) == (new, [], left)


@pytest.mark.parametrize("text", LEFT)
def test_what_is_not_sure_is_left(text: str) -> None:
    assert mend(text, found)[0] == text and found(text)


def test_a_list_of_missing_files_is_mended_only_where_the_image_is_broken_anyway() -> None:
    faulty = '<img src="{}" srcset="gone.jpg 400w gone.jpg?v=2 800w" sizes="50vw" alt="" width="400" height="300">'
    checked = dict(FILES) | {"gone.jpg?v=2": FILES["gone.jpg"]}

    def found_in(text: str) -> list[Finding]:
        return check(read_document(text), context_of(checked.get))

    assert "400w, gone" in mend(faulty.format("gone.jpg"), found_in)[0]
    assert mend(faulty.format("a.webp"), found_in)[0] == faulty.format(
        "a.webp"
    )  # which is shown as long as nothing else is read


def test_scripts_spell_names_otherwise() -> None:
    text = '<img src="a.webp" scrset="b.webp 2x" alt="" width="400" height="300" />'
    assert mend(text, lambda new: found(new, "script"))[1] == []


@pytest.mark.parametrize("text", [case[0] for case in CASES])
def test_whatever_is_mended_is_gone_and_nothing_broken_comes(text: str) -> None:
    new, gone, left = mend(text, found)
    before, after = Counter(one.rule for one in found(text)), Counter(one.rule for one in left)
    assert all(after[one.rule] < before[one.rule] for one in gone if before[one.rule])
    assert [rule for rule in after - before if RULES[rule].severity == "broken"] == []
    assert mend(new, found)[0] == new


def test_a_page_that_another_program_writes_is_mended_as_it_is_then(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    page = tmp_path / "p.html"
    page.write_bytes("\ufeff<p>ä</p>\r\n<img src=x.png alt loading=lazzy>\r\n".encode())
    begun: list[int] = []

    def late(file: PageFile, content: bytes, still: Callable[[], bool]) -> bool:
        if not begun:
            page.write_bytes(page.read_bytes() + b"<p>mine</p>")
        begun.append(1)
        return write_page(file, content, still)

    monkeypatch.setattr("sarvel.tools.mend.write_page", late)
    [mended] = mend_files([page], None, writes=True).pages
    wanted = "\ufeff<p>ä</p>\r\n" + '<img src=x.png alt loading="lazy">' + "\r\n<p>mine</p>"
    assert page.read_bytes() == wanted.encode() and len(begun) == 2
    assert "-<img src=x.png alt loading=lazzy>" in mended.diff()
    assert (
        mend_files([page, tmp_path / "gone.html"], None, writes=False)
        .faults[0]
        .place.startswith(str(tmp_path / "gone"))
    )
