"""The shape of sarvel.toml. Every key says in its description what it wants: messages and the JSON Schema quote it."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field, WithJsonSchema

FormatName = Literal["avif", "webp", "jpeg", "png"]
Fraction = Annotated[float, Field(ge=0, le=1)]
PositiveInt = Annotated[int, Field(ge=1)]
Density = Annotated[float, Field(gt=0, le=8)]

EVERY_BAND = ""
"""The name under which a value stands that is one and the same for every band: no key of TOML is written so by chance."""

# What may be one value or a table of them is always a table once read, so that faults have one place in the plan.
ByBand = Annotated[
    dict[str, str],
    BeforeValidator(lambda said: {EVERY_BAND: said} if isinstance(said, str) else said),
    WithJsonSchema({"anyOf": [{"type": "string"}, {"type": "object", "additionalProperties": {"type": "string"}}]}),
]

_FORMATS = 'a list of formats, best first, each once, of "avif", "webp", "jpeg", "png"'
_DENSITIES = "a list of pixel densities such as [1, 2]"
_RUNGS = "a whole number from 1 to 20"
_WIDEST = "a number of pixels from 1 to 16383"
_FINISH = '"light", "standard" or "fine"'

# 16383 px is the most that a WebP file can be wide or high (RFC 9649, section 2.6); other formats allow more.
WIDEST = 16383


class Shape(BaseModel):
    """What all tables of the plan have in common: no key but those named, nothing taken for something else."""

    model_config = ConfigDict(extra="forbid", strict=True, frozen=True)


class Site(Shape):
    """[site]: where things are, seen from the plan's folder."""

    masters: str = Field(default="masters", min_length=1, description="the folder of master images")
    pages: tuple[str, ...] = Field(
        default=("pages",), strict=False, description='a list of folders, files or globs, such as ["pages"]'
    )
    output: str = Field(default="public/pictures", min_length=1, description="the folder for renditions")
    address: str = Field(
        default="/pictures", description='how pages reach that folder, a URL prefix such as "/pictures"'
    )
    woven: str | None = Field(default=None, min_length=1, description="the folder that woven pages go to")


class Defaults(Shape):
    """[defaults]: what a slot takes when it says nothing."""

    formats: tuple[FormatName, ...] = Field(
        default=("avif", "webp", "jpeg"), min_length=1, strict=False, description=_FORMATS
    )
    finish: Literal["light", "standard", "fine"] = Field(default="standard", description=_FINISH)
    densities: tuple[Density, ...] = Field(default=(1, 2), min_length=1, strict=False, description=_DENSITIES)
    rungs: int = Field(default=5, ge=1, le=20, description=_RUNGS)
    widest: int = Field(default=2560, ge=1, le=WIDEST, description=_WIDEST)


class Slot(Shape):
    """[slots.NAME]: a place in the page where images are shown."""

    shown: ByBand = Field(
        description='a CSS length such as "100vw", or one for each band such as { hand = "100vw", desk = "384px" }'
    )
    cuts: ByBand = Field(
        default={EVERY_BAND: "native"},
        description='a ratio such as "4:3", "native", or one for each band such as { hand = "4:5", desk = "21:9" }',
    )
    load: Literal["first", "later"] = Field(default="later", description='"first" (seen at once) or "later"')
    formats: tuple[FormatName, ...] | None = Field(default=None, min_length=1, strict=False, description=_FORMATS)
    finish: Literal["light", "standard", "fine"] | None = Field(default=None, description=_FINISH)
    densities: tuple[Density, ...] | None = Field(default=None, min_length=1, strict=False, description=_DENSITIES)
    rungs: int | None = Field(default=None, ge=1, le=20, description=_RUNGS)
    widths: tuple[PositiveInt, ...] | None = Field(
        default=None, min_length=1, strict=False, description="a list of widths in pixels such as [480, 960, 1440]"
    )
    widest: int | None = Field(default=None, ge=1, le=WIDEST, description=_WIDEST)


class Master(Shape):
    """[masters."FILE"]: what the plan says of one master."""

    alt: str | None = Field(default=None, description='what the picture shows, in words; "" if it is decoration')
    subject: tuple[Fraction, Fraction, Fraction, Fraction] | None = Field(
        default=None, strict=False, description="[left, top, right, bottom] in fractions from 0 to 1"
    )


class PlanFile(Shape):
    """sarvel.toml as a whole."""

    site: Site = Field(default=Site(), description="the table [site]")
    breakpoints: dict[str, Annotated[float, Field(ge=0)]] = Field(
        default={"all": 0}, min_length=1, description="where each band begins, CSS px, such as hand = 0"
    )
    defaults: Defaults = Field(default=Defaults(), description="the table [defaults]")
    slots: dict[str, Slot] = Field(
        min_length=1, description='at least one table such as [slots.card] with shown = "100vw"'
    )
    masters: dict[str, Master] = Field(default={}, description='tables such as [masters."boat.jpg"]')
