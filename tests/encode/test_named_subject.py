"""Subjects that masters' own metadata names: written by the standards' own forms, and read back right side up."""

import time
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from PIL.PngImagePlugin import PngInfo

from sarvel.core.crop.place import Box
from sarvel.encode.masters import read_facts
from sarvel.encode.named_subject import subjects_of
from sarvel.encode.xmp_regions import Region, RegionError, regions_of

SIZE = 400, 300
SPOT = Box(0.1, 0.2, 0.3, 0.4)  # of the upright picture; the part that is red

UNDO = {
    1: (),
    2: (Image.Transpose.FLIP_LEFT_RIGHT,),
    3: (Image.Transpose.ROTATE_180,),
    4: (Image.Transpose.FLIP_TOP_BOTTOM,),
    5: (Image.Transpose.TRANSPOSE,),
    6: (Image.Transpose.ROTATE_90,),
    7: (Image.Transpose.TRANSVERSE,),
    8: (Image.Transpose.ROTATE_270,),
}
"""What turns an upright picture so that its orientation sets it right: Exif 2.32, table 4."""

HEAD = (
    '<?xpacket begin="\ufeff"?><x:xmpmeta xmlns:x="adobe:ns:meta/" '
    'xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#" xmlns:xmp="http://ns.adobe.com/xap/1.0/" '
    'xmlns:mwg-rs="http://www.metadataworkinggroup.com/schemas/regions/" '
    'xmlns:stArea="http://ns.adobe.com/xmp/sType/Area#" xmlns:stDim="http://ns.adobe.com/xap/1.0/sType/Dimensions#" '
    'xmlns:Iptc4xmpExt="http://iptc.org/std/Iptc4xmpExt/2008-02-29/"><rdf:RDF><rdf:Description rdf:about="">'
)
FOOT = "</rdf:Description></rdf:RDF></x:xmpmeta><?xpacket end='w'?>"


def mwg(*areas: str, size: tuple[int, int] | None = None, kind: str = "Face") -> str:
    """The form of "Guidelines for Handling Image Metadata" 2.0, section 5.9.5."""
    items = "".join(
        f'<rdf:li><rdf:Description mwg-rs:Name="Ada" mwg-rs:Type="{kind}"><mwg-rs:Area {area} stArea:unit="normalized"/>'
        "</rdf:Description></rdf:li>"
        for area in areas
    )
    of = f'<mwg-rs:AppliedToDimensions stDim:w="{size[0]}" stDim:h="{size[1]}" stDim:unit="pixel"/>' if size else ""
    listed = f"<mwg-rs:RegionList><rdf:Bag>{items}</rdf:Bag></mwg-rs:RegionList>"
    return f'{HEAD}<mwg-rs:Regions rdf:parseType="Resource">{of}{listed}</mwg-rs:Regions>{FOOT}'


def around(box: Box) -> str:
    x, y = (box.left + box.right) / 2, (box.top + box.bottom) / 2
    return f'stArea:x="{x}" stArea:y="{y}" stArea:w="{box.width}" stArea:h="{box.height}"'


def iptc(*regions: tuple[str, str]) -> str:
    """The form of the IPTC Photo Metadata Standard's own reference image: a boundary, and the end of a role's identifier."""
    items = "".join(
        f'<rdf:li rdf:parseType="Resource"><Iptc4xmpExt:RegionBoundary rdf:parseType="Resource">{boundary}'
        f"</Iptc4xmpExt:RegionBoundary><Iptc4xmpExt:rRole><rdf:Bag><rdf:li rdf:parseType='Resource'><xmp:Identifier><rdf:Bag>"
        f"<rdf:li>http://cv.iptc.org/newscodes/imageregionrole/{role}</rdf:li></rdf:Bag></xmp:Identifier></rdf:li></rdf:Bag>"
        f"</Iptc4xmpExt:rRole></rdf:li>"
        for boundary, role in regions
    )
    return f"{HEAD}<Iptc4xmpExt:ImageRegion><rdf:Bag>{items}</rdf:Bag></Iptc4xmpExt:ImageRegion>{FOOT}"


def tags(**values: object) -> str:
    return "".join(f"<Iptc4xmpExt:{name}>{value}</Iptc4xmpExt:{name}>" for name, value in values.items())


def rectangle(box: Box) -> str:
    return tags(rbShape="rectangle", rbUnit="relative", rbX=box.left, rbY=box.top, rbW=box.width, rbH=box.height)


def stored(orientation: int) -> tuple[Image.Image, Box]:
    """A picture as it is stored that is upright once turned, and where its red part is in that: seen in its pixels."""
    pixels = np.full((SIZE[1], SIZE[0], 3), (90, 120, 150), np.uint8)
    pixels[round(0.2 * SIZE[1]) : round(0.4 * SIZE[1]), round(0.1 * SIZE[0]) : round(0.3 * SIZE[0])] = (220, 30, 30)
    image = Image.fromarray(pixels)
    for move in UNDO[orientation]:
        image = image.transpose(move)
    rows, columns = np.nonzero(np.asarray(image)[..., 0] > 200)
    width, height = image.size
    return image, Box(
        columns.min() / width, rows.min() / height, (columns.max() + 1) / width, (rows.max() + 1) / height
    )


def saved(folder: Path, name: str, image: Image.Image, exif: Image.Exif | bytes = b"", xmp: str | bytes = "") -> Path:
    """An image with metadata, each format in its own way."""
    file, form = folder / name, name.rpartition(".")[2]
    raw = xmp.encode() if isinstance(xmp, str) else xmp
    block = exif if isinstance(exif, bytes) else exif.tobytes()
    options: dict[str, object] = {"exif": block} if block else {}
    if form == "png" and raw:
        info = PngInfo()
        info.add_itxt("XML:com.adobe.xmp", raw.decode(), zip=len(raw) > 5000)
        options["pnginfo"] = info
    elif form == "tif":
        options = {"tiffinfo": {**(dict(exif) if isinstance(exif, Image.Exif) else {}), **({700: raw} if raw else {})}}
    elif raw:
        options["xmp"] = raw
    image.save(file, **options)  # type: ignore[arg-type]
    return file


def named(file: Path) -> tuple[list[list[float]], str]:
    facts = read_facts(file, file.name)
    boxes = facts.named.boxes if facts.named else ()
    assert facts.named is None or (facts.named.by, facts.named.sure) == ("file", None)
    return [[one.left, one.top, one.right, one.bottom] for one in boxes], facts.note


def test_the_spot_in_every_format_after_every_turn(tmp_path: Path) -> None:
    for form in ("jpg", "webp", "avif", "png", "tif"):
        for orientation in UNDO:
            image, box = stored(orientation)
            exif = Image.Exif()
            exif[0x0112] = orientation
            for xmp in (mwg(around(box), size=image.size), iptc((rectangle(box), "mainSubjectArea"))):
                boxes, note = named(saved(tmp_path, f"a.{form}", image, exif, xmp))
                assert boxes == [pytest.approx([0.1, 0.2, 0.3, 0.4])] and not note, (form, orientation)


@pytest.mark.parametrize("form", ["jpg", "webp", "avif", "png"])
@pytest.mark.parametrize("orientation", UNDO)
def test_the_area_of_a_camera(tmp_path: Path, form: str, orientation: int) -> None:
    """Exif 2.32, 4.6.5: centre and sides, centre and diameter, or a point, of the picture before it is turned."""
    image, box = stored(orientation)
    px = box.times(*image.size)
    centre, sides = ((px.left + px.right) / 2, (px.top + px.bottom) / 2), (px.width, px.height)
    for tag, values in (
        (0x9214, (*centre, *sides)),
        (0x9214, (*centre, min(sides))),
        (0x9214, centre),
        (0xA214, centre),
    ):
        exif = Image.Exif()
        exif[0x0112] = orientation
        exif[0x8769] = {tag: tuple(map(round, values)), 0xA002: image.width, 0xA003: image.height}
        ((left, top, right, bottom),), _ = named(saved(tmp_path, f"a.{form}", image, exif))
        assert ((left + right) / 2, (top + bottom) / 2) == pytest.approx((0.2, 0.3))
        wide, high = {4: (80, 60), 3: (60, 60), 2: (0, 0)}[len(values)]
        assert ((right - left) * SIZE[0], (bottom - top) * SIZE[1]) == pytest.approx((wide, high))


@pytest.mark.parametrize(
    ("area", "of", "wanted"),
    [
        ((100, 50, 20, 20), SIZE, True),
        ((1000, 500, 20, 20), (4000, 3000), True),  # of the picture before it was made smaller
        ((100, 50, 20, 20), (300, 300), False),  # of the picture before it was cropped
        ((200, 150, 200, 150), SIZE, False),  # the very middle is no choice
        ((900, 700, 10, 10), SIZE, False),
        ((1, 2, 3, 4, 5), SIZE, False),
        ((100,), SIZE, False),
    ],
)
def test_an_area_of_another_picture_or_of_none(
    tmp_path: Path, area: tuple[int, ...], of: tuple[int, int], wanted: bool
) -> None:
    exif = Image.Exif()
    exif[0x8769] = {0x9214: area, 0xA002: of[0], 0xA003: of[1]}
    boxes, note = named(saved(tmp_path, "a.jpg", stored(1)[0], exif))
    assert bool(boxes) == wanted and not note


@pytest.mark.parametrize(
    ("xmp", "boxes"),
    [
        (iptc((tags(rbShape="circle", rbUnit="relative", rbX=0.5, rbY=0.5, rbRx=0.1), "")), [[0.4, 0.5 - 0.4 / 3, 0.6, 0.5 + 0.4 / 3]]),
        (iptc((tags(rbShape="circle", rbUnit="pixel", rbX=200, rbY=150, rbRx=30), "")), [[0.425, 0.4, 0.575, 0.6]]),
        (iptc((tags(rbShape="rectangle", rbUnit="pixel", rbX=40, rbY=60, rbW=80, rbH=60), "")), [[0.1, 0.2, 0.3, 0.4]]),
        (
            iptc(
                (
                    "<Iptc4xmpExt:rbShape>polygon</Iptc4xmpExt:rbShape><Iptc4xmpExt:rbUnit>relative</Iptc4xmpExt:rbUnit>"
                    "<Iptc4xmpExt:rbVertices><rdf:Seq>"
                    + "".join(
                        f"<rdf:li rdf:parseType='Resource'>{tags(rbX=x, rbY=y)}</rdf:li>"
                        for x, y in ((0.2, 0.1), (0.6, 0.3), (0.4, 0.7))
                    )
                    + "</rdf:Seq></Iptc4xmpExt:rbVertices>",
                    "",
                )
            ),
            [[0.2, 0.1, 0.6, 0.7]],
        ),
        # The main subject is placed; a face in it comes next. Areas for crops and rights are none.
        (
            iptc(
                (rectangle(Box(0.35, 0.1, 0.45, 0.25)), "face"),
                (rectangle(Box(0.3, 0.1, 0.5, 0.9)), "mainSubjectArea"),
                (rectangle(Box(0, 0, 0.5, 0.5)), "squareCropping"),
                (rectangle(Box(0.8, 0, 0.9, 0.5)), "areaOfInterest"),
            ),
            [[0.3, 0.1, 0.5, 0.9], [0.35, 0.1, 0.45, 0.25]],
        ),
        (iptc((rectangle(Box(0, 0, 1, 1)), "")), []),  # the whole picture says nothing
        (iptc((tags(rbShape="rectangle", rbUnit="relative", rbX=0.2, rbY="left", rbW=0.1, rbH=0.1), "")), []),
        # Of several faces all together come first, then the largest.
        (
            mwg(around(Box(0.1, 0.1, 0.2, 0.2)), around(Box(0.6, 0.2, 0.8, 0.4))),
            [[0.1, 0.1, 0.8, 0.4], [0.6, 0.2, 0.8, 0.4], [0.1, 0.1, 0.2, 0.2]],
        ),
        (mwg('stArea:x="0.5" stArea:y="0.25"'), [[0.5, 0.25, 0.5, 0.25]]),
        (mwg('stArea:x="0.5" stArea:y="0.5" stArea:d="0.2"'), [[0.425, 0.4, 0.575, 0.6]]),
        (mwg(around(Box(0.9, 0.9, 1.1, 1.1))), [[0.9, 0.9, 1, 1]]),
        (mwg(around(Box(1.2, 0.9, 1.4, 1.1))), []),
        (mwg(around(SPOT), kind="BarCode"), []),
        (mwg(around(SPOT), size=(800, 600)), [[0.1, 0.2, 0.3, 0.4]]),
    ],
)  # fmt: skip
def test_every_kind_of_region(tmp_path: Path, xmp: str, boxes: list[list[float]]) -> None:
    found, note = named(saved(tmp_path, "a.jpg", stored(1)[0], xmp=xmp))
    assert found == [pytest.approx(box) for box in boxes] and not note


def test_regions_of_an_upright_picture_are_not_turned(tmp_path: Path) -> None:
    image, _ = stored(6)
    exif = Image.Exif()
    exif[0x0112] = 6
    boxes, _ = named(saved(tmp_path, "a.jpg", image, exif, mwg(around(SPOT), size=SIZE)))
    assert boxes == [pytest.approx([0.1, 0.2, 0.3, 0.4])]


ENTITIES = "<!DOCTYPE a [<!ENTITY a 'aaaaaaaaaa'>" + "".join(
    f"<!ENTITY {chr(98 + i)} '{f'&{chr(97 + i)};' * 10}'>" for i in range(9)
)


@pytest.mark.parametrize(
    ("xmp", "says"),
    [
        (mwg(around(SPOT), size=(500, 300)), "its regions are of a picture of 500×300 px, it has 400×300"),
        (f"{ENTITIES}]>" + mwg(around(SPOT)), "its XMP metadata declares entities"),
        (mwg(around(SPOT))[:-40], "its XMP metadata is no XML"),
        (mwg(*[around(SPOT)] * 40_000), "its XMP metadata has more than 1 MB"),
        ("ImageRegion" + "<a>" * 100_000, "its XMP metadata is no XML"),
        ("no regions, no XML", ""),
        ("<a>" * 1_000_000, ""),
    ],
)
@pytest.mark.parametrize("form", ["png", "webp", "avif"])
def test_hostile_metadata_is_a_note(tmp_path: Path, form: str, xmp: str, says: str) -> None:
    file = saved(tmp_path, f"a.{form}", stored(1)[0], xmp=xmp)
    began = time.process_time()
    boxes, note = named(file)
    assert time.process_time() - began < 5  # entities that are resolved take memory and minutes
    assert not boxes and note.startswith(says) and note.endswith("; no subject is taken from it" if says else "")


@pytest.mark.parametrize(
    "exif",
    [
        b"Exif\0\0II*\0",
        b"Exif\0\0" + b"\xff" * 300,
        b"Exif\0\0II*\0\x08\0\0\0\xff\xff" + b"\x12\x01\x03\0\xff\xff\xff\xff\x06\0\0\0" * 3,
        b"Exif\0\0II*\0\x08\0\0\0\x01\0\x69\x87\x04\0\x01\0\0\0\xf0\xff\xff\xff",  # its tags lie behind its end
    ],
)
@pytest.mark.parametrize("form", ["jpg", "png", "webp"])
def test_damaged_exif_is_no_fault(tmp_path: Path, form: str, exif: bytes) -> None:
    file = saved(tmp_path, f"a.{form}", stored(1)[0], exif)
    assert named(file) == ([], "") and read_facts(file, "a").width == 400


@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "utf-16", "utf-32"])
def test_every_encoding_of_a_packet(encoding: str) -> None:
    text = mwg(around(SPOT)).replace("\ufeff", "")
    (region,) = regions_of(text.encode(encoding), SIZE, SIZE)
    assert region.part == "face"
    with pytest.raises(RegionError, match="declares entities"):
        regions_of(f"<!DOCTYPE a>{text}".encode(encoding), SIZE, SIZE)


def test_no_regions_name_no_subject() -> None:
    assert subjects_of([]) == ()
    whole = Region(Box(0, 0, 1, 1), "thing")
    assert subjects_of([whole]) == () and subjects_of([whole, Region(SPOT, "face")]) == (whole.box, SPOT)
