"""Whether `survey` names the place of every image that a browser fetches.

    python bench/places.py FOLDER…

Each page of a site is opened in Chromium at two widths, scrolled to its end, and the server writes down which images were
asked for. An image is explained if `survey` has a use of it, or a use of a missing file of that address.
"""

from __future__ import annotations

import collections
import functools
import http.server
import sys
import threading
import time
import urllib.parse
from pathlib import Path
from typing import ClassVar

from sarvel.browser.session import session
from sarvel.core.html.mentions import PICTURES
from sarvel.pipeline.listener import Nobody
from sarvel.tools.survey import Survey, survey

WIDTHS = ((390, 844, 2.0), (1440, 900, 1.0))
SCROLL = """
const done = arguments[arguments.length - 1];
(async () => {
  for (let y = 0; y < Math.min(document.documentElement.scrollHeight, 20000); y += innerHeight) {
    scrollTo(0, y);
    await new Promise(ready => setTimeout(ready, 60));
  }
  await new Promise(ready => setTimeout(ready, 400));
  done(0);
})();
"""


class Log(http.server.SimpleHTTPRequestHandler):
    """Serves a folder, and writes down the images that are asked for, by page."""

    asked: ClassVar[collections.Counter[tuple[str, str]]] = collections.Counter()
    page: ClassVar[str] = ""

    def do_GET(self) -> None:
        """Answers, and notes."""
        path = urllib.parse.unquote(self.path.partition("?")[0])
        if PICTURES.search(path):
            Log.asked[Log.page, path] += 1
        super().do_GET()

    def log_message(self, *_: object) -> None:
        """Says nothing."""


def requests_of(root: Path, pages: list[str]) -> collections.Counter[tuple[str, str]]:
    """The images that pages ask for, with the page."""
    Log.asked = collections.Counter()
    server = http.server.ThreadingHTTPServer(("127.0.0.1", 0), functools.partial(Log, directory=str(root)))
    threading.Thread(target=server.serve_forever, daemon=True).start()
    with session(f"http://127.0.0.1:{server.server_port}", None) as browser:
        for page in pages:
            Log.page = page
            for width in WIDTHS:
                browser.set_viewport(int(width[0]), int(width[1]), width[2])
                browser.open(f"/{urllib.parse.quote(page)}")
                browser.run_until_done(SCROLL)
            time.sleep(0.2)
    server.shutdown()
    return Log.asked


def explained(found: Survey, root: Path) -> set[str]:
    """Paths from the root that some use names."""
    files = {f"/{row.file.resolve().relative_to(root)}" for row in found.rows if row.uses}
    missing = {
        urllib.parse.unquote(one.use.url.partition("?")[0]).replace("\\", "/").rsplit("/", 1)[-1]
        for one in found.missing
    }
    return files | missing


def main() -> None:
    """Compares, site by site."""
    whole = told = 0
    for name in sys.argv[1:]:
        root = Path(name).resolve()
        found = survey([root], None, Nobody())
        known = explained(found, root)
        pages = [str(file.resolve().relative_to(root)) for file in found.pages if file.suffix in (".html", ".htm")]
        asked = requests_of(root, pages)
        lost = {
            (page, path): count
            for (page, path), count in asked.items()
            if path not in known and path.rsplit("/", 1)[-1] not in known and path != "/favicon.ico"
        }
        count = sum(count for (_, path), count in asked.items() if path != "/favicon.ico")
        whole, told = whole + count, told + count - sum(lost.values())
        kinds = collections.Counter(placed.use.kind for row in found.rows for placed in row.uses)
        print(
            f"{name}: {count} image requests of {len(pages)} pages, {sum(lost.values())} not explained; uses: {dict(kinds)}"
        )
        for (page, path), times in sorted(lost.items()):
            print(f"  {times}x {page}: {path}")
    print(f"explained: {told} of {whole}, {told / max(1, whole):.1%}")


if __name__ == "__main__":
    main()
