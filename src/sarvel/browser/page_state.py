"""The state of a page on one device: where its boxes are, which files its images fetched, what went wrong."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from typing import Any

from sarvel.browser.look import PATIENT, begin_with, script, steady
from sarvel.browser.session import Session
from sarvel.browser.site_server import SiteServer
from sarvel.core.css.device import Device
from sarvel.core.layout.moved import Placed
from sarvel.errors import PageError

SLOW = (10_000_000, 100)
"""The stated slow network: bits in a second, and ms to the server and back."""

_FAST = (-1, 0)
_CLICKED = 12  # small images of a page: a script that listens to one listens to the others, too
# Resource Timing 2: the bodies of what images of the page asked for.
_FETCHED = """return performance.getEntriesByType("resource").filter((one) => ["img", "image"].includes(one.initiatorType))
  .reduce((sum, one) => sum + one.encodedBodySize, 0)"""
_PLACE_IN_FILE = re.compile(r"(?<=\s)\d+:\d+\s")  # of a page's line, which weaving moves


@dataclass(frozen=True)
class FetchedImage:
    """An image of a page.

    Attributes:
        number: which of the page's elements it is; -1 for none of those compared.
        src: the words of its `src`.
        url: the address of the file that is in it; "" for none.
        natural: its natural width, CSS px, which is what its `sizes` amounts to; 0 if it is broken.
        width: of its box without padding, CSS px; 0 if it has none, or its file is not simply stretched to fill it.
        lists: its `srcset`, and those of the sources in its picture.
        named: the file that its author named.
        woven: whether `src` or the lists are others than on the page before.
    """

    number: int
    src: str
    url: str
    natural: int
    width: float
    lists: str
    named: str
    woven: bool = False


@dataclass(frozen=True)
class PageState:
    """A page on a device.

    Attributes:
        height: of the whole page, CSS px.
        boxes: of all elements, in order.
        images: in order.
        errors: what the browser's console says of faults.
        shift: how much its layout shifted until its first screen was there (Layout Instability).
        weight: bytes of all images that were fetched.
        largest: when the largest image of the first screen was there, ms after the page was asked for; None if it has none.
    """

    height: int
    boxes: Sequence[Placed]
    images: Sequence[FetchedImage]
    errors: Sequence[str]
    shift: float
    weight: int
    largest: float | None

    def beside(self, before: PageState) -> PageState:
        """The state with the names that the page before has for its images."""
        known = {image.number: image for image in before.images if image.number >= 0}
        pairs = [(image, known.get(image.number, image)) for image in self.images]
        images = [replace(one, named=old.src, woven=(one.src, one.lists) != (old.src, old.lists)) for one, old in pairs]
        return replace(self, images=images)

    def woven_at(self, places: Iterable[int]) -> list[str]:
        """The names of the woven images among those in some places."""
        return list(dict.fromkeys(self.images[place].named for place in places if self.images[place].woven))


def watch(browser: Session) -> None:
    """Begins to watch every page that is opened from now on."""
    begin_with(browser, "watch")


def state_on(
    browser: Session, server: SiteServer | None, path: str, device: Device, *, slow: bool = False
) -> PageState:
    """Opens a page on a device, and looks at it once all is there.

    Args:
        server: of the site; None where it is not ours, and the browser tells how much it fetched.
        slow: whether the network is the stated slow one; then only images of the first screen are awaited.

    Raises:
        PageError: it does not come or does not answer.
    """
    browser.set_viewport(round(device.width), round(device.height), device.dpr)
    speed, delay = SLOW if slow else _FAST
    rate = speed / 8 if speed > 0 else -1
    browser.command(
        "Network.emulateNetworkConditions", offline=False, latency=delay, downloadThroughput=rate, uploadThroughput=rate
    )
    _errors(browser)
    if server:
        server.served.clear()
    browser.open(path)
    steady(browser, "first" if slow else "scrolled")
    if server is None:
        return _state(browser, int(browser.run(_FETCHED)))
    return _state(browser, sum(size for _, size, kind in list(server.served) if kind.startswith("image/")))


def states_on(browser: Session, server: SiteServer | None, path: str, devices: Sequence[Device]) -> list[PageState]:
    """A page that fetches the same on all devices: opened on the first, then seen in the viewports of the others.

    Raises:
        PageError: as `state_on`.
    """
    states = [state_on(browser, server, path, devices[0])]
    for device in devices[1:]:
        browser.set_viewport(round(device.width), round(device.height), device.dpr)
        browser.run_until_done(script("frames"), PATIENT)
        states.append(replace(_state(browser, states[0].weight), errors=states[0].errors))
    return states


def largest_on(browser: Session, server: SiteServer | None, path: str, device: Device) -> float | None:
    """When the largest image of a page's first screen is there on the slow network, ms; None where that is not known.

    A page that does not come in time is no fault, because it came on the fast network.
    """
    try:
        return state_on(browser, server, path, device, slow=True).largest
    except PageError:
        return None


def shaped_state(browser: Session, state: PageState, shapes: Sequence[tuple[int, str]]) -> PageState:
    """A page that was just looked at, with other files in some of its images; its weight is that of before.

    Args:
        shapes: numbers of images in order, from 0, and addresses of files.

    Raises:
        PageError: it does not answer.
    """
    browser.run_until_done(script("shaped"), [list(one) for one in shapes])
    return _state(browser, state.weight)


def set_by_scripts(browser: Session) -> list[int]:
    """Images of the open page whose `src` a script sets, on its own or when small images are clicked: places in its state."""
    try:
        return [int(place) for place in browser.run_until_done(script("clicked"), _CLICKED)]
    except PageError:  # a click has led to another page
        return []


def _state(browser: Session, weight: int) -> PageState:
    height, boxes, images, shift, largest = browser.run(script("state"))
    return PageState(
        int(height),
        [(str(label), (float(x), float(y), float(width), float(high))) for label, x, y, width, high in boxes],
        [_image(values) for values in images],
        _errors(browser),
        float(shift),
        weight,
        float(largest) if largest is not None else None,
    )


def _image(values: Sequence[Any]) -> FetchedImage:
    number, src, url, natural, width, lists = values
    return FetchedImage(int(number), str(src), str(url), int(natural), float(width), str(lists), named=str(src))


def _errors(browser: Session) -> list[str]:
    """What the console says of faults since it was last asked."""
    found = (str(one["message"]).replace(browser.address, "") for one in browser.log() if one["level"] == "SEVERE")
    return [_PLACE_IN_FILE.sub("", text, count=1) for text in found]
