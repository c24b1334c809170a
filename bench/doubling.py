"""How reading grows: twice as much of anything is to take twice as long, up to pages of 5 MB and audiences of 100,000 rows.

    python bench/doubling.py [--bytes N] [UNIT…]

Pages of N bytes (40,000), 2 N and 4 N are made of one unit each, ordinary (images) or hostile (openings that are never closed),
and read, woven and read back in every dialect. Printed is how many times as long the longest takes as the shortest: 4 is in
proportion; what takes less than a fiftieth of a second is left out. Then plans are composed for audiences of 25,000, 50,000 and
100,000 rows.
"""

from __future__ import annotations

import argparse
import functools
import random
import time
from collections.abc import Callable

from sarvel.core.css.device import Device
from sarvel.core.edition.demand import demands_of
from sarvel.core.html.dialect import DIALECTS, Dialect
from sarvel.core.html.document import read_document
from sarvel.core.layout.audience import Visits
from sarvel.core.layout.growth import growth_of
from sarvel.core.layout.ladder import VISITS, Terms
from sarvel.core.markup.picture import Markup, Room, Source
from sarvel.pages.restore.blocks import blocks, replaced
from sarvel.pages.restore.preload_links import preload_places
from sarvel.pages.restore.read_back import first_lost
from sarvel.pages.weave.write import render_block
from sarvel.plan.read import plan_from

IMAGE = Source("", "", "p/a-1.jpg 1w, p/a-2.jpg 2w", "100vw", 200, 100)
RATIO = Room("ratio", (200, 100))
PICTURE = Markup(
    (Source("(min-width: 9px)", "image/avif", "p/a.avif 1x", "", 200, 100),), IMAGE, "p/a-1.jpg", eager=True, room=RATIO
)
UNITS = {
    "images": '<img data-sarvel="card" src="a.jpg" alt="A">\n',
    "images on one line": '<img data-sarvel="card" src="a.jpg" alt="A"> ',
    **{
        text: f"{text} x " for text in ("{%", "{#", "{{", "{{!--", "<%", "<?", "![", "[", "]", "{", "/*", "<!--", "{!!")
    },
    **{
        text: text for text in ("<picture>", "</x>", "<source>", "<script>", "<style>", "![a](b ", '<a "b ', '<a b="c ')
    },
    "backticks": "` x `` y ",
    "templates": "`${ x ",
    "sections": "<![CDATA[ x ",
    "raw blocks": "{% raw %} x ",
    "calls": "@if( x ",
    "spaces": "![a](" + " " * 50,
    "slashes": "= /[ ",
    "nested pictures": "<picture><div><b>",
    "references": "[a]: b\n\n",
}


def main() -> None:
    """Measures and prints."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("units", nargs="*", default=list(UNITS))
    parser.add_argument("--bytes", type=int, default=40_000)
    options = parser.parse_args()
    for name in options.units:
        for dialect in DIALECTS.values():
            unit = UNITS[name]
            texts = [unit * (options.bytes * factor // len(unit)) for factor in (1, 2, 4)]
            told(
                f"{name!r} in {dialect.name}",
                [functools.partial(work, text, dialect) for text in texts],
            )
    told("audiences", [functools.partial(audience, count) for count in (25_000, 50_000, 100_000)])


def told(name: str, tasks: list[Callable[[], object]]) -> None:
    """Times tasks, each twice as large as the one before."""
    seconds = []
    for task in tasks:
        started = time.perf_counter()
        task()
        seconds.append(time.perf_counter() - started)
    if seconds[0] > 0.02:
        print(f"{seconds[-1] / seconds[0]:5.1f}  {name}: {', '.join(f'{one:.2f}' for one in seconds)} s", flush=True)


def work(text: str, dialect: Dialect) -> None:
    """All that is done with a page."""
    read_document(text, dialect)
    found = list(blocks(text, dialect, mapped=True))
    good = [block for block in found if not block.fault and block.src]
    after = replaced(text, [(block, render_block(text, block, PICTURE, "x", dialect)) for block in good])
    if found:
        first_lost(text, found, after, dialect, mapped=True)
    list(preload_places(text, dialect))


def audience(count: int) -> None:
    """Who meets each crop, and the ladders for them."""
    from pathlib import Path

    chance = random.Random(1)
    plan = plan_from({"slots": {"card": {"sizes": "50vw", "crops": "4:3"}}}, Path("plan"), {})
    visits = tuple(
        Visits(Device(chance.randrange(240, 3840), 800, chance.choice((1, 1.5, 2, 3))), chance.random() + 0.01, "")
        for _ in range(count)
    )
    for met in demands_of(plan.slots["card"], visits):
        met.ladder(3000, Terms(5, None, growth_of("avif", drawn=False), 3 / VISITS))


if __name__ == "__main__":
    main()
