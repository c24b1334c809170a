"""The pages of a site that runs on this machine, by their links."""

from __future__ import annotations

import contextlib
import urllib.parse
from collections.abc import Sequence
from pathlib import PurePosixPath

from sarvel.browser.look import script, steady
from sarvel.browser.session import session
from sarvel.browser.site_server import LOOPBACK, host_of
from sarvel.errors import PageError, PlanError

MOST = 20
"""Pages that are opened."""

_PAGES = ("", ".html", ".htm", ".xhtml", ".xht", ".php")  # endings of paths that may be pages


def address_on_this_machine(url: str) -> str:
    """The address of a server that runs here, without a slash at its end.

    Raises:
        PlanError: it is elsewhere.
    """
    parts = urllib.parse.urlsplit(url if "://" in url else f"http://{url}")
    if parts.scheme not in ("http", "https") or host_of(parts.netloc) not in LOOPBACK:
        raise PlanError.at(
            url, "is no address on this machine", "start the site here, such as at http://localhost:3000"
        )
    return f"{parts.scheme}://{parts.netloc}{parts.path.rstrip('/')}"


def linked_pages(address: str, begin: Sequence[str], driver: str | None) -> list[str]:
    """The paths of a site's pages, nearest first.

    Args:
        address: of the site, without a slash at its end.
        begin: paths to begin with.
        driver: address of a WebDriver that runs already; None starts the one that is installed.

    Raises:
        BrowserError: no browser can be had.
    """
    base = urllib.parse.urlsplit(address).path
    paths = list(dict.fromkeys(begin))[:MOST]
    with session(address, driver) as browser:
        for path in paths:  # which grows
            with contextlib.suppress(PageError):
                browser.open(path)
                steady(browser, "first")
                linked = (str(one) for one in browser.run(script("links")))
                own = (one.removeprefix(base) for one in linked if one.startswith(f"{base}/"))
                pages = (one for one in own if PurePosixPath(one).suffix.lower() in _PAGES)
                paths += [one for one in dict.fromkeys(pages) if one not in paths][: MOST - len(paths)]
    return paths
