"""Files that components import."""

import pytest

from sarvel.pages.imports import followed

TEXT = """import photo from "../masters/a.jpg";
  import other from '../masters/b.jpg'
import { no } from "x";
const third = require("./c.jpg");
"""


@pytest.mark.parametrize(
    ("src", "address"),
    [
        ("{photo}", "../masters/a.jpg"), ("{ other.src }", "../masters/b.jpg"), ("{third}", "./c.jpg"), ("{no}", "{no}"),
        ("{photo.width}", "{photo.width}"), ('{require("../x.png")}', "../x.png"), ("{require('../x.png').default}", "../x.png"),
        ("{'x.jpg'}", "x.jpg"), ("{`x.jpg`}", "x.jpg"), ("{`${x}.jpg`}", "{`${x}.jpg`}"), ("a.jpg", "a.jpg"), ("{{ photo }}", "{{ photo }}"),
    ],
)  # fmt: skip
def test_a_src_in_braces_is_followed_within_its_file(src: str, address: str) -> None:
    assert followed(src, TEXT) == address
