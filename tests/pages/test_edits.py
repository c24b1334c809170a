"""What an author changes in a woven page: kept, or the block stays and is told of. Never lost in silence."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from sarvel.core.html.dialect import DIALECTS, HTML, Dialect
from sarvel.core.markup.picture import Markup, Room, Source
from sarvel.core.markup.preload import Preload
from sarvel.pages.restore.blocks import blocks, replaced
from sarvel.pages.restore.preload_links import preload_places
from sarvel.pages.restore.read_back import first_lost
from sarvel.pages.weave.write import render_block

IMAGE = Source("", "", "p/a-1.jpg 1w, p/a-2.jpg 2w", "100vw", 200, 100)
WIDE = Source("(min-width: 9px)", "image/avif", "p/a.avif 1x", "", 200, 100)
SIZE = Room("size", (200, 100))
ALONE = Markup((), IMAGE, "p/a-1.jpg", eager=False, room=SIZE)
PICTURE = Markup((WIDE,), IMAGE, "p/a-1.jpg", eager=True, urgent=True, room=SIZE, background="#111 content-box")
LATER = Markup(
    (WIDE, WIDE), IMAGE, "p/a-9.jpg", eager=False, room=Room("ratio", (3, 2))
)  # what another plan would write

AUTHOR = '<img data-sarvel="card" src="masters/a.jpg" class="wide">'
PAGE = f"<main>\n  <p>Before {AUTHOR} behind</p>\n</main>\n"


def weave_all(page: str, markup: Markup, dialect: Dialect = HTML) -> tuple[str, list[str]]:
    """The page woven anew, and what is told of."""
    found = list(blocks(page, dialect))
    good = [(block, render_block(page, block, markup, "From the plan", dialect)) for block in found if not block.fault]
    after = replaced(page, good)
    if lost := first_lost(page, found, after, dialect):
        return page, [f"{lost.line}: damaged"]
    return after, [str(block.fault) for block in found if block.fault]


def undo_all(page: str, dialect: Dialect = HTML) -> tuple[str, list[str]]:
    found = list(blocks(page, dialect))
    return replaced(page, [(block, block.tag) for block in found if not block.fault]), [
        str(block.fault) for block in found if block.fault
    ]


KEPT = {
    "alt of the plan": ('alt="From the plan"', 'alt="My own words"', "My own words"),
    "loading": ('loading="eager"', 'loading="lazy"', 'loading="lazy"'),
    "priority": ('fetchpriority="high"', 'fetchpriority="low"', 'fetchpriority="low"'),
    "decoding": ('decoding="async"', "decoding=sync", "decoding=sync"),
    "class of the img": ('class="wide"', 'class="wide tall"', 'class="wide tall"'),
    "id behind ours": ("></picture>", ' id="x"></picture>', 'id="x"'),
    "code behind ours": ("></picture>", ' {% if x %}id="x"{% endif %}></picture>', '{% if x %}id="x"{% endif %}'),
    "another slot": ('data-sarvel="card"', 'data-sarvel="badge"', 'data-sarvel="badge"'),
    "another master": ("masters/a.jpg", "masters/b.jpg", "masters/b.jpg"),
    "an alt in front": ("data-sarvel=", 'alt="In front" data-sarvel=', 'alt="In front"'),
    "text around": ("Before ", "Before and {% if x %}", "Before and {% if x %}"),
}


@pytest.mark.parametrize(("old", "new", "token"), KEPT.values(), ids=KEPT)
@pytest.mark.parametrize("then", [PICTURE, LATER, ALONE], ids=["same plan", "another plan", "one format"])
def test_what_can_be_kept_is_kept(old: str, new: str, token: str, then: Markup) -> None:
    once, _ = weave_all(PAGE, PICTURE)
    assert once.count(old) >= 1
    edited = once.replace(old, new)
    again, told = weave_all(edited, then)
    assert token in again and not told
    assert weave_all(again, then) == (again, [])
    assert token in undo_all(edited)[0] and undo_all(again)[0] == undo_all(edited)[0]


TOLD = {
    "class on the picture": ("<picture ", '<picture class="x" ', "changed by hand"),
    "code in the picture tag": ("<picture ", "<picture {% if x %} ", "changed by hand"),
    "comment": ("<source", "<!-- mine --><source", "'<!-- mine -->' stands between its tags"),
    "text": ("></picture>", ">mine</picture>", "'mine' stands between its tags"),
    "figcaption": ("><img ", "><figcaption>Mine</figcaption><img ", "'<figcaption>Mine</figcaption>' stands between"),
    "code": ("><source", ">{% if x %}<source", "'{% if x %}' stands between its tags"),
    "source": ("><source", '><source srcset="mine.gif"><source', "changed by hand"),
    "srcset": ("p/a-1.jpg 1w", "mine.jpg 1w", "changed by hand"),
    "width": ('width="200"', 'width="300"', "changed by hand"),
    "alt taken away": (' alt="From the plan"', "", "its alt was taken away"),
    "loading taken away": ('loading="eager"', "", "how it is loaded was changed by hand"),
    "priority taken away": (' fetchpriority="high"', "", "how it is loaded was changed by hand"),
    "style of the placeholder": ("background:#111", "border:0;background:#111", "style of its placeholder"),
    "mark written to": ("masters/a.jpg#", "masters/a.jpg#mine", "its mark, data-woven, was taken away or written to"),
    "code among ours": (' srcset="p/a-1', ' {% if x %} srcset="p/a-1', "changed by hand"),
}


@pytest.mark.parametrize(("old", "new", "words"), TOLD.values(), ids=TOLD)
def test_what_cannot_be_kept_stays_and_is_told(old: str, new: str, words: str) -> None:
    once, _ = weave_all(PAGE, PICTURE)
    assert old in once
    edited = once.replace(old, new)
    for after, told in (weave_all(edited, PICTURE), weave_all(edited, LATER), undo_all(edited)):
        assert after == edited and len(told) == 1
        assert words in told[0] and "take that change out again" in told[0]


@pytest.mark.parametrize("dialect", ["html", "xhtml", "calls", "braces", "expressions", "markdown"])
def test_formatters_change_nothing_that_counts(dialect: str) -> None:
    kind = DIALECTS[dialect]
    page = PAGE.replace('class="wide">', 'class="wide"/>')
    once, _ = weave_all(page, PICTURE, kind)
    formatted = once.replace('"async"', "'async'").replace("><source", ">\n\n<source").replace("  ", " ")
    assert formatted != once
    again, told = weave_all(formatted, LATER, kind)
    assert not told and again.split() == weave_all(undo_all(once, kind)[0], LATER, kind)[0].split()


def test_src_moved_to_the_front_keeps_the_alt() -> None:
    page = PAGE.replace("class=", 'alt="Mine" class=')
    once, _ = weave_all(page, ALONE)
    src = once[once.index(' src="') : once.index(" srcset", once.index("<img"))]
    edited = once.replace(src, "").replace("<img", f"<img{src}")
    assert "Mine" in undo_all(edited)[0] and "Mine" in weave_all(edited, PICTURE)[0]


PIECES = [" xTOKENx ", ' xTOKENx="1" ', "<!--xTOKENx-->", "<b>xTOKENx</b>", "{% xTOKENx %}", "{{ xTOKENx }}", "xTOKENx", '"xTOKENx', ">xTOKENx", "<xTOKENx", ' alt="xTOKENx" ', ' style="xTOKENx" ', "\nxTOKENx\n"]  # fmt: skip


@settings(max_examples=200)
@given(
    st.lists(st.tuples(st.integers(0, 1_000), st.integers(0, 30), st.sampled_from(PIECES)), min_size=1, max_size=3),
    st.sampled_from([ALONE, PICTURE]),
    st.sampled_from([ALONE, PICTURE, LATER]),
    st.sampled_from([HTML, DIALECTS["braces"], DIALECTS["calls"], DIALECTS["markdown"]]),
)
def test_any_edit_is_kept_or_told(
    edits: list[tuple[int, int, str]], before: Markup, then: Markup, dialect: Dialect
) -> None:
    """Pieces are put in, in the place of nothing or of some letters."""
    page, _ = weave_all(PAGE, before, dialect)
    for number, (place, gone, piece) in enumerate(edits):
        at = place % (len(page) + 1)
        page = page[:at] + piece.replace("TOKEN", f"{number}t") + page[at + gone :]
    tokens = [f"x{number}tx" for number in range(len(edits)) if f"x{number}tx" in page]
    for after, told in (weave_all(page, then, dialect), undo_all(page, dialect)):
        assert told or all(token in after for token in tokens)


def test_an_image_of_markdown_that_was_edited_stays_and_is_told() -> None:
    kind = DIALECTS["markdown"]
    (block,) = blocks("Look: ![The gull](masters/a.jpg) there\n", kind, mapped=True)
    once = render_block("", block, PICTURE, None, kind)
    page = f"Look: {once} there\n"
    assert [one.fault for one in blocks(page, kind, mapped=True)] == [None]
    for old, new in (("The gull", "My gull"), ("masters/a.jpg", "masters/b.jpg"), ("<img ", '<img class="x" ')):
        (edited,) = blocks(
            page.replace(old, new, 1) if old != "The gull" else page.replace('alt="The gull"', f'alt="{new}"'),
            kind,
            mapped=True,
        )
        assert "changed by hand in the woven block" in str(edited.fault)


@pytest.mark.parametrize(
    "piece", ["{{ xTOKENx }}", " {{ xTOKENx }} ", " xTOKENx ", ' xTOKENx="1" ', "<!-- xTOKENx -->", "{/* xTOKENx */}"]
)
@pytest.mark.parametrize("markup", [ALONE, PICTURE], ids=["img", "picture"])
@pytest.mark.parametrize("name", ["markdown", "markdown-script"])
def test_nothing_that_is_put_into_an_image_of_markdown_is_lost(name: str, markup: Markup, piece: str) -> None:
    """At every place of what is woven of one: the author's own text has no room for it."""
    kind, page = DIALECTS[name], "Look: ![The gull](masters/a.jpg) there\n"
    once = replaced(
        page, [(one, render_block(page, one, markup, None, kind)) for one in blocks(page, kind, mapped=True)]
    )
    assert undo_all_mapped(once, kind) == (page, [])
    for at in range(once.index("<"), once.rindex(">") + 2, 2):
        after, told = undo_all_mapped(once[:at] + piece + once[at:], kind)
        assert told or "xTOKENx" in after, once[:at] + piece


def undo_all_mapped(page: str, kind: Dialect) -> tuple[str, list[str]]:
    found = list(blocks(page, kind, mapped=True))
    return replaced(page, [(one, one.tag) for one in found if not one.fault]), [
        str(one.fault) for one in found if one.fault
    ]


LINKS = [Preload("", "image/avif", "p/a.avif 1x", ""), Preload("(min-width: 9px)", "image/avif", "p/b.avif 1x", "")]


@pytest.mark.parametrize(
    ("old", "new"),
    [('as="image"', 'as="image" crossorigin'), ("p/b.avif", "p/c.avif"), ("<link data-woven ", '<link rel="icon">\n<link data-woven '), ("data-woven=", "data-x=")],
)  # fmt: skip
def test_preload_links_that_were_edited_stay_and_are_told(old: str, new: str) -> None:
    page = '<head>\n  <link data-sarvel="preloads">\n</head>'
    (head,) = preload_places(page, HTML)
    once = replaced(page, [(head, head.woven(page, LINKS, HTML))])
    (again,) = preload_places(once, HTML)
    assert not again.fault and replaced(once, [(again, again.tag)]) == page
    assert old in once
    (edited, *_) = preload_places(once.replace(old, new, 1), HTML)
    assert "changed by hand, and stay as they are; take that change out again" in str(edited.fault)
