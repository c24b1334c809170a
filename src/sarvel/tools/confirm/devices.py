"""Pages on devices, in real browsers. A page that ends its browser is reported and left out."""

from __future__ import annotations

import contextlib
from collections.abc import Callable, Iterator, Sequence
from contextlib import AbstractContextManager
from pathlib import Path
from typing import TypeVar

from sarvel.browser.page_state import watch
from sarvel.browser.session import Session
from sarvel.browser.several import looked_at
from sarvel.core.amounts import counted
from sarvel.core.css.device import Device
from sarvel.core.survey.looks import Look, worth_opening
from sarvel.errors import PageError
from sarvel.notices import Kind, Notice
from sarvel.pipeline.listener import Listener
from sarvel.tools.confirm.outcome import Confirmed, ConfirmedSite
from sarvel.workers.cores import available_workers

P = TypeVar("P")

_ENOUGH = 2  # pages of a kind that are looked at, of a site that has many


def some_of_each(pages: Sequence[P], looks: Callable[[P], set[Look]], result: ConfirmedSite) -> list[P]:
    """The pages to look at: all; of many, some of each kind."""
    chosen = worth_opening({number: looks(page) for number, page in enumerate(pages)}, _ENOUGH)
    if left := len(pages) - len(chosen):
        text = f"{counted(left, 'page')} skipped, whose images are laid out as on others"
        result.notes.append(Notice(Kind.LEFT_OUT, "", text, "open them too with --all", "note"))
    return [pages[number] for number in sorted(chosen)]


def confirm_each(
    pages: Sequence[P], devices: Sequence[Device], driver: str | None, result: ConfirmedSite, listener: Listener,
    file_of: Callable[[P], Path], look: Callable[[Session], AbstractContextManager[Callable[[P, Device], Confirmed]]],
) -> None:  # fmt: skip
    """Looks at all pages on all devices.

    Args:
        driver: address of a WebDriver that runs already; None starts the one that is installed.
        file_of: a page's file, for messages.
        look: for a browser, what looks at a page on a device with it.

    Raises:
        BrowserError: no browser can be had.
    """
    seen: dict[int, list[Confirmed]] = {number: [] for number in range(len(pages))}
    with listener.progress("confirming", len(pages) * len(devices)) as advance:

        @contextlib.contextmanager
        def begin(browser: Session) -> Iterator[Callable[[int], None]]:
            watch(browser)
            with look(browser) as one:

                def confirm(number: int) -> None:
                    for device in devices:
                        seen[number].append(one(pages[number], device))
                        advance(1, file_of(pages[number]).name)

                yield confirm

        for number, error in looked_at(range(len(pages)), begin, driver, available_workers()):
            if isinstance(error, PageError):
                file = str(file_of(pages[number]))
                result.faults += [Notice(Kind.PAGE, file, told.text, told.cure) for told in error.notices]
    result.pages += [one for number in seen for one in seen[number]]
