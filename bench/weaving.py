"""Weaving mutated pages, and how fast weaving is.

    python bench/weaving.py [--mutants N] [--pages N]

N pages of the tests' corpus (20,000) are mutated: pieces cut out, doubled, put in from other pages, letters changed. Each must
be read without an exception in its dialect; woven again it must not change, taken back it must be what it was, and whatever is
outside of woven images must stay. Then N pages of 50 kB (1,000) with three images each are woven on one core.
"""

from __future__ import annotations

import argparse
import random
import time
from dataclasses import replace
from pathlib import Path

from sarvel.core.html.dialect import HTML, Dialect, dialect_of
from sarvel.core.markup.picture import Markup, Room, Source
from sarvel.pages.restore.blocks import Block, blocks, replaced
from sarvel.pages.restore.read_back import first_lost, tags_around
from sarvel.pages.weave.write import render_block

CORPUS = Path(__file__).parent.parent / "tests" / "corpus"
IMAGE = Source("", "", "p/a-1.jpg 1w, p/a-2.jpg 2w", "auto, 100vw", 200, 100)
RATIO = Room("ratio", (200, 100))
PICTURE = Markup(
    (Source("(min-width: 9px)", "image/avif", "p/a.avif 1x", "", 200, 100),), IMAGE, "p/a-1.jpg", eager=True, room=RATIO
)
SIZE = Room("size", (200, 100), cropped=True, height=True)
SHAPES = (
    PICTURE,
    Markup((), IMAGE, "p/a-1.jpg", eager=False, room=RATIO),
    replace(PICTURE, background="#111 content-box", room=SIZE),
    replace(PICTURE, room=Room("none", (200, 100))),
)
SPLICES = (
    "<",
    ">",
    '"',
    "'",
    "{{",
    "}}",
    "{%",
    "%}",
    "{",
    "}",
    "<!--",
    "-->",
    "`",
    "<img ",
    "<picture>",
    "</picture>",
    "\n",
)


def main() -> None:
    """Tries and measures."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--mutants", type=int, default=20_000)
    parser.add_argument("--pages", type=int, default=1_000)
    options = parser.parse_args()
    texts = {file.name: file.read_text() for file in sorted(CORPUS.iterdir())}
    random.seed(1)
    names = random.choices(list(texts), k=options.mutants)
    asked = [survives(mutated(texts, name), name) for name in names]
    woven_ = [count for count in asked if count >= 0]
    print(f"{len(asked)} mutants: {len(woven_)} with {sum(woven_)} images woven once, woven twice, taken back")
    print(f"{len(asked) - len(woven_)} too damaged, left as they are")
    speed(options.pages)


def mutated(texts: dict[str, str], name: str) -> str:
    """A page with some damage."""
    text = texts[name]
    for _ in range(random.randint(1, 6)):
        at, end = sorted(random.choices(range(len(text) + 1), k=2))
        end = min(end, at + random.randint(0, 60))
        piece = text[at:end]
        other = random.choice(list(texts.values()))
        start = random.randrange(len(other))
        text = random.choice(
            [
                text[:at] + text[end:],
                text[:end] + piece + text[end:],
                text[:at] + other[start : start + 40] + text[at:],
                text[:at] + random.choice(SPLICES) + text[at:],
            ]
        )
    return text


def found(text: str, dialect: Dialect) -> list[Block]:
    """Blocks that can be woven."""
    return [
        block for block in blocks(text, dialect, mapped=True) if block.src and not block.fault and not block.mention
    ]


def weave(text: str, dialect: Dialect, markup: Markup) -> str:
    """All of them woven."""
    return replaced(
        text, [(one, render_block(text, one, markup, "From the plan", dialect)) for one in found(text, dialect)]
    )


def undo(text: str, dialect: Dialect) -> str:
    """All of them taken back."""
    return replaced(text, [(one, one.tag) for one in found(text, dialect)])


def lost(text: str, once: str, dialect: Dialect) -> bool:
    """Whether an image would not come back."""
    return first_lost(text, list(blocks(text, dialect, mapped=True)), once, dialect, mapped=True) is not None


def outside(text: str, dialect: Dialect) -> list[str]:
    """What is not in them."""
    at, parts = 0, []
    for block in found(text, dialect):
        parts.append(text[at : block.start])
        at = block.end
    return [*parts, text[at:]]


def around(text: str, dialect: Dialect) -> object:
    """The tags around all blocks, as they are read."""
    return tags_around(text, list(blocks(text, dialect, mapped=True)), dialect)


def survives(text: str, name: str) -> int:
    """How many images it has, after all has been tried on it."""
    dialect = dialect_of(name, {}) or HTML
    clean = undo(text, dialect)  # damage may look woven
    if undo(clean, dialect) != clean:
        return 0
    for markup in random.sample(SHAPES, 2):
        once = weave(clean, dialect, markup)
        if lost(clean, once, dialect):
            return -1  # a page too damaged to be woven, which is told and left as it is
        assert weave(once, dialect, markup) == once, clean
        assert undo(once, dialect) == clean, clean
        assert outside(once, dialect) == outside(clean, dialect), clean
        assert around(once, dialect) == around(clean, dialect), clean
    return len(found(clean, dialect))


def speed(count: int) -> None:
    """Reads and weaves pages of 50 kB."""
    paragraph = (
        '<p class="text">The <a href="/rooms?from=1&amp;to=2" title=\'Rooms\'>rooms</a> are <b>small</b> and {{ warm }}.'
        "</p>\n"
    )
    tag = '<img data-sarvel="card" src="masters/a.jpg" alt="A">\n'
    third = paragraph * (50_000 // 3 // len(paragraph))
    page = (third + tag) * 3
    start = time.perf_counter()
    for _ in range(count):
        read = list(blocks(page))
        once = replaced(page, [(one, render_block(page, one, PICTURE, None)) for one in read])
        assert once != page and first_lost(page, read, once) is None
    seconds = time.perf_counter() - start
    print(f"{count} pages of {len(page) / 1e3:.0f} kB: {count * len(page) / 1e6 / seconds:.1f} MB/s")


if __name__ == "__main__":
    main()
