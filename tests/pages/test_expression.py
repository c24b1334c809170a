"""Words that name files."""

import pytest

from sarvel.pages.read.expression import expression

TEXT = """import photo from "../masters/a.jpg";
  import other from '../masters/b.jpg'
import { no } from "x";
const third = require("./c.jpg");
"""


@pytest.mark.parametrize(
    ("src", "path"),
    [
        ("{photo}", "../masters/a.jpg"), ("{ other.src }", "../masters/b.jpg"), ("{third}", "./c.jpg"), ("{no}", None),
        ("{photo.width}", None), ('{require("../x.png")}', "../x.png"), ("{require('../x.png').default}", "../x.png"), ("{% static 'm/x y.jpg' %}", "m/x y.jpg"),
        ('{%- static "x.jpg" -%}', "x.jpg"), ("{% static photo %}", None), ("{{ url_for('static', filename='m/x.jpg') }}", "m/x.jpg"), ('{{ "m/x.jpg" | asset_url }}', "m/x.jpg"),
        ("{{ asset('x.jpg') }}", "x.jpg"), ("{!! asset('x.jpg') !!}", "x.jpg"), ("<?= $this->url('x.jpg'); ?>", "x.jpg"), ('<%= asset_path "x.jpg" %>', "x.jpg"),
        ("{{ folder ~ 'x.jpg' }}", None), ('{{ a ? "x.jpg" : "y.jpg" }}', None), ("{{ '%s.jpg' | format }}", None), ("{{ 'x' + '.jpg' }}", None),
        ("{% static 'x.jpg' %}?v", None), ('@Url.Content("~/m/x.jpg")', "/m/x.jpg"), ("~/m/x.jpg", "/m/x.jpg"), ("~/m/@x.jpg", "/m/@x.jpg"),
        ("@photo", "@photo"), ("~x/y.jpg", "~x/y.jpg"), ("{'x.jpg'}", "x.jpg"), ("{`x.jpg`}", "x.jpg"),
        ("{`${x}.jpg`}", None), ("a.jpg", "a.jpg"), ("{{ photo }}", None),
        ("{% static 'a.jpg' %}", "a.jpg"), ("{{ p | default: 'a.jpg' }}", None), ("{% if x %}a.jpg{% endif %}", None), ("/img/{{ x }}.jpg", None),
        ("<?php echo $a . 'x.jpg' . $b; ?>", None), ("{{ x }}/img/a.jpg", "/img/a.jpg"), ("{x ? photo : third}", None), ("%PUBLIC_URL%/a.jpg", "/a.jpg"),
        ("@assets/a.jpg", "@assets/a.jpg"), ("@Model.Base/a.jpg", "/a.jpg"), ("%20a.jpg", "%20a.jpg"), ("{{ page.photo }}.jpg", None),
    ],
)  # fmt: skip
def test_what_words_name(src: str, path: str | None) -> None:
    said = expression(src, TEXT)
    assert (said.path if said else None) == path
    assert said is None or not (said.before or said.after) or f"{said.before}{said.path}{said.after}" == src
