"""The devices that a site is visited with, and the share of visits of each."""

from __future__ import annotations

from dataclasses import dataclass

from sarvel.core.css.device import Device


@dataclass(frozen=True)
class Visits:
    """One kind of device.

    Attributes:
        device: its viewport and density.
        share: its share of visits, > 0; the shares of an audience need not add up to anything.
        label: what it is called in tables.
    """

    device: Device
    share: float
    label: str


# No measurement of anybody's visitors: our own assumption of a site read as much on phones as on desks. Viewports are the
# round sizes that the layouts of CSS are commonly tried at, from the narrowest phone still in use to a large desktop, with
# the densities that screens of that class have; shares fall off from the middle of each class. To be replaced by the
# site's own numbers as soon as there are any.
BUILT_IN: tuple[Visits, ...] = (
    Visits(Device(320, 568, 2), 2, "narrowest phone"),
    Visits(Device(360, 740, 3), 14, "narrow phone"),
    Visits(Device(360, 800, 2), 6, "narrow phone"),
    Visits(Device(390, 844, 3), 15, "phone"),
    Visits(Device(412, 915, 2.625), 10, "phone"),
    Visits(Device(430, 932, 3), 6, "wide phone"),
    Visits(Device(768, 1024, 2), 3, "upright tablet"),
    Visits(Device(820, 1180, 2), 3, "upright tablet"),
    Visits(Device(1024, 768, 2), 2, "tablet on its side"),
    Visits(Device(1180, 820, 2), 2, "tablet on its side"),
    Visits(Device(1280, 720, 1.5), 4, "small laptop"),
    Visits(Device(1366, 768, 1), 7, "small laptop"),
    Visits(Device(1440, 900, 1), 4, "laptop"),
    Visits(Device(1440, 900, 2), 8, "laptop"),
    Visits(Device(1536, 864, 1.25), 5, "laptop"),
    Visits(Device(1920, 1080, 1), 6, "desktop"),
    Visits(Device(1920, 1080, 2), 1, "desktop"),
    Visits(Device(2560, 1440, 1), 2, "wide desktop"),
)
