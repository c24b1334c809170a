"""The form of fingerprints is a promise: names of published files hang on it."""

import hashlib
from dataclasses import fields

from sarvel.core.crop.place import Box
from sarvel.core.edition.encoding import Encoding, QualitySearch
from sarvel.core.edition.fingerprint import describe_crop, describe_encoding, describe_size, digest_of
from sarvel.core.edition.rendition import Naming, Origin, rendered_as
from sarvel.core.facts import FormatFacts
from sarvel.core.model import Finish, Treatment

# As docs/press.md has it.
TOLD = """\
sarvel 1
recipe 7
master ab12
box 0x0.0p+0 0x1.0000000000000p-1 0x1.4000000000000p+3 0x1.e000000000000p+4
rotate left
mirror yes
pad #ffffff
matte
grey no
gamut srgb
format avif
codec avif 1.0; always: speed=6
lossless no
quality
search 93 on 4x3 8x6
drawn no
interlace no
metadata credit
size 8x6
"""
SEARCH = QualitySearch("", 93.0, ((4, 3), (8, 6)))


def test_every_field_has_a_line_of_its_own() -> None:
    treatment = Treatment(rotate="left", mirror=True, pad="#ffffff")
    said = [
        describe_crop("ab12", Box(0, 0.5, 10, 30), treatment, "srgb"),
        describe_encoding("avif", "avif 1.0; always: speed=6", Encoding(search=SEARCH, metadata=("credit",))),
        describe_size((8, 6)),
    ]
    assert "".join(said) == TOLD
    assert digest_of(*said) == hashlib.blake2b(TOLD.encode(), digest_size=16).hexdigest()
    # Worked out once with another program, `b2sum --length 128`: whoever changes it renames the files of every user.
    assert digest_of(TOLD) == "4f90edd6ff36029c6f0da80cc6e489d5"


def test_a_field_that_is_new_is_not_forgotten() -> None:
    """Whoever adds one that changes a file gives it a line, and raises FORM. The codec's line tells the settings of its effort."""
    names = {line.split(" ")[0] for line in TOLD.splitlines()}
    assert {field.name for kind in (Treatment, Encoding) for field in fields(kind)} - {"effort"} <= names


def test_a_name_holds_the_beginning_of_the_digest() -> None:
    origin = Origin("ab12", Box(0, 0, 10, 30), Treatment(), "srgb")
    webp = FormatFacts(
        "webp",
        "image/webp",
        "webp",
        alpha=True,
        lossy=True,
        lossless=True,
        interlaces=False,
        longest=16383,
        codecs={"normal": "x"},
    )
    (one,) = rendered_as(
        origin,
        [(8, 6)],
        webp,
        Finish(),
        Naming("{digest}.{ext}", "1234567890.jpg", "s", "", None),
        effort="normal",
        drawn=False,
    )
    assert (
        one.name == f"{one.fingerprint[:10]}.webp" and one.digest == one.fingerprint[:10] and len(one.fingerprint) == 32
    )
