"""The shape of sarvel.toml. The description of each key states the expected value: messages and the JSON Schema quote it.

Longer than other files, because it is one table: what a plan can say, each key once.
"""

from __future__ import annotations

import datetime
import re
from collections.abc import Mapping
from typing import Annotated, Any, Literal, get_args

from pydantic import (
    AfterValidator,
    BaseModel,
    BeforeValidator,
    ConfigDict,
    Discriminator,
    Field,
    Tag,
    ValidationError,
    WithJsonSchema,
)

from sarvel.core.css.device import DEVICE_FORM
from sarvel.core.html.markdown_call import CALL_FORM
from sarvel.core.html.mentions import Use
from sarvel.core.model import FINISHES, PATTERN, DialectName, Effort, FormatName

PositiveInt = Annotated[int, Field(ge=1, le=100_000)]
Density = Annotated[float, Field(gt=0, le=8)]

EVERY_BAND = ""
"""The key for a value that is the same for all bands; no key of TOML is written so by chance."""

BY_BAND, IN_ORDER = "by band", "in order"
"""The two forms of a value that may differ between devices. pydantic puts these names into the place of a fault."""


def _form(said: object) -> str:
    return IN_ORDER if isinstance(said, list | tuple) else BY_BAND


# One value for all, which becomes a table of one; or a table of values by band.
_ByBand = Annotated[
    dict[str, str],
    BeforeValidator(lambda said: {EVERY_BAND: said} if isinstance(said, str) else said),
    WithJsonSchema({"anyOf": [{"type": "string"}, {"type": "object", "additionalProperties": {"type": "string"}}]}),
    Tag(BY_BAND),
]


_PERCENT = r"^\s*\d{1,3}(\.\d+)?\s*%\s*$"
_FORMATS = 'a list of formats, best first, each once, of "jxl", "avif", "webp", "jpeg", "png"'
_DENSITIES = "a list of pixel densities such as [1, 2]"
_WIDTHS = (
    'a number of widths at most, from 1 to 20; or a share such as "8%": as few widths as keep the expected bytes too many '
    "below it; or a list of widths in pixels such as [480, 960, 1440]"
)
_SOFT = 'a share such as "5%": what visitors whom no table lists may lack of the pixels across'
_WIDEST = "a number of pixels from 1 to 16383"
_EFFORT = '"quick", "normal" or "thorough": how long encoders try'
_QUALITY = (
    '"light", "standard", "fine", a likeness from 80 to 99, or encoder numbers from 0 to 100 such as { avif = 50 }'
)
_GAMUT = '"srgb", or "wide" to keep the colors of masters that have more'
_METADATA = 'a list of what to keep of metadata: "credit", which is artist and copyright'
_INTERLACE = "true or false: whether PNG files show roughly before they are whole"
_NAME = (
    'a pattern for file names such as "{stem}@{density}x.{digest}.{ext}": it must hold {digest}, end with .{ext}, and may '
    "hold {stem}, {slot}, {crop}, {width}, {height} and, where the shown width is constant, {density}"
)
_CALL = (
    'how Markdown calls a partial, one tag of the engine such as \'{% include pictures/{partial} data-master="{src}" '
    'alt="{alt}" %}\'; {title} may be in it, too'
)
# Neither folders, nor what some system does not allow in a file name.
_NAME_FORM = r'^(?:[^{}/\\\x00-\x1f:*?"<>|]|\{(?:stem|slot|crop|width|height|density|digest)\})*\.\{ext\}$'
_WEIGHT_FORM = r"^\s*\d{1,9}(\.\d{1,9})?\s*(kB|MB|GB)\s*$"
_SLOT_FORM = r"^[\p{L}_](?:[\p{L}\p{N}_-]*)$"
_SLOT = "letters, digits, hyphens and underscores, the first a letter: it becomes a class, a folder and a part of file names"
_RESERVE = (
    '"ratio" (in a style, which harms no stylesheet that gives images no ratio), "size" (width and height, for stylesheets '
    'that say height: auto) or "none": how room is kept for an image until it has loaded'
)
_AUTO_SIZES = (
    "true or false: whether the stylesheet gives images a width, so that browsers may measure it (auto in sizes)"
)
_USE = (
    '"picture" (an img), "background" (with rules in pictures.css), "link" (an a that leads to an image), "share" (og:image '
    'and the like), "single" (a poster, an object, an image of a form or an SVG), "icon" or "style" (list-style-image and the '
    "like): what its images are for"
)
_LINKS = (
    'a width such as "1600px", or the name of a slot with use = "link": what a link around its images leads to, '
    "when that is a master"
)
_PLACEHOLDER = '"none", "tint", "soft", "outline", or a color such as "#c8d6df"'

ICON_WIDTHS = (32, 180, 192, 512)
"""The px across that icons are made at: a tab's on a dense screen; a phone's home screen's, for rel="apple-touch-icon"; and the
two that browsers install a web app with."""

# 16383 px is the most that a WebP file can be wide or high (RFC 9649, section 2.6); other formats allow more.
WIDEST = 16383


def _quality(said: object) -> object:
    """A word, a likeness, or encoder numbers of formats that have such."""
    if isinstance(said, dict):
        lossy = set(get_args(FormatName)) - {"png"}
        is_right = all(name in lossy and type(one) is int and 0 <= one <= 100 for name, one in said.items())
    elif isinstance(said, str):
        is_right = said in FINISHES
    else:
        is_right = type(said) in (int, float) and 80 <= said <= 99  # type: ignore[operator]
    if not is_right:
        raise ValueError
    return said


def _widths(said: object) -> object:
    """At most so many widths, the excess that as few as possible keep, or widths in pixels."""
    if isinstance(said, str):
        is_right = bool(re.match(_PERCENT, said))
    elif isinstance(said, list | tuple):
        is_right = bool(said) and all(type(one) is int and 1 <= one <= 100_000 for one in said)
    else:
        is_right = type(said) is int and 1 <= said <= 20
    if not is_right:
        raise ValueError
    return tuple(said) if isinstance(said, list) else said


def _named(said: str) -> str:
    """A pattern without a digest would give two contents one name; one with a point in front, a hidden file."""
    if "{digest}" not in said or said.startswith("."):
        raise ValueError
    return said


def _called(said: str) -> str:
    """A pattern from whose calls the author's image can be restored."""
    if not re.search(r'data[-_]master\s*[=:]\s*"\{src\}"', said) or not re.search(r'\balt\s*[=:]\s*"\{alt\}"', said):
        raise ValueError
    return said


Quality = Annotated[
    Any,
    BeforeValidator(_quality),
    WithJsonSchema(
        {
            "anyOf": [
                {"enum": list(FINISHES)},
                {"type": "number", "minimum": 80, "maximum": 99},
                {"type": "object", "additionalProperties": {"type": "integer", "minimum": 0, "maximum": 100}},
            ]
        }
    ),
]
WidthsRule = Annotated[
    Any,
    BeforeValidator(_widths),
    WithJsonSchema(
        {
            "anyOf": [
                {"type": "integer", "minimum": 1, "maximum": 20},
                {"type": "string", "pattern": _PERCENT},
                {"type": "array", "items": {"type": "integer", "minimum": 1, "maximum": 100_000}, "minItems": 1},
            ]
        }
    ),
]
_PLACEHOLDER_FORM = r"^(none|tint|soft|outline|#[0-9a-fA-F]{6})$"


class PlanTable(BaseModel):
    """The base of all tables of the plan: no key but those named, no value of another type."""

    model_config = ConfigDict(extra="forbid", strict=True, frozen=True, allow_inf_nan=False)


def _fractions(said: object, count: int) -> tuple[float, ...]:
    """A list of that many fractions."""
    if not isinstance(said, list | tuple) or len(said) != count:
        raise ValueError
    if not all(isinstance(one, int | float) and not isinstance(one, bool) and 0 <= one <= 1 for one in said):
        raise ValueError
    return tuple(float(one) for one in said)


def _box(said: object) -> tuple[float, ...]:
    """[left, top, right, bottom] with an area, in fractions."""
    left, top, right, bottom = box = _fractions(said, 4)
    if left >= right or top >= bottom:
        raise ValueError
    return box


def _subject(said: object) -> object:
    """A box or a point or several of them, as boxes; "find" unchanged."""
    if said is None or said == FIND:
        return said
    if not isinstance(said, list) or not said:
        raise ValueError
    several = said if all(isinstance(one, list) for one in said) else [said]
    return tuple(_box(one) if len(one) == 4 else _fractions(one, 2) * 2 for one in several)


FIND = "find"
"""The value of `subject` that asks for a search in the pixels."""

_SubjectAt = Annotated[
    tuple[float, ...] | None, BeforeValidator(lambda said: None if said is None else _fractions(said, 2))
]
_SUBJECT_AT = "a pair of fractions such as [0.3, 0.5]: where in the crop the subject's centre should be"
_ZOOM = "a number from 1 to 20; more comes closer to the subject"
_COLOR = r"^#[0-9a-fA-F]{6}$"


class LookKeys(PlanTable):
    """Keys of a single crop, or of all crops of a slot."""

    zoom: float | None = Field(default=None, ge=1, le=20, description=_ZOOM)
    subject_at: _SubjectAt = Field(default=None, description=_SUBJECT_AT)
    rotate: Literal["left", "right", "half"] | None = Field(default=None, description='"left", "right" or "half"')
    mirror: bool | None = Field(default=None, description="true or false")
    pad: str | None = Field(
        default=None, pattern=_COLOR, description='a color such as "#f4efe6" to add instead of cropping'
    )
    matte: str | None = Field(default=None, pattern=_COLOR, description='a color such as "#ffffff" below transparency')
    grey: bool | None = Field(default=None, description="true or false")


class ShownStep(PlanTable):
    """One of a list of shown widths."""

    from_: float = Field(alias="from", ge=0, le=100_000, description="the viewport width, CSS px, where it begins")
    width: str = Field(description='a CSS length such as "50vw"')


class CropStep(LookKeys):
    """One of a list of crops, in the order tried."""

    when: str | None = Field(default=None, description='a media condition such as "(orientation: portrait)"')
    ratio: str = Field(description='a ratio such as "4:3", or "native"')


class SiteTable(PlanTable):
    """[site]: where things are, seen from the plan's folder."""

    masters: str = Field(
        default="masters",
        min_length=1,
        description='the folder of master images, or the URL of one in object storage, such as "s3://bucket/masters"',
    )
    masters_kept: str = Field(
        default="4 GB",
        pattern=_WEIGHT_FORM,
        description='how much of the masters in object storage to keep here, such as "4 GB"',
    )
    pages: tuple[str, ...] = Field(
        default=("pages",), strict=False, description='a list of folders, files or globs, such as ["pages"]'
    )
    output: str = Field(
        default="public/pictures",
        min_length=1,
        description='the folder for made files, or the URL of one in object storage, such as "s3://bucket/pictures"',
    )
    address: str | None = Field(
        default=None,
        description='how all pages reach that folder, a URL prefix such as "/pictures"; or a pattern such as '
        '"https://pictures.example/{master}?width={width}" of addresses of a service elsewhere; without it, each page in its '
        "own way",
    )
    delivery: Literal["files", "request"] = Field(
        default="files",
        description='"files" (all are made beforehand) or "request" (each is made by sarvel serve when first asked for)',
    )
    formats_by: Literal["markup", "accept"] = Field(
        default="markup",
        description='"markup" (a source for each format) or "accept" (one address, and the server chooses the format '
        "that the browser accepts)",
    )
    root: str | None = Field(default=None, min_length=1, description='the folder that is served as /, such as "public"')
    url: str | None = Field(
        default=None,
        pattern=r"^https?://[^/?#\s]+/?$",
        description='the address that the site is published at, such as "https://site.example": images for sharing need it',
    )
    base: str = Field(
        default="",
        pattern=r"^(?:/[^?#\s]*)?$",
        description='the path that the site is published below, such as "/blog/"',
    )
    woven: str | None = Field(default=None, min_length=1, description="the folder that woven pages go to")
    alt: Literal["ask", "leave"] = Field(
        default="ask",
        description='"ask" or "leave": what becomes of images without words, whether they are woven all the same',
    )
    outside: tuple[str, ...] = Field(
        default=(),
        strict=False,
        description='a list of folders outside of the plan\'s own that may be written to, such as ["../www"]',
    )
    placeholders: Literal["inline", "stylesheet"] = Field(
        default="inline", description='"inline" (a style attribute) or "stylesheet" (rules in pictures.css)'
    )
    dialects: dict[str, DialectName] = Field(
        default={},
        description='a table of dialects by file ending, such as { ".tpl" = "html" }; dialects are '
        + ", ".join(f'"{name}"' for name in get_args(DialectName)),
    )
    manifest: str | None = Field(default=None, min_length=1, description="the file that tells programs all pictures")
    component: str | None = Field(
        default=None,
        pattern=r"(^|/)SarvelPicture\.[jt]sx$",
        description='the file of the component that woven scripts call, such as "src/SarvelPicture.jsx" or .tsx',
    )
    reads: dict[FormatName, Annotated[float, Field(ge=0, le=1)]] = Field(
        default={}, description="a table of the share of visits that read a format, such as { avif = 0.9 }"
    )
    audience: str | None = Field(
        default=None, min_length=1, description="a CSV file of viewports, densities and shares"
    )
    subjects: str | None = Field(
        default=None,
        min_length=1,
        description="a CSV or JSON file of subjects: file, left, top, right, bottom, or file, x, y; and if wanted sure",
    )


class PartialsTable(PlanTable):
    """[partials]: markup for where only the template engine knows the file."""

    folder: str = Field(min_length=1, description="the folder for partials, a file for each slot and master")
    ending: str = Field(default=".html", pattern=r"^\.\w[\w.]*$", description='a file ending such as ".html"')
    alt: str = Field(
        default="{{ alt }}", min_length=1, description='what the engine writes the alt by, such as "{{ alt }}"'
    )
    macro: str | None = Field(
        default=None, min_length=1, description="a file for one macro that looks all pictures up by slot and master"
    )
    call: Annotated[str, AfterValidator(_called)] | None = Field(default=None, pattern=CALL_FORM, description=_CALL)


class CheckTable(PlanTable):
    """[check]: settings of `sarvel check`."""

    allow: dict[str, str | Annotated[tuple[str, ...], Field(strict=False)]] = Field(
        default={},
        description='a table of pages by rule, such as { "no-modern-format" = "old/*.html" }; "*" is every page',
    )
    budget: dict[Annotated[str, Field(pattern=DEVICE_FORM)], Annotated[str, Field(pattern=_WEIGHT_FORM)]] = Field(
        default={},
        description='a table of what images of a page may weigh by device, such as { "360x740@3" = "350 kB" }',
    )
    too_wide: float = Field(
        default=2.0,
        gt=1,
        description="a number above 1: how many times the pixels across that a device needs are a waste",
    )


class MakingKeys(PlanTable):
    """Keys about the files of a slot's images: in [defaults] for all slots, in [slots.NAME] for one."""

    formats: tuple[FormatName, ...] = Field(
        default=("avif", "webp", "jpeg"), min_length=1, strict=False, description=_FORMATS
    )
    effort: Effort = Field(default="normal", description=_EFFORT)
    quality: Quality = Field(default="standard", description=_QUALITY)
    gamut: Literal["srgb", "wide"] = Field(default="srgb", description=_GAMUT)
    metadata: tuple[Literal["credit"], ...] = Field(default=(), strict=False, description=_METADATA)
    interlace: bool = Field(default=False, description=_INTERLACE)
    placeholder: str = Field(default="none", pattern=_PLACEHOLDER_FORM, description=_PLACEHOLDER)
    reserve: Literal["ratio", "size", "none"] | None = Field(default=None, description=_RESERVE)
    auto_sizes: bool = Field(default=False, description=_AUTO_SIZES)
    densities: tuple[Density, ...] = Field(default=(1, 2), min_length=1, strict=False, description=_DENSITIES)
    widths: WidthsRule = Field(default=5, description=_WIDTHS)
    soft: str = Field(default="5%", pattern=_PERCENT, description=_SOFT)
    widest: int = Field(default=2560, ge=1, le=WIDEST, description=_WIDEST)
    name: Annotated[str, AfterValidator(_named)] = Field(default=PATTERN, pattern=_NAME_FORM, description=_NAME)


class DefaultsTable(MakingKeys):
    """[defaults]: what a slot takes when it says nothing."""


_BY_USE: Mapping[str, Mapping[str, object]] = {
    "link": {"densities": [1], "widths": 1, "formats": ["jpeg"], "placeholder": "none"},
    "share": {
        "sizes": "1200px",
        "crops": "1200:630",
        "densities": [1],
        "widths": 1,
        "formats": ["jpeg"],
        "placeholder": "none",
    },
    "single": {"densities": [2], "widths": 1, "formats": ["jpeg"], "placeholder": "none"},
    "style": {"densities": [2], "widths": 1, "formats": ["png"], "placeholder": "none"},
    "icon": {
        "sizes": "32px",
        "crops": "1:1",
        "densities": [1],
        "widths": list(ICON_WIDTHS),
        "formats": ["png"],
        "placeholder": "none",
    },
}
"""What slots of some uses take when they say nothing, before [defaults]: a place that names one file has no choice of files. All
browsers and crawlers read JPEG and PNG. 1200 x 630 px is what readers of the Open Graph protocol show whole."""


def is_width(links: str) -> bool:
    """Tells whether `links` gives a width, for which a slot is made, and no name."""
    return links.lstrip()[:1].isdigit()


def _has_own_link(slot: object) -> bool:
    return isinstance(slot, Mapping) and isinstance(slot.get("links"), str) and is_width(slot["links"])


def with_defaults(content: Mapping[str, object]) -> dict[str, object]:
    """A plan's tables with what its use and [defaults] say put into every slot that does not state it, where both are tables."""
    defaults, slots = content.get("defaults", {}), content.get("slots")
    if not isinstance(defaults, Mapping) or not isinstance(slots, Mapping):
        return dict(content)
    try:
        DefaultsTable.model_validate(defaults)
    except ValidationError:  # told of once, where it stands
        defaults = {}
    links = {f"{name}-link": slot["links"] for name, slot in slots.items() if _has_own_link(slot)}
    slots = {**slots, **{name: {"use": "link", "sizes": links[name]} for name in links if name not in slots}}
    filled = {
        name: {**defaults, **_BY_USE.get(str(slot.get("use")), {}), **slot} if isinstance(slot, Mapping) else slot
        for name, slot in slots.items()
    }
    return {**content, "slots": filled}


class MeasurementTable(PlanTable):
    """[slots.NAME.measured]: what `sarvel measure --save` keeps of a measurement."""

    on: datetime.date = Field(description="the day, such as 2026-05-17")
    pages: dict[str, str] = Field(description='pages and their states, such as { "index.html" = "5d41402a" }')


def _sizes_by_use(said: dict[str, Any]) -> None:
    """Requires `sizes` in the JSON Schema, but for uses that have a default."""
    said["required"].remove("sizes")
    uses = [use for use, keys in _BY_USE.items() if "sizes" in keys]
    said["anyOf"] = [{"required": ["sizes"]}, {"required": ["use"], "properties": {"use": {"enum": uses}}}]


class SlotTable(LookKeys, MakingKeys):
    """[slots.NAME]: a place in the page where images are shown."""

    model_config = ConfigDict(json_schema_extra=_sizes_by_use)

    sizes: Annotated[
        _ByBand | Annotated[tuple[ShownStep, ...], Field(strict=False), Tag(IN_ORDER)], Discriminator(_form)
    ] = Field(
        description='a CSS length such as "100vw", a whole sizes value, or a length for each breakpoint such as '
        '{ phone = "100vw", desktop = "384px" }',
    )
    crops: Annotated[
        _ByBand | Annotated[tuple[CropStep, ...], Field(strict=False), Tag(IN_ORDER)], Discriminator(_form)
    ] = Field(
        default={EVERY_BAND: "native"},
        description='a ratio such as "4:3", "native", or one for each breakpoint such as { phone = "4:5", desktop = "21:9" }',
    )
    masters: tuple[str, ...] = Field(
        default=(),
        strict=False,
        description='a list of globs below the masters folder, such as ["posts/*.jpg"], that are made though no page '
        "names them",
    )
    use: Use = Field(default="picture", description=_USE)
    selectors: tuple[str, ...] = Field(
        default=(),
        strict=False,
        description='a list of selectors of an img such as [".wide", "[width=\'300\']"]: images that name no slot and are for '
        "this one",
    )
    links: str | None = Field(default=None, min_length=1, description=_LINKS)
    loading: Literal["eager", "lazy"] | None = Field(default=None, description='"eager" (seen at once) or "lazy"')
    measured: MeasurementTable | None = Field(
        default=None, description="{ on = 2026-05-17, pages = { … } }, as sarvel measure --save writes it"
    )


class MasterCropTable(PlanTable):
    """[masters."FILE".crops.SLOT.CROP]: what one master says of one crop."""

    box: Annotated[tuple[float, ...] | None, BeforeValidator(lambda said: None if said is None else _box(said))] = (
        Field(default=None, description="a crop by hand, [left, top, right, bottom] in fractions from 0 to 1")
    )
    from_: str | None = Field(
        default=None, alias="from", min_length=1, description="another master to show in this crop"
    )
    ratio: str | None = Field(default=None, description='a ratio such as "4:3", or "native"')
    zoom: float | None = Field(default=None, ge=1, le=20, description=_ZOOM)
    subject_at: _SubjectAt = Field(default=None, description=_SUBJECT_AT)


class MasterTable(PlanTable):
    """[masters."FILE"]: what the plan says of one master."""

    alt: str | None = Field(default=None, description='what the picture shows, in words; "" if it is decoration')
    subject: Annotated[Any, BeforeValidator(_subject)] = Field(
        default=None,
        description="[left, top, right, bottom] in fractions from 0 to 1, left < right, top < bottom; or a point [x, y]; "
        'or a list of these; or "find"',
    )
    kind: Literal["graphic", "photo"] | None = Field(
        default=None, description='"graphic" (flat colors and lines) or "photo"'
    )
    crops: dict[str, dict[str, MasterCropTable]] = Field(
        default={}, description="tables such as [masters.FILE.crops.banner.phone]"
    )


KEY_FORMS = {
    "slots": _SLOT,
    "check": "a viewport such as 360x740@3",
}
"""The form of keys that the user chooses, by their table."""


_DataPath = Annotated[str, Field(pattern=r"^[^.\[\]]+(\[\])*(\.[^.\[\]]+(\[\])*)*$")]


class PlanFile(PlanTable):
    """sarvel.toml as a whole."""

    site: SiteTable = Field(default=SiteTable(), description="the table [site]")
    breakpoints: dict[str, Annotated[float, Field(ge=0, le=100_000, allow_inf_nan=False)]] = Field(
        default={"all": 0},
        min_length=1,
        description="where each breakpoint begins, from 0 to 100000 CSS px, such as phone = 0",
    )
    defaults: DefaultsTable = Field(default=DefaultsTable(), description="the table [defaults]")
    slots: dict[Annotated[str, Field(pattern=_SLOT_FORM, description=_SLOT)], SlotTable] = Field(
        min_length=1, description='at least one table such as [slots.card] with sizes = "100vw"'
    )
    content: dict[str, str] = Field(
        default={}, description='a table of slots by folder or glob of pages, such as "posts" = "card"'
    )
    data: dict[str, dict[str, _DataPath | Annotated[tuple[_DataPath, ...], Field(strict=False)]]] = Field(
        default={},
        description="a table of paths of values by slot, by the glob of files whose values name images, such as "
        '"content/*.md" = { hero = "image", card = "gallery[].src" }',
    )
    partials: PartialsTable | None = Field(default=None, description="the table [partials]")
    check: CheckTable = Field(default=CheckTable(), description="the table [check]")
    masters: dict[str, MasterTable] = Field(default={}, description='tables such as [masters."boat.jpg"]')
