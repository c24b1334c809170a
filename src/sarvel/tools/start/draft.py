"""The first plan of a site, worked out from its images, pages and stylesheets. For `start`."""

from __future__ import annotations

import functools
import os
import re
from collections import Counter
from collections.abc import Callable, Collection, Container, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import TypeAlias

from sarvel.browser.views import HEIGHT
from sarvel.core.amounts import counted
from sarvel.core.check.context import LinkedFile
from sarvel.core.css.device import Device
from sarvel.core.css.sheet import media_of
from sarvel.core.html.ancestors import ancestors_of
from sarvel.core.html.dialect import HTML, Dialect, dialect_of
from sarvel.core.html.document import Document, Image, PictureElement, value_of
from sarvel.core.html.images import names_a_file
from sarvel.core.html.page_styles import PageStyles
from sarvel.core.html.srcset import widest
from sarvel.core.html.tags import Tag, classes_of, line_and_column, words_of
from sarvel.core.layout.alike import Measured, united
from sarvel.core.layout.fitted import fit_shown
from sarvel.core.survey.behaviour import Behaviour, behaving
from sarvel.core.survey.breakpoints import breakpoints_of
from sarvel.core.survey.groups import Group, LocalImage, grouped
from sarvel.core.survey.laid_out import laid_out
from sarvel.core.survey.looks import Look, look_of, worth_opening
from sarvel.core.survey.site_address import published_at
from sarvel.core.survey.traits import traits_of
from sarvel.errors import PlanError
from sarvel.pages.read.expression import UNTOLD, UNTOLD_CURE, expression
from sarvel.pages.read.linked_files import LinkedFiles, Looked
from sarvel.pages.read.roots import Roots, file_of
from sarvel.pages.restore.background_tags import backgrounds_in
from sarvel.pages.restore.mention_tags import Mentioned
from sarvel.pipeline.roots import roots_of
from sarvel.plan.draft import Backgrounds, Draft, Larger
from sarvel.tools.start.measured import Place
from sarvel.tools.start.mentions import TAKEN, mentions_of
from sarvel.tools.start.output import address_below, component_of, published, seen_from
from sarvel.tools.start.pictures import ByHand, drafted_pictures, pictures_by_hand
from sarvel.tools.start.running import ImageTag
from sarvel.tools.start.ways import Ground
from sarvel.tools.survey import Survey, SurveyedFile

_MANY = 6  # folders of pages, from which on one pattern for all of them is shorter
_DESK = Device(1440, 900)
_ENOUGH = 3  # pages on which a look is measured, of a site that has many
_SIZED = re.compile(
    r"\b(?:cover|contain)\b|\d", re.IGNORECASE
)  # values of background-size that do not depend on the file
_PLAIN = re.compile(r"[A-Za-z][\w-]*")
_SAME_SHAPE = 1.02  # ratios of width and height in whole px differ by less


@dataclass(frozen=True)
class _Seen:
    """An image that a plan can take.

    Attributes:
        larger: the file that it links to, if that is larger.
        laid_out: its width by the stylesheets, if that is sure.
        root: the folder that its address starts from, if the address tells.
    """

    image: LocalImage
    master: SurveyedFile
    larger: SurveyedFile | None
    laid_out: Measured | None
    root: Path | None


@dataclass
class _Left:
    """What a plan does not take: words, and the places that they are for."""

    places: dict[str, list[str]] = field(default_factory=dict)

    def add(self, words: str, place: str) -> None:
        self.places.setdefault(words, []).append(place)


def draft_of(found: Survey, root: Path, ground: Ground, measures: Measures | None = None) -> Draft:
    """Works out what the plan of a site says.

    Args:
        ground: the way that it takes.
        measures: finds out how images and backgrounds behave in a browser; None guesses from stylesheets.

    Raises:
        PlanError: no page shows an image that is here.
        BrowserError: it is to be measured, and no browser can be had.
    """
    left = _Left()
    files = {row.file.resolve(): row for row in found.rows}
    looked = Looked(lambda _: LinkedFile())
    seen: list[_Seen] = []
    backdrops: list[_Backdrop] = []
    pictures: list[ByHand] = []
    refused_pictures: list[PictureElement] = []
    refused: set[str] = set()
    starts = [] if measures else [start for start, _ in _breaks(found, [])]
    for file, page in found.pages.items():
        dialect = dialect_of(file.name, ground.dialects) or HTML
        elements = list(backgrounds_in(page.text, dialect))
        tags = sorted(
            [*(image.tag for image in page.images), *(one.tag for one in elements if one.tag)],
            key=lambda tag: tag.start,
        )
        roots = roots_of(file, page.text, None, ground.project)
        styles = PageStyles(page, tags, LinkedFiles(roots, looked).sheet)
        mine = list(pictures_by_hand(file, page, functools.partial(_master, roots=roots, files=files)))
        pictures += mine
        refused_pictures += [one for one in page.pictures if all(one.tag is not other.picture for other in mine)]
        seen += _seen(file, page, files, styles, left, starts, roots, dialect, {one.place for one in mine})
        taken = list(_backdrops(file, page, elements, files, styles, left, roots))
        inside = {one.tag.start for one in taken}
        others = (one.tag for one in elements if one.tag and one.start not in inside)
        refused.update(name for tag in others for name in classes_of(tag))
        backdrops += taken
    if not seen and not backdrops and not pictures:
        raise _nothing(found, ground, left)
    used = [row.file for one in seen for row in (one.master, one.larger) if row] + [
        one.master.file for one in backdrops
    ]
    used += [row.file for one in pictures for row in (one.master, *(row for _, row in one.media))]
    with_images = [
        *(Path(one.image.page) for one in seen),
        *(one.page for one in backdrops),
        *(one.page for one in pictures),
    ]
    masters = Path(os.path.commonpath([file.parent.resolve() for file in used]))
    served, output = published((one.root for one in seen), with_images, root, ground)
    component = component_of(ground, root, with_images)
    if (
        masters in output.parents or masters in (root / component).resolve().parents
    ):  # no folder of masters alone: then it is the site's own
        masters = (ground.folder if ground.way == "engine" else root).resolve()
    groups, backgrounds, opened = _grouped(seen, backdrops, refused, measures)
    with_tags = len({*with_images})
    some = measures and opened < with_tags and ground.way in ("pages", "engine")
    measured_on = f"; measured on {opened} of {counted(with_tags, 'page')}, some of each kind" if some else ""
    slots = {id(one): group.name for group in groups for one in group.images}
    url = published_at(found.pages.values())
    pages = set(with_images)
    mentions = mentions_of(found, masters, pages, left.places, shares=bool(url))
    for placed in found.missing:
        left.add("its file is not there", f"{placed} {placed.use.url}")
    return Draft(
        masters=seen_from(root, masters),
        pages=[ground.built] if ground.built else _patterns(root, pages),
        output=seen_from(root, output),
        reason=ground.reason + measured_on,
        root=seen_from(root, served) if served else "",
        base=ground.project.base,
        address=address_below(ground, root, output, with_images),
        woven=ground.woven,
        dialects=ground.dialects,
        component=component,
        breaks=_breaks(found, groups if measures else []),
        groups=groups,
        without_alt={
            **{_key(one.master, masters): one.image.place for one in reversed(seen) if _lacks_alt(one.image.image)},
            **{_key(one.master, masters): one.place for one in pictures if _lacks_alt(one.image)},
        },
        larger=[
            Larger(
                _key(one.master, masters),
                slots[id(one.image)],
                _key(one.larger, masters),
                _ratio(one.master, one.larger),
            )
            for one in {_key(one.master, masters): one for one in seen if one.larger}.values()
            if one.larger
        ],
        backgrounds=backgrounds,
        pictures=drafted_pictures(pictures, refused_pictures, lambda row: _key(row, masters), left.add),
        mentions=mentions,
        url=url if any(one.use == "share" for one in mentions) else "",
        left=left.places,
        is_measured=measures is not None,
    )


Measures: TypeAlias = Callable[[Sequence[Place], Sequence[Place], Sequence[ImageTag]], Mapping[Place, Behaviour]]
"""Takes places to open, those whose file will be a larger one, and all images; returns their known behaviour."""


def _grouped(
    seen: Sequence[_Seen], backdrops: Sequence[_Backdrop], refused: Container[str], measures: Measures | None
) -> tuple[list[Group], Backgrounds | None, int]:
    """The slots of images, that of backgrounds, and the number of pages to open."""
    places = [(Path(one.image.page), one.image.image.tag.start) for one in seen]
    backgrounds = [(one.page, one.tag.start) for one in backdrops]
    larger = [place for place, one in zip(places, seen, strict=True) if one.larger]
    looks = [look_of(one.image.image.tag, one.image.ancestors) for one in seen]
    by_page: dict[Path, list[Look]] = {}
    for (page, _), look in zip(places, looks, strict=True):
        by_page.setdefault(page, []).append(look)
    pages = worth_opening(by_page, _ENOUGH)
    wanted = [place for place in [*places, *backgrounds] if place[0] in pages or place in backgrounds]
    if measures:
        tags = [
            ImageTag(place, one.master.file.name, frozenset(classes_of(one.image.image.tag)))
            for place, one in zip(places, seen, strict=True)
        ]
        known = dict(measures(wanted, [*larger, *backgrounds], tags))
    else:
        sure = ((place, one.laid_out) for place, one in zip(places, seen, strict=True) if one.laid_out)
        known = {place: Behaviour(box, {}, (0.0, 0.0)) for place, box in sure}
    like = {look: known[place] for place, look in zip(places, looks, strict=True) if place in known}
    for place, look in zip(places, looks, strict=True):
        if place[0] not in pages and look in like:
            known[place] = like[look]
    shown = [(one.image, known[place]) for place, one in zip(places, seen, strict=True) if _is_shown(known.get(place))]
    rest = [one.image for place, one in zip(places, seen, strict=True) if not _is_shown(known.get(place))]
    groups = behaving(shown, HEIGHT, rest) if shown else []
    taken = {id(image) for group in groups for image in group.images}
    rest += [image for image, _ in shown if id(image) not in taken]
    names = Counter(group.name for group in groups)
    for group in grouped(rest):
        while group.selectors and names[group.name]:
            group.name += "-more"
        groups.append(group)
    behaviours = [known[place] for place in backgrounds if _is_shown(known.get(place))]
    return groups, _backgrounds(backdrops, refused, behaviours), len({page for page, _ in wanted})


def _is_shown(behaviour: Behaviour | None) -> bool:
    return behaviour is not None and behaviour.box.shown


def _seen(
    file: Path,
    page: Document,
    files: Mapping[Path, SurveyedFile],
    styles: PageStyles,
    left: _Left,
    starts: Sequence[float],
    roots: Roots,
    dialect: Dialect,
    known: Container[str],
) -> Iterator[_Seen]:
    """The images of a page that a plan can take; obstacles of others go to `left`.

    Args:
        known: places of images that are taken in another way.
    """
    around = ancestors_of(page.text, dialect, [image.tag.start for image in page.images])
    in_pictures = {image.tag.start for picture in page.pictures for image in picture.images}
    for image in page.images:
        place = ":".join(map(str, (file, *line_and_column(page.text, image.tag.start))))
        if place in known:
            continue
        src = _address(image)
        said = expression(src, page.text)
        if not src or said is None:
            left.add(f"{UNTOLD}; {UNTOLD_CURE}", place)
            continue
        said = roots.project.seen(said, file.parent)
        row = _row(src, files, file_of(src, roots)[0])
        if row is None and said.form != "address":
            left.add(f"no file of the project is at {said.path}", place)
        if row is None or (row.header.format not in TAKEN and row.header.frames < 2):
            continue  # elsewhere, or a drawing in vectors, which needs no widths
        if problem := _problem(image, src, row, in_pictures):
            left.add(problem, place)
            continue
        own = value_of(image.tag, "src") or src
        local = LocalImage(
            image, own, str(file), place, row.header.width, traits_of(image.tag, styles), around[image.tag.start]
        )
        link = (styles.around(image.tag, "a") or {}).get("href", "")
        larger = row.copy_of or (_row(link, files, file_of(link, roots)[0]) if link else None)
        is_larger = larger and larger.header.format in TAKEN and larger.header.frames == 1
        taken = larger if larger and is_larger and larger.header.width > row.header.width else None
        natural = 0 if taken else row.header.width
        box = None if local.traits.natural or image.tag.get("sizes") else laid_out(image.tag, natural, styles, starts)
        yield _Seen(local, row, taken, box, said.root_of(row.file.resolve()))


@dataclass(frozen=True)
class _Backdrop:
    """An element with a background that a plan can take."""

    tag: Tag
    style: str
    page: Path
    place: str
    master: SurveyedFile


def _backdrops(
    file: Path,
    page: Document,
    found: Iterable[Mentioned],
    files: Mapping[Path, SurveyedFile],
    styles: PageStyles,
    left: _Left,
    roots: Roots,
) -> Iterator[_Backdrop]:
    """The backgrounds of a page that a plan can take; obstacles of others go to `left`."""
    for one in found:
        row = _row(one.urls[0], files, file_of(one.urls[0], roots)[0])
        place = ":".join(map(str, (file, *line_and_column(page.text, one.start))))
        if one.tag is None or row is None or row.header.format not in TAKEN or row.header.frames > 1:
            continue
        said = next((box.values for box in styles.outwards(one.tag, _DESK)), {})
        if _SIZED.search(f"{said.get('background-size', '')} /{said.get('background', '').partition('/')[2]}"):
            yield _Backdrop(one.tag, one.style, file, place, row)
        else:
            left.add(
                "its background has no background-size, so that another file would be shown at another size", place
            )


def _backgrounds(
    backdrops: Sequence[_Backdrop], refused: Container[str], behaviours: Sequence[Behaviour]
) -> Backgrounds | None:
    """The slot of all backgrounds, by a class that no other background has, or by their whole style."""
    selectors = []
    for one in backdrops:
        first = next((name for name in classes_of(one.tag) if _PLAIN.fullmatch(name) and name not in refused), "")
        quote = "'" if '"' in one.style else '"'
        selectors.append(f".{first}" if first else f"[style={quote}{one.style.strip()}{quote}]")
    boxes = [one.box for one in behaviours]
    fitted = fit_shown((whole := united(boxes)).widths, whole.pulls, HEIGHT) if boxes else None
    return Backgrounds(list(dict.fromkeys(selectors)), [one.place for one in backdrops], fitted) if backdrops else None


def _address(image: Image) -> str:
    """The address of the file that an image means: of several, the widest."""
    listed = widest(value_of(image.tag, "srcset") or "") if not image.is_ask else None
    return listed or (words_of(image.tag) or "").strip()


def _row(address: str, files: Mapping[Path, SurveyedFile], at_hand: Path | None) -> SurveyedFile | None:
    return files.get(at_hand.resolve()) if address and at_hand else None


def _master(address: str, roots: Roots, files: Mapping[Path, SurveyedFile]) -> SurveyedFile | None:
    """The file that an address means, if it can be a master."""
    row = _row(address, files, file_of(address, roots)[0])
    return row if row and row.header.format in TAKEN and row.header.frames == 1 else None


def _problem(image: Image, src: str, row: SurveyedFile, in_pictures: Iterable[int]) -> str:
    """The reason why an image is not taken; "" if it is."""
    if row.header.frames > 1:
        return "is animated; a video is lighter, and stills can be woven"
    if image.sources or image.tag.start in in_pictures:
        return (
            "is in a picture by hand, some of whose files cannot be masters; mend it, or remove the picture around it"
        )
    if "'" in src and '"' in src:
        return "its address holds both kinds of quotes; rename its file"
    return ""


def _lacks_alt(image: Image) -> bool:
    alt = value_of(image.tag, "alt")
    return alt is None or names_a_file(alt, value_of(image.tag, "src") or "")


def _ratio(small: SurveyedFile, large: SurveyedFile) -> str:
    """The ratio of the smaller file, if that of the larger differs; else ""."""
    one, other = small.header, large.header
    pair = sorted([one.width * other.height, other.width * one.height])
    return "" if pair[1] <= pair[0] * _SAME_SHAPE else f"{one.width}:{one.height}"


def _key(row: SurveyedFile, masters: Path) -> str:
    return row.file.resolve().relative_to(masters).as_posix()


def _patterns(root: Path, pages: Collection[Path]) -> list[str]:
    """Patterns of pages: by folder and ending."""
    kinds = Counter((seen_from(root, page.parent), page.suffix) for page in pages)
    if len(kinds) > _MANY:
        return sorted({f"**/*{ending}" for _, ending in kinds})
    return sorted(f"*{ending}" if folder == "." else f"{folder}/*{ending}" for folder, ending in kinds)


def _nothing(found: Survey, ground: Ground, left: _Left) -> PlanError:
    """The error for a site without images to draft: counts, and the obstacles of each image."""
    looked = f"{counted(len(found.pages), 'page')} and {counted(len(found.rows), 'image file')} are here"
    reasons = [f"{counted(len(places), 'image')}: {words} ({places[0]})" for words, places in left.places.items()]
    missing = len(found.missing)
    reasons += [f"{counted(missing, 'image')}: no such file ({found.missing[0]})"] if missing else []
    why = "; ".join(reasons) or "no page names one of them"
    return PlanError.at(ground.folder, f"{looked}, but no image can be woven: {why}", "name the folder of the site")


def _breaks(found: Survey, groups: Sequence[Group]) -> list[tuple[float, int]]:
    """The layout's breakpoints and how often each is used: by the widths that were measured, else by media queries."""
    measured = Counter(float(start) for group in groups if group.seen for start, _ in group.seen.fitted.steps if start)
    if measured:
        return sorted(measured.items(), key=lambda one: (-one[1], one[0]))
    sheets = [*found.sheets.values(), *(css for page in found.pages.values() for _, css in page.styles)]
    counts = breakpoints_of(media for css in sheets for media in media_of(css))
    return sorted(counts.items(), key=lambda one: (-one[1], one[0]))
