"""Files that components import."""

import pytest

from sarvel.pages.read.imports import followed

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
        ("{% static 'm/x y.jpg' %}", "m/x y.jpg"), ('{%- static "x.jpg" -%}', "x.jpg"), ("{% static photo %}", "{% static photo %}"),
        ("{{ url_for('static', filename='m/x.jpg') }}", "m/x.jpg"), ('{{ "m/x.jpg" | asset_url }}', "m/x.jpg"), ("{{ asset('x.jpg') }}", "x.jpg"),
        ("{!! asset('x.jpg') !!}", "x.jpg"), ("<?= $this->url('x.jpg'); ?>", "x.jpg"), ('<%= asset_path "x.jpg" %>', "x.jpg"),
        ("{{ folder ~ 'x.jpg' }}", "{{ folder ~ 'x.jpg' }}"), ('{{ a ? "x.jpg" : "y.jpg" }}', '{{ a ? "x.jpg" : "y.jpg" }}'),
        ("{{ '%s.jpg' | format }}", "{{ '%s.jpg' | format }}"), ("{{ 'x' + '.jpg' }}", "{{ 'x' + '.jpg' }}"), ("{% static 'x.jpg' %}?v", "{% static 'x.jpg' %}?v"),
        ('@Url.Content("~/m/x.jpg")', "/m/x.jpg"), ("~/m/x.jpg", "/m/x.jpg"), ("~/m/@x.jpg", "~/m/@x.jpg"), ("@photo", "@photo"), ("~x/y.jpg", "~x/y.jpg"),
        ("{'x.jpg'}", "x.jpg"), ("{`x.jpg`}", "x.jpg"), ("{`${x}.jpg`}", "{`${x}.jpg`}"), ("a.jpg", "a.jpg"), ("{{ photo }}", "{{ photo }}"),
    ],
)  # fmt: skip
def test_code_in_a_src_is_followed_as_far_as_its_file_says(src: str, address: str) -> None:
    assert followed(src, TEXT) == address
