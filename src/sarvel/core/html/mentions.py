"""Mentions: places other than an img, a source or a style that name one image.

| use | place |
| --- | --- |
| link | `a` and `area` that lead to an image |
| share | `og:image`, `twitter:image`, `itemprop="image"`, `rel="image_src"`, `image` in JSON-LD |
| single | `poster` of a video, `input type="image"`, `object`, `image` in an SVG |
| icon | `rel="icon"`, `rel="apple-touch-icon"`, icons of a web app manifest |
| style | `list-style-image`, `border-image`, `mask-image` and the like in styles: `pages.restore.style_urls` |

Open Graph protocol, "Structured Properties": `og:image:width` and the like describe the image before them.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal, TypeAlias

from sarvel.core.html.dialect import Dialect
from sarvel.core.html.json_values import JsonValue, Path, json_values
from sarvel.core.html.markdown_links import MarkdownLink, bare, markdown_links
from sarvel.core.html.tags import Tag, Wanted

Use: TypeAlias = Literal["picture", "background", "link", "share", "single", "icon", "style"]
"""Purpose of an image: an img, a background, or one of the uses above."""

Part: TypeAlias = Literal["", "width", "height", "alt", "type"]

_ATTRIBUTES: dict[str, tuple[str, ...]] = {
    "a": ("href",),
    "area": ("href",),
    "link": ("href",),
    "meta": ("content",),
    "video": ("poster",),
    "input": ("src",),
    "object": ("data",),
    "image": ("href", "xlink:href", "xlinkhref"),  # SVG 2, section 9.5; the last as scripts spell it
}

PICTURES = re.compile(r"\.(?:jpe?g|png|webp|avif|gif|jxl|tiff?|bmp|svg|ico)(?:[?#].*)?$", re.IGNORECASE)
"""Addresses that end as those of images do."""

SHOWING_ONE = re.compile(
    r"(?:list-style(?:-image)?|border-image(?:-source)?|(?:-webkit-)?mask(?:-image|-border(?:-source)?|-box-image)?|content|shape-outside)\Z",
    re.IGNORECASE,
)
"""Properties that show one file: CSS Lists 3, Backgrounds 3, Masking 1, Content 3, Shapes 1."""

_MAY_LINK = re.compile(r"\]\(\s*<?[^()<>\r\n]*\.(?:jpe?g|png|webp|avif|gif|jxl|tiff?|bmp|svg)\b", re.IGNORECASE)
_ENDING = re.compile(r"\.(?:jpe?g|png|webp|avif|gif|jxl|tiff?|bmp|svg|ico)\b", re.IGNORECASE)
_NAMING_ONE = re.compile(r"\b(?:(href)|content)\s*=", re.IGNORECASE)
_SHOWN = re.compile(r"<(video|input|object|image)\b", re.IGNORECASE)
_NAMING = re.compile(r"-sarvel\b", re.IGNORECASE)  # begins with a letter of no case, and so is quick to find
_MENTIONING = re.compile(r"<(a|area|meta|link)\b[^>]*\sdata\Z", re.IGNORECASE)
_LINK = re.compile(r"<link\b", re.IGNORECASE)
_LONGEST = 2000  # letters of a tag, before the attribute that names an image
_SHARED = ("og:image", "og:image:url", "og:image:secure_url", "twitter:image", "twitter:image:src")
_PARTS: dict[str, Part] = {
    **{f"og:image:{part}": part for part in ("width", "height", "alt", "type")},
    "twitter:image:alt": "alt",
}
_ICONS = frozenset({"icon", "apple-touch-icon", "apple-touch-icon-precomposed"})
_LINKED_DATA = "application/ld+json"
_SCRIPT_END = re.compile(r"</script", re.IGNORECASE)
_OF_DATA = ("image", "thumbnailUrl")  # names of schema.org; a logo is not among them, because it must not be cropped


@dataclass(frozen=True)
class Mention:
    """One place.

    Attributes:
        url: the address, character references and escapes resolved; of a part, its value.
        start: offset of the attribute, or of the JSON string.
        name: of the attribute, as written; "" in JSON.
        part: the property of an image for sharing; "" for its address.
        path: where it is in its JSON.
    """

    use: Use
    url: str
    start: int
    end: int
    name: str = ""
    part: Part = ""
    path: Path = ()


def mentions_in(text: str, dialect: Dialect) -> list[Mention]:
    """The mentions of a page, as it stands, in order."""
    if dialect.name == "json":
        return list(mentions_in_manifest(text))
    found = [
        Mention("link", bare(link.address), link.start, link.start + len(link.address))
        for link in links_of_markdown(text, dialect)
    ]
    wanted = elements_in(text)
    if not wanted:
        return found
    for tag in dialect.tags(text, Wanted(wanted)):
        if tag.closing or tag.name not in wanted:
            continue
        if is_linked_data(tag):
            found += mentions_in_data(*content_of(text, tag))
        elif one := mention_of(tag):
            found.append(one)
    return sorted(found, key=lambda one: one.start)


def links_of_markdown(text: str, dialect: Dialect) -> list[MarkdownLink]:
    """The links of Markdown whose address, or whose author's address, ends as those of images do."""
    if dialect.name != "markdown" or not _MAY_LINK.search(text):
        return []
    links = markdown_links(text)
    return [
        link for link in links if PICTURES.search(bare(link.author or link.address)) and "data:" not in link.address
    ]


def elements_in(text: str) -> frozenset[str]:
    """The elements of a page that may mention an image: most pages have few, and need no closer look at others."""
    found = {element.group(1).lower() for element in _SHOWN.finditer(text)}
    for start, end in _stretches(text):
        for name in _NAMING_ONE.finditer(text, start, end):
            before = text.rfind("<", max(start, name.start() - _LONGEST), name.start())
            is_link = before >= 0 and _LINK.match(text, before)
            found |= {"meta"} if not name[1] else {"link"} if is_link else {"link", "a", "area"}
    for slot in _NAMING.finditer(text):
        before = text.rfind("<", max(0, slot.start() - _LONGEST), slot.start())
        element = _MENTIONING.match(text, before, slot.start()) if before >= 0 else None
        found |= {element[1].lower()} if element else set()
    return frozenset(found | ({"script"} if _LINKED_DATA in text else set()))


def _stretches(text: str) -> Iterator[tuple[int, int]]:
    """The stretches of a page from the end of a tag to the last name of an image before the next: one tag may be in each."""
    start = end = 0
    for ending in _ENDING.finditer(text):
        behind = text.rfind(">", end, ending.start()) + 1
        if behind and end:
            yield start, end
        start, end = behind or start, ending.start()
    if end:
        yield start, end


def mention_of(tag: Tag) -> Mention | None:
    """The mention in a start tag, if there is one."""
    names = _ATTRIBUTES.get(tag.name, ())
    found = next((one for name in names if (one := tag.get(name))), None)
    if found is None:
        return None
    use, part = _use_of(tag)
    url = found.value.strip()
    is_named = bool(part) or not (not url or url.startswith(("data:", "blob:", "#")))
    return Mention(use, url, found.start, found.end, found.name, part) if use and is_named else None


def _use_of(tag: Tag) -> tuple[Use | None, Part]:
    """The use and the part of an element's mention; None for the use if it mentions no image."""
    values = tag.values()
    rels, type_ = frozenset(values.get("rel", "").lower().split()), values.get("type", "").strip().lower()
    use: Use | None = "single" if tag.name in ("video", "image") else None
    part: Part = ""
    if tag.name == "meta":
        said = (values.get("property") or values.get("name") or "").strip().lower()
        part = _PARTS.get(said, "")
        use = "share" if part or said in _SHARED or values.get("itemprop") == "image" else None
    elif values.get("itemprop") == "image" or "image_src" in rels:
        use = "share"
    elif tag.name == "link" and rels & _ICONS:
        use = "icon"
    elif tag.name in ("a", "area") and PICTURES.search(values.get("href", "")):
        use = "link"
    elif (tag.name == "input" and type_ == "image") or (tag.name == "object" and _shows_image(type_, values["data"])):
        use = "single"
    return use, part


def _shows_image(type_: str, address: str) -> bool:
    return type_.startswith("image/") or bool(PICTURES.search(address))


def is_linked_data(tag: Tag) -> bool:
    """Tells whether a start tag is that of a script of JSON-LD."""
    return tag.name == "script" and (tag.values().get("type") or "").strip().lower() == _LINKED_DATA


def content_of(text: str, script: Tag) -> tuple[str, int]:
    """The text in a script, and where it begins; up to the end of the page if it is not closed."""
    end = _SCRIPT_END.search(text, script.end)
    return text[script.end : end.start() if end else len(text)], script.end


def mentions_in_data(text: str, start: int = 0) -> Iterator[Mention]:
    """The mentions in JSON-LD: images as an address, or as an object with an address and a size.

    Args:
        start: where the text begins in its page.
    """
    values = list(json_values(text))
    objects = {
        one.path for one in values if one.path and one.path[-1] in ("url", "contentUrl") and _is_image(one, values)
    }
    for one in values:
        names = [key for key in one.path if isinstance(key, str)]
        is_object = len(one.path) > 1 and any(path[:-1] == one.path[:-1] for path in objects)
        if one.path in objects or (isinstance(one.value, str) and names and names[-1] in _OF_DATA):
            yield Mention("share", one.value, start + one.start, start + one.end, path=one.path)
        elif is_object and names[-1] in ("width", "height") and isinstance(one.value, int | str):
            part: Part = "width" if names[-1] == "width" else "height"
            yield Mention("share", str(one.value), start + one.start, start + one.end, "", part, one.path)


def _is_image(address: JsonValue, values: list[JsonValue]) -> bool:
    """Tells whether an address is that of an image object: by the name that leads to it, or by its type."""
    around = address.path[:-1]
    names = [key for key in around if isinstance(key, str)]
    types = [one.value for one in values if one.path == (*around, "@type")]
    named = bool(names) and names[-1] in _OF_DATA and address.path[-1] == "url"
    return isinstance(address.value, str) and (named or ("ImageObject" in types and names[-1:] != ["logo"]))


def mentions_in_manifest(text: str) -> Iterator[Mention]:
    """The icons of a web app manifest (W3C, section "icons member")."""
    for one in json_values(text):
        match one.path:
            case ("icons", int(), "src") if isinstance(one.value, str) and one.value:
                yield Mention("icon", one.value, one.start, one.end, path=one.path)
