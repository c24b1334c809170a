"""Slots for pictures by hand: their media become crops, and the files of their sources masters of these crops."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path

from sarvel.core.html.document import Document, Image, PictureElement, value_of
from sarvel.core.html.srcset import parse_srcset, widest
from sarvel.core.html.tags import Tag, classes_of, line_and_column
from sarvel.core.html.template_code import holds_code
from sarvel.plan import schema
from sarvel.plan.draft import PicturesByHand
from sarvel.plan.messages import Problem
from sarvel.plan.slot_layout import read_crops
from sarvel.tools.survey import SurveyedFile

MasterOf = Callable[[str], SurveyedFile | None]
"""Takes an address; returns its file, if that can be a master."""


@dataclass(frozen=True)
class ByHand:
    """A picture by hand that a plan can take.

    Attributes:
        image: its img.
        media: the media conditions of its sources, in order, each with its file.
    """

    page: Path
    place: str
    picture: Tag
    image: Image
    master: SurveyedFile
    media: tuple[tuple[str, SurveyedFile], ...]


def pictures_by_hand(file: Path, page: Document, master_of: MasterOf) -> Iterator[ByHand]:
    """The pictures of a page whose sources all name masters, under conditions that a plan can have."""
    for picture in page.pictures:
        found = None if picture.is_woven or picture.late or len(picture.images) != 1 else _taken(picture, master_of)
        if found:
            image = picture.images[0]
            place = ":".join(map(str, (file, *line_and_column(page.text, image.tag.start))))
            yield ByHand(file, place, picture.tag, image, *found)


def _taken(
    picture: PictureElement, master_of: MasterOf
) -> tuple[SurveyedFile, tuple[tuple[str, SurveyedFile], ...]] | None:
    """The file of its img, and those of its media; None if it cannot be taken."""
    image = picture.images[0]
    own = master_of(_address(image.tag))
    media: dict[str, SurveyedFile] = {}
    for source in picture.sources:
        said = (value_of(source, "media") or "").strip()
        row = master_of(_address(source))
        if holds_code(said) or row is None:
            return None
        if said:  # of several types for one condition, the last is the one that all browsers read
            media[said] = row
    return (own, tuple(media.items())) if own and _is_plan(list(media)) else None


def _address(tag: Tag) -> str:
    listed = value_of(tag, "srcset") or ""
    first = next((one.url for one in parse_srcset(listed) if not one.fault), "")
    return widest(listed) or (value_of(tag, "src") if tag.name == "img" else "") or first


def _is_plan(conditions: Sequence[str]) -> bool:
    """Tells whether a slot can have crops for some conditions in this order."""
    crops = [*({"when": one, "ratio": "native"} for one in conditions), {"ratio": "native"}]
    try:
        read_crops(schema.SlotTable.model_validate({"sizes": "100vw", "crops": crops}), {"all": 0}, ())
    except Problem:
        return False
    return True


def drafted_pictures(
    taken: Sequence[ByHand], others: Iterable[PictureElement], key_of: Callable[[SurveyedFile], str],
    left: Callable[[str, str], None],
) -> list[PicturesByHand]:  # fmt: skip
    """The slots of pictures by hand, one for each list of conditions.

    Args:
        others: pictures that are not taken: no selector may match them.
        key_of: the key of a master.
        left: told of a picture that is not taken after all: why, and where.
    """
    groups: Mapping[tuple[str, ...], list[ByHand]] = defaultdict(list)
    for one in taken:
        groups[tuple(when for when, _ in one.media)].append(one)
    refused = {name for picture in others for name in _names(picture.tag, picture.images)}
    slots = []
    for whens, found in groups.items():
        elsewhere = refused | {
            name for other in taken if other not in found for name in _names(other.picture, [other.image])
        }
        froms: dict[str, dict[int, str]] = {}
        kept = []
        for one in found:
            said = {number: key_of(row) for number, (_, row) in enumerate(one.media, 1)}
            if froms.setdefault(key_of(one.master), said) == said:
                kept.append(one)
            else:
                left("shows other files than another picture of the same file", one.place)
        selectors = dict.fromkeys(_selector(one, elsewhere) for one in kept)
        sizes = {value_of(tag, "sizes") or "" for one in kept for tag in one.image.tags}
        said_sizes = sizes.pop() if len(sizes) == 1 else ""
        slots.append(PicturesByHand(whens, list(selectors), [one.place for one in kept], said_sizes, froms))
    return slots


def _names(picture: Tag, images: Iterable[Image]) -> Iterator[str]:
    yield from (f"picture.{name}" for name in classes_of(picture))
    yield from (f"img.{name}" for image in images for name in classes_of(image.tag))


def _selector(one: ByHand, elsewhere: set[str]) -> str:
    """A selector of a picture's img by a class that no other picture has, else by its address."""
    for tag, form in ((one.picture, "picture.{} img"), (one.image.tag, "picture img.{}")):
        for name in classes_of(tag):
            if f"{tag.name}.{name}" not in elsewhere and name.replace("-", "").replace("_", "").isalnum():
                return form.format(name)
    return f"picture img[src='{value_of(one.image.tag, 'src') or ''}']"
