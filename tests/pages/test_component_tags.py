"""Calls of the component, and its import: written where they belong, and taken away without a trace."""

from types import SimpleNamespace
from typing import Any, Literal

import pytest

from sarvel.core.html.dialect import DIALECTS
from sarvel.core.markup.picture import Markup, Room, Source
from sarvel.pages.restore.blocks import blocks
from sarvel.pages.restore.component_tags import import_place
from sarvel.pages.weave.component import component_tag, in_form_of

PICTURE: Any = SimpleNamespace(slot=SimpleNamespace(name="card"), master=SimpleNamespace(key='in/"a".jpg'))
OF = 'of="card/in/&quot;a&quot;.jpg"'

LINE = 'import { SarvelPicture } from "./SarvelPicture.jsx";'
SCRIPTS = [  # pages, with | where the line belongs
    "|export default 1;\n",
    "|",
    "|import a from 'a';\nimport b from 'b';\n",
    "/* A licence. */\n\n|import a from 'a';\n",
    '"use client";\n|\n/** Shows a gull. */\nexport const A = 1;\n',
    "'use strict'\n'use client'\n|const a = 1\n",
    '// @ts-check\n"use client"; \n// more\n|import a from "a"\n',
    "|/** Shows a gull. */\nexport function A() {}\n",
    "|const text = `\nimport a from 'a';\n`;\n",
    "|export default 1;\r\n",
]
CONTENT = [  # of Markdown, in which a blank line ends the statements of a module
    "|# Gulls\n\nText.\n",
    "---\ntitle: Gulls\n---\n|# Gulls\n",
    "---\ntitle: Gulls\n---\n\n|# Gulls\n",
    "---\ntitle: Gulls\n---\n\n|import a from 'a'\n\n# Gulls\n",
]


@pytest.mark.parametrize(
    ("dialect", "said"), [*(("script", one) for one in SCRIPTS), *(("markdown-script", one) for one in CONTENT)]
)
def test_the_import_has_its_place_and_leaves_no_trace(dialect: str, said: str) -> None:
    page, at = said.replace("|", ""), said.index("|")
    place = import_place(page, DIALECTS[dialect])
    assert place.start == place.end == at
    line = place.woven(page, "./SarvelPicture.jsx", DIALECTS[dialect])
    assert line.rstrip() == LINE and ("\r\n" in line) == ("\r\n" in page)
    blank = dialect != "script" and not page.startswith("import", at)
    assert line.count("\n") == 1 + blank
    for form in (line, line.replace('"', "'").replace(";", ""), line.replace("{ ", "{").replace(" }", "}")):
        woven = page[:at] + form + page[at:]
        place = import_place(woven, DIALECTS[dialect])
        assert woven[place.start : place.end] == form


TAGS = [  # of authors, and what calls the component in their place; None where the markup itself is needed
    ("<img src={a} />", f"<SarvelPicture {OF} data-master={{a}} />"),
    ('<img\n  key={1 > 0}\n  src="a.jpg" {...more}\n/>', f'<SarvelPicture\n  {OF}\n  key={{1 > 0}}\n  data-master="a.jpg" {{...more}}\n/>'),
    ("<img src={a} width={4} height={2} srcSet={b} sizes='1px' alt=''/>", f"<SarvelPicture {OF} data-master={{a}} width={{4}} height={{2}} data-was-srcSet={{b}} data-was-sizes='1px' alt=''/>"),
    ('<img src="a/b.jpg" alt="b.jpg" />', f'<SarvelPicture {OF} data-master="a/b.jpg" data-was-alt="b.jpg" />'),
    ("<img src={a} ref={b} />", None),
    ("<img src={a}></img>", None),
]  # fmt: skip


@pytest.mark.parametrize(("tag", "call"), TAGS)
@pytest.mark.parametrize("kind", ["size", "ratio"])
def test_a_call_holds_all_that_its_author_wrote(kind: Literal["size", "ratio"], tag: str, call: str | None) -> None:
    image = Source("", "", "p/a-1.jpg 1w", "100vw", 200, 100)
    markup = Markup((image,), image, "p/a-1.jpg", eager=True, room=Room(kind, (2, 1)), urgent=call is None)
    dialect, page = DIALECTS["script"], f"const x = (\n  <p>{tag}</p>\n);\n"
    (block,) = blocks(page, dialect, mapped=True)
    assert component_tag(block, PICTURE, markup, dialect) == call
    if call:
        (back,) = blocks(page.replace(tag, call), dialect, mapped=True)
        assert (back.tag, back.start, back.fault) == (tag, block.start, None)


def test_a_height_that_only_follows_from_the_width_needs_the_markup() -> None:
    image = Source("", "", "p/a-1.jpg 1w", "100vw", 200, 100)
    markup = Markup((image,), image, "p/a-1.jpg", eager=True, room=Room("size", (2, 1)))
    (block,) = blocks('x = <img src={a} width="40" />', DIALECTS["script"], mapped=True)
    assert component_tag(block, PICTURE, markup, DIALECTS["script"]) is None


@pytest.mark.parametrize(
    ("there", "kept"), [("a = ('x',\n 'y');", True), ('a = "x", "y"', True), ('a = "x", "z"', False)]
)
def test_a_file_that_a_formatter_has_rewritten_stays(there: str, kept: bool) -> None:
    text = 'a = ("x", "y");\n'
    assert in_form_of(text, there) == (there if kept else text)
