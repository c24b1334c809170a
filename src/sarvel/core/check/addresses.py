"""Rules for the files that a page names."""

from __future__ import annotations

from collections.abc import Iterator

from sarvel.core.check.candidates import torn_by_comma
from sarvel.core.check.context import FileLookup, LinkedFile
from sarvel.core.check.rule import Finding
from sarvel.core.check.srcset_slips import srcset_slips
from sarvel.core.check.values import type_of
from sarvel.core.css.device import COMMON_FORMATS
from sarvel.core.html.document import Document, Image, span_of, value_of
from sarvel.core.html.pieces import Edit, piece_edit, piece_span, written
from sarvel.core.html.srcset import Candidate, parse_srcset
from sarvel.core.html.tags import Tag

_ALIKE = 0.02  # ratios that differ by less are one shape: a pixel of rounding on a narrow file
_HUGE = 2.5  # times as many px across as its attribute says CSS px: beyond what any common screen shows
_ICON = 400  # px; a file of at most this width costs no one much, however small it is shown
_HUGE_WIDTH = 2000  # px; one file as wide as this for every device


_ENDINGS = {
    **{name: f"image/{name}" for name in ("avif", "webp", "jpeg", "png", "gif", "jxl")},
    "jpg": "image/jpeg",
}


def check_files(page: Document, lookup: FileLookup) -> Iterator[Finding]:
    """Findings that depend on files."""
    for image in page.images:
        for tag in image.tags:
            srcset = value_of(tag, "srcset") or ""
            candidates = parse_srcset(srcset)
            if torn_by_comma(candidates, lookup) or srcset_slips(srcset, lookup):
                candidates = []  # faults of the list are reported elsewhere
            yield from _there(page.text, tag, candidates, lookup)
            yield from _as_said(page.text, tag, candidates, lookup)
        yield from _shape(image, lookup)


def type_by_name(url: str) -> str:
    """The media type for the ending of an address; "" for unknown endings."""
    return _ENDINGS.get(url.split("?", 1)[0].rsplit(".", 1)[-1].lower(), "")


def type_told(url: str) -> str:
    """The media type that the name of a file elsewhere tells; "" with a query, in which a service is asked for another."""
    return "" if "?" in url else type_by_name(url)


def _there(text: str, tag: Tag, candidates: list[Candidate], lookup: FileLookup) -> Iterator[Finding]:
    told = set()
    for one in candidates:
        if one.url not in told:
            told.add(one.url)
            where = piece_span(text, tag, "srcset", one.start, one.start + len(one.url))
            found = list(of_address(one.url, lookup, where))
            yield from _joined(text, tag, one, lookup) or found
    src = value_of(tag, "src") if tag.name == "img" else None
    if src and src not in told:
        yield from of_address(src, lookup, span_of(tag, "src"))


def _joined(text: str, tag: Tag, one: Candidate, lookup: FileLookup) -> list[Finding]:
    """A finding if an address that is missing consists of others, with commas and no space between."""
    file, parts = lookup(one.url), one.url.split(",")
    if (
        file is None
        or not file.missing
        or len(parts) < 2
        or not all((part := lookup(url)) and not part.missing for url in parts)
    ):
        return []
    meant = ", ".join(parts)
    where = piece_span(text, tag, "srcset", one.start, one.start + len(one.url))
    edits = piece_edit(text, tag, "srcset", one.start, one.start + len(one.url), meant)
    says = "a comma without a space behind it belongs to the address"
    return [Finding("candidate-dropped", *where, says, f"Write {meant}", edits)]


def of_address(url: str, lookup: FileLookup, where: tuple[int, int]) -> Iterator[Finding]:
    """Findings about an address: whether its file is there, and is what its ending says."""
    file = lookup(url)
    if file is None:
        return
    folder = url[: url.rfind("/") + 1]
    if file.missing and file.base:
        words = f"the base of this page, {file.base}, leads {url} to a missing file; next to the page there is one"
        yield Finding("file-missing", *where, words, "Write the address as seen from the base, or take the base away")
    elif file.missing and file.near:
        words = f"there is no file {url}; {file.near} is there"
        yield Finding("ending-wrong", *where, words, f"Write {folder}{file.near}, if it is meant")
    elif file.missing:
        yield Finding("file-missing", *where, f"there is no file {url}")
    elif file.real_name:
        words = f"the file of {url} is called {file.real_name}"
        yield Finding("letter-case-differs", *where, words, f"Write {folder}{file.real_name}")
    elif file.type and type_by_name(url) not in ("", file.type):
        yield Finding("ending-not-the-files", *where, f"{url} is {file.type} by its content")


def _as_said(text: str, tag: Tag, candidates: list[Candidate], lookup: FileLookup) -> Iterator[Finding]:
    """Findings about widths, types and shapes of one list against its files."""
    files = [(one, file) for one in candidates if (file := lookup(one.url)) and file.width]
    endings = [(one, type_told(one.url)) for one in candidates if lookup(one.url) is None]
    type_ = type_of(tag)
    for one, file in files:
        if one.width is not None and one.width != file.width:
            words = f"{one.url} is {file.width} px wide, its descriptor says {one.width}w"
            start = one.end - len(f"{one.width}w") if len(one.descriptors) == 1 else one.start
            where = piece_span(text, tag, "srcset", start, one.end)
            sure = len(one.descriptors) == 1
            edits = piece_edit(text, tag, "srcset", start, one.end, f"{file.width}w") if sure else ()
            yield Finding("width-not-the-files", *where, words, f"Write {file.width}w", edits)
    others = [(one, file) for one, file in files if type_ in COMMON_FORMATS and file.type and type_ != file.type]
    if others:
        one, file = others[0]
        said = written("type", file.type)
        one_type = len({file.type for _, file in files}) == 1
        words = f"{one.url} is {file.type}, the source says {type_}"
        edits = (Edit(*span_of(tag, "type"), said),) if one_type and len(files) == len(candidates) else ()
        cure = f"Write {said}" if one_type else "Give the files of each type a source of their own"
        yield Finding("type-not-the-files", *span_of(tag, "type"), words, cure, edits)
    wrong = next(
        ((one, named) for one, named in endings if type_ in _ENDINGS.values() and named not in ("", type_)), None
    )
    if wrong:
        words = f"{wrong[0].url} is {wrong[1]} by its name, the source says {type_}"
        yield Finding("type-not-the-files", *span_of(tag, "type"), words)
    for one, file in files[1:]:
        if _differ(file, files[0][1]):
            words = f"{one.url} is {file.width}×{file.height}, another shape than {files[0][0].url}"
            yield Finding("shapes-differ", *span_of(tag, "srcset"), words)
            break


def _shape(image: Image, lookup: FileLookup) -> Iterator[Finding]:
    tag = image.tag
    width, height = ((value_of(tag, name) or "").strip() for name in ("width", "height"))
    file = lookup(value_of(tag, "src") or "")
    if not file or not file.width:
        return
    said_ = LinkedFile(int(width), int(height)) if width.isdecimal() and height.isdecimal() else LinkedFile()
    if said_.width and said_.height and _differ(said_, file):
        words = f"width and height say {width}×{height}, the file is {file.width}×{file.height}"
        yield Finding("size-of-another-shape", *span_of(tag, "width"), words)
    several = image.sources or value_of(tag, "srcset")
    if not several and width.isdecimal() and int(width) and file.width > max(_ICON, _HUGE * int(width)):
        yield Finding(
            "one-huge-file", *span_of(tag, "src"), f"{file.width} px wide, shown at {width}, for every device"
        )
    elif not several and file.width >= _HUGE_WIDTH:
        yield Finding("one-huge-file", *span_of(tag, "src"), f"one file of {file.width} px for every device")


def _differ(one: LinkedFile, other: LinkedFile) -> bool:
    """Tells whether two shapes differ by more than rounding to whole pixels can make."""
    ratio = one.width * other.height / (one.height * other.width)
    rounding = 1 / min(one.width, one.height, other.width, other.height)
    return abs(ratio - 1) > max(_ALIKE, 2 * rounding)
