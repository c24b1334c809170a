"""Rules for backgrounds: a base rule that always holds, others for wider bands, each file there."""

import re
from dataclasses import replace

import tinycss2

from sarvel.core.address.address import InFolder
from sarvel.core.markup.backgrounds import background_files, background_rules, class_names
from tests.core.edition.test_compose import BANNER, LAMP, only

BEHIND = only(replace(BANNER, use="background"))


def test_rules_begin_with_a_base_and_name_files_that_are_made() -> None:
    rules = background_rules([BEHIND, only(BANNER)], [0, 1024], InFolder("")).splitlines()
    assert rules[0].startswith(".banner-sea-kuste-am-abend {") and rules[1].startswith("@media (min-width: 1024px) {")
    assert len(rules) == 2, "a slot that is not behind has none"
    names = {one.name for one in BEHIND.renditions()}
    for rule in rules:
        urls = [part.split('"')[0] for part in rule.split('url("')[1:]]
        assert urls and set(urls) <= names
        assert not [node for node in tinycss2.parse_stylesheet(rule) if node.type == "error"]
    wide = {one.name: one.width for one in BEHIND.renditions()}
    assert max(wide[part.split('"')[0]] for part in rules[0].split('url("')[1:]) >= 2 * 820, (
        "sharp on the widest tablet at 2x"
    )


def test_files_of_a_style_attribute_serve_each_density_by_its_widest_device() -> None:
    """BANNER is 100vw wide below 1024 px, at densities 1 and 2: a tablet of 820 px at 2x needs 1640 px, a phone at 3x 2 · 430."""
    files = background_files(BEHIND, InFolder("/p"))
    options = re.findall(r"url\('/p/([^']*)'\) type\('image/(\w+)'\) ([\d.]+)x", files.set)
    widths = {one.name: one.width for one in BEHIND.renditions()}
    assert {kind for _, kind, _ in options} == {"avif", "jpeg"} and files.plain.startswith("'/p/")
    avif = [(float(density), widths[name]) for name, kind, density in options if kind == "avif"]
    assert avif == sorted(avif) and len({width for _, width in avif}) == len(avif)
    for visits in BEHIND.crops[-1].visits:
        density = visits.device.dpr
        served = next((width for step, width in avif if step >= density), avif[-1][1])
        assert served >= visits.device.width * min(density, 2)


def test_names_tell_pictures_apart() -> None:
    other = only(BANNER, replace(LAMP, key="sea/Küste am Abend.png"))
    assert sorted(class_names([BEHIND]).values()) == ["banner-sea-kuste-am-abend"]
    assert sorted(class_names([BEHIND, other]).values()) == [
        "banner-sea-kuste-am-abend-jpg",
        "banner-sea-kuste-am-abend-png",
    ]
