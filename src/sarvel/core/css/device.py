"""The device that a length or a media condition is asked about."""

from __future__ import annotations

import re
from dataclasses import dataclass, field
from typing import Literal, TypeAlias

Scheme: TypeAlias = Literal["light", "dark"]
Pointer: TypeAlias = Literal["none", "coarse", "fine"]

# What today's browsers decode without help; formats of other media types are passed over.
COMMON_FORMATS = frozenset(
    f"image/{name}"
    for name in (
        "avif",
        "webp",
        "jxl",
        "jpeg",
        "jpg",
        "png",
        "apng",
        "gif",
        "svg+xml",
        "bmp",
        "x-icon",
        "vnd.microsoft.icon",
    )
)


DEVICE_FORM = r"^[1-9]\d{0,4}(\.\d{1,3})?x[1-9]\d{0,4}(\.\d{1,3})?(@(0\.\d{0,8}[1-9]|[1-9]\d?(\.\d{1,9})?))?$"
"""The form of devices in commands, plans and messages: `390x844@3`; without a density it is 1."""


@dataclass(frozen=True)
class Device:
    """A viewport, its pixel density, and other features that media conditions ask for.

    Attributes:
        width: viewport width, CSS px, > 0.
        height: viewport height, CSS px, > 0.
        dpr: device pixels for each CSS px, > 0.
        font: initial font size, CSS px: what `em` and `rem` mean in `sizes` and in media conditions.
        formats: media types of the images that it decodes.
        hover: whether its main pointing device can hover.
        pointer: how exact its main pointing device is.
        reduced_data: whether its user asks for less data; None where the browser does not know the question.
    """

    width: float
    height: float
    dpr: float = 1.0
    font: float = field(default=16.0, kw_only=True)
    formats: frozenset[str] = field(default=COMMON_FORMATS, kw_only=True)
    color_scheme: Scheme = field(default="light", kw_only=True)
    hover: bool = field(default=False, kw_only=True)
    pointer: Pointer = field(default="coarse", kw_only=True)
    reduced_data: bool | None = field(default=None, kw_only=True)

    def __str__(self) -> str:
        """The device as DEVICE_FORM has it."""
        return f"{self.width:g}x{self.height:g}@{self.dpr:g}"


def parse_device(text: str) -> Device:
    """Reads a device.

    Raises:
        ValueError: the text is not of DEVICE_FORM.
    """
    if not re.match(DEVICE_FORM, text, re.ASCII):
        raise ValueError(text)
    size, _, density = text.partition("@")
    width, height = (float(number) for number in size.split("x"))
    return Device(width, height, float(density or 1))
