"""The manifest: everything needed to write the markup by other means, as JSON. These classes are its schema."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from types import MappingProxyType

from pydantic import BaseModel, ConfigDict, Field

from sarvel.core.address.address import Address
from sarvel.core.edition.compose import Crop, Picture
from sarvel.core.edition.rendition import Rendition
from sarvel.core.markup.backgrounds import class_names
from sarvel.core.markup.picture import Source, background_of, fallback, ladders_of, write_markup


class _Shape(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class File(_Shape):
    """One rendition."""

    url: str = Field(description="as pages reach it, escaped")
    width: int = Field(ge=1, description="px")
    height: int = Field(ge=1, description="px")
    bytes: int = Field(ge=0, description="its weight; 0 while it is not made")
    digest: str = Field(description="tells everything that it is made from; part of its name")


class FormatOfCrop(_Shape):
    """One crop in one format: what a source element says."""

    type: str = Field(description='media type; "" if the server chooses by Accept')
    srcset: str = Field(description="the attribute, ready to be written")
    files: tuple[File, ...] = Field(description="narrowest first")


class CropOfPicture(_Shape):
    """One crop of a picture, in the order tried."""

    name: str = Field(description='"" if it is the only one')
    media: str = Field(description='its media condition, tried after earlier ones; "" for all')
    sizes: str = Field(description='the attribute; "" where descriptors are densities')
    width: int = Field(ge=1, description="CSS px, to reserve its space")
    height: int = Field(ge=1, description="CSS px, to reserve its space")
    placeholder: str = Field(description='a value of the property background; "" for none')
    formats: tuple[FormatOfCrop, ...] = Field(description="best first; the last is for the img itself")


class PictureOfSlot(_Shape):
    """A master in a slot."""

    alt: str | None = Field(description="as the plan has it; null where it has none")
    loading: str = Field(description='"eager" (seen at once) or "lazy"')
    src: str = Field(description="the file for browsers without srcset")
    class_: str = Field(alias="class", description="the class in pictures.css, if it is a background")
    crops: tuple[CropOfPicture, ...]


class Manifest(_Shape):
    """All pictures of a site."""

    version: int = Field(1, description="of this form; raised when programs that read it must change")
    pictures: dict[str, dict[str, PictureOfSlot]] = Field(description="by slot, then by master")
    values: dict[str, str] = Field({}, description="the master, by the value of a data file that names it")


def manifest(
    pictures: Sequence[Picture],
    address: Address,
    backgrounds: Mapping[str, str],
    weights: Mapping[str, int],
    values: Mapping[str, str] = MappingProxyType({}),
) -> str:
    """The manifest's text.

    Args:
        backgrounds: of placeholders, by key.
        weights: bytes of renditions by name.
        values: masters by the values of data files that name them.
    """
    names = class_names(pictures)
    slots: dict[str, dict[str, PictureOfSlot]] = {}
    for picture in pictures:
        pair = (picture.slot.name, picture.master.key)
        slots.setdefault(pair[0], {})[pair[1]] = _picture(picture, address, backgrounds, weights, names[pair])
    return Manifest(version=1, pictures=slots, values=dict(values)).model_dump_json(indent=2, by_alias=True) + "\n"


def _picture(
    picture: Picture, address: Address, backgrounds: Mapping[str, str], weights: Mapping[str, int], name: str
) -> PictureOfSlot:
    markup = write_markup(picture, address, None)
    sources = iter((*markup.sources, markup.image))
    listed = [(crop, [next(sources) for _ in ladders_of(crop, address)]) for crop in picture.crops]
    crops = [_crop(picture, crop, theirs, address, backgrounds, weights) for crop, theirs in listed]
    said = {
        "alt": picture.alt,
        "loading": picture.slot.loading,
        "src": address.of(picture, picture.crops[-1], fallback(picture)),
        "class": name if picture.slot.use == "background" else "",
        "crops": crops,
    }
    return PictureOfSlot.model_validate(said)


def _crop(
    picture: Picture, crop: Crop, sources: list[Source], address: Address, backgrounds: Mapping[str, str],
    weights: Mapping[str, int],
) -> CropOfPicture:  # fmt: skip
    formats = tuple(
        FormatOfCrop(
            type="" if address.by_accept else ladder[0].media_type,
            srcset=source.srcset,
            files=tuple(_file(one, address.of(picture, crop, one), weights) for one in ladder),
        )
        for source, ladder in zip(sources, ladders_of(crop, address), strict=True)
    )
    return CropOfPicture(
        name=crop.rule.name,
        media=crop.rule.media.css,
        sizes=sources[0].sizes,
        width=sources[0].width,
        height=sources[0].height,
        placeholder=background_of(crop, backgrounds),
        formats=formats,
    )


def _file(rendition: Rendition, url: str, weights: Mapping[str, int]) -> File:
    return File(
        url=url,
        width=rendition.width,
        height=rendition.height,
        bytes=weights.get(rendition.name, 0),
        digest=rendition.digest,
    )
