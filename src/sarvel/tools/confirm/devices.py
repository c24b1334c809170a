"""Pages on devices, one after another in a real browser. A page that ends the browser is reported and left out."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TypeVar

from sarvel.browser.page_state import watch
from sarvel.browser.session import BrowserGoneError, Session, StuckError, session
from sarvel.core.css.device import Device
from sarvel.errors import PageError
from sarvel.notices import Kind, Notice
from sarvel.pipeline.listener import Listener
from sarvel.tools.confirm.outcome import Confirmed, ConfirmedSite

P = TypeVar("P")


def confirm_each(
    pages: Sequence[P], devices: Sequence[Device], address: str, driver: str | None, result: ConfirmedSite, listener: Listener,
    file_of: Callable[[P], Path], look: Callable[[Session], Callable[[P, Device], Confirmed]],
) -> None:  # fmt: skip
    """Looks at all pages on all devices.

    Args:
        driver: address of a WebDriver that runs already; None starts the one that is installed.
        file_of: a page's file, for messages.
        look: for a browser, what looks at a page on a device with it.

    Raises:
        BrowserError: no browser can be had.
    """
    left = [(page, device) for page in pages for device in devices]
    with listener.progress("confirming", len(left)) as advance:
        while left:
            try:
                with session(address, driver) as browser:
                    watch(browser)
                    one = look(browser)
                    while left:
                        page, device = left[0]
                        try:
                            result.pages.append(one(page, device))
                        except StuckError:
                            raise
                        except PageError as error:
                            result.faults.append(Notice(Kind.PAGE, str(file_of(page)), f"{error}"))
                            left = [other for other in left if other[0] is not page]
                            continue
                        left.pop(0)
                        advance(1, file_of(page).name)
            except (BrowserGoneError, StuckError) as error:
                gone = left[0][0]
                result.faults.append(Notice(Kind.PAGE, str(file_of(gone)), f"{error}", "it was left out"))
                left = [other for other in left if other[0] is not gone]
