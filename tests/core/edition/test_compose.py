"""Composing: what names hang on, which crops and rungs come out, what markup follows."""

from collections.abc import Mapping
from dataclasses import replace

import pytest

from sarvel.core.address.address import InFolder
from sarvel.core.crop.place import Box
from sarvel.core.css.device import Device
from sarvel.core.css.lengths import parse_length
from sarvel.core.css.media import parse_media
from sarvel.core.edition.compose import Edition, Picture, compose
from sarvel.core.edition.formats import READS
from sarvel.core.edition.rendition import CLEAN
from sarvel.core.facts import FormatFacts, MasterFacts
from sarvel.core.layout.audience import BUILT_IN
from sarvel.core.layout.bands import bands_from
from sarvel.core.layout.shown import EVERYWHERE, Shown, Step
from sarvel.core.markup.picture import displayed_size, fallback, style_rules, write_markup
from sarvel.core.markup.preload import preloads
from sarvel.core.model import CropRule, Finish, Master, Slot, Treatment
from sarvel.notices import Kind, Notice

FORMATS = {
    name: FormatFacts(
        name,
        f"image/{name}",
        ending,
        alpha,
        lossy,
        not lossy,
        interlaces=not lossy,
        longest={"jpeg": 65500, "avif": 32768}.get(name, 2**31 - 1),
        codecs={"quick": f"{name} 0.5", "normal": f"{name} 1.0", "thorough": f"{name} 2.0"},
    )
    for name, ending, alpha, lossy in (
        ("avif", "avif", True, True),
        ("jpeg", "jpg", False, True),
        ("png", "png", True, False),
    )
}
WIDE = parse_media("(min-width: 1024px)")
BANDS = bands_from({"phone": 0, "desktop": 1024}, ["phone", "desktop"])
BANNER = Slot(
    name="banner",
    shown=Shown.by_band(((BANDS[0], parse_length("100vw")), (BANDS[1], parse_length("min(100vw - 4rem, 1280px)")))),
    crops=(CropRule("desktop", WIDE, 21 / 9), CropRule("phone", EVERYWHERE, 4 / 5)),
    loading="eager",
    formats=("avif", "jpeg"),
    finish=Finish(),
    densities=(1, 2),
    rungs=5,
    excess=None,
    soft=0.05,
    widths=None,
    widest=2560,
)
BADGE = replace(
    BANNER,
    name="badge",
    shown=Shown((Step(EVERYWHERE, parse_length("96px")),)),
    crops=(CropRule("", EVERYWHERE, None),),
    loading="lazy",
)
LAMP = MasterFacts("sea/Küste am Abend.JPG", 4800, 3200, alpha=False, digest="00ff", size=1_000_000)


def composed(
    slot: Slot, facts: MasterFacts = LAMP, master: Master = Master(), reads: Mapping[str, float] | None = READS
) -> Edition:
    masters, known = {facts.key: master}, {facts.key: facts}
    return compose([(slot.name, facts.key)], {slot.name: slot}, masters, known, FORMATS, BUILT_IN, reads)


def only(
    slot: Slot, facts: MasterFacts = LAMP, master: Master = Master(), reads: Mapping[str, float] | None = READS
) -> Picture:
    (picture,) = composed(slot, facts, master, reads).pictures.values()
    return picture


def names(picture: Picture) -> set[str]:
    return {rendition.name for rendition in picture.renditions()}


def test_same_input_same_edition() -> None:
    assert composed(BANNER) == composed(BANNER)


@pytest.mark.parametrize(
    "other",
    [
        only(BANNER, replace(LAMP, digest="11ff")),
        only(BANNER, master=Master(subjects=(Box(0.7, 0.1, 0.8, 0.5),))),
        only(replace(BANNER, finish=Finish(likeness=95))),
        only(replace(BANNER, finish=Finish(quality={"avif": 50, "jpeg": 80}))),
        only(replace(BANNER, finish=Finish(gamut="wide"))),
        only(replace(BANNER, finish=Finish(metadata=("credit",)))),
        only(replace(BANNER, crops=(CropRule("desktop", WIDE, 2), CropRule("phone", EVERYWHERE, 1)))),
    ],
    ids=["content", "crop", "finish", "numbers by hand", "gamut", "kept credit", "ratio"],
)
def test_no_name_means_two_contents(other: Picture) -> None:
    assert not names(only(BANNER)) & names(other)


@pytest.mark.parametrize(
    "slot",
    [
        replace(BANNER, loading="lazy"),
        replace(BANNER, placeholder="soft"),
        replace(BANNER, finish=Finish(interlace=True)),
        replace(BANNER, name="BANNER!"),
        replace(BANNER, densities=(1, 2, 2)),
    ],
    ids=["load", "placeholder", "interlaced PNG, of which there is none", "name that reads alike", "density twice"],
)
def test_what_changes_no_pixel_changes_no_name(slot: Slot) -> None:
    assert names(only(slot)) == names(only(BANNER))


def test_names_need_no_escaping() -> None:
    assert all(name.startswith("kuste-am-abend-banner-") for name in names(only(BANNER)))


def test_nothing_is_enlarged_and_the_plan_is_told() -> None:
    small = only(BANNER, replace(LAMP, width=900, height=600))
    for crop in small.crops:
        assert max(rendition.width for rendition in crop.renditions["avif"]) <= crop.box.width
    assert any("the master gives 900 px across, the audience needs 2560" in str(note) for note in small.notices)


def test_a_lost_subject_is_told_by_its_share() -> None:
    picture = only(BANNER, master=Master(subjects=(Box(0.4, 0, 0.6, 1),)))
    # 21:9 of 4800×3200 is 2057.14 px high: 1 − 2057.14 / 3200 is lost.
    assert [
        one
        for one in picture.notices
        if one.place.endswith(": crop desktop") and one.text == "36% of the subject is lost"
    ]


def test_transparent_masters_get_png_for_jpeg() -> None:
    assert list(only(BANNER, replace(LAMP, alpha=True)).crops[0].renditions) == ["avif", "png"]


@pytest.mark.parametrize(
    ("facts", "master", "formats", "crisp"),
    [
        (replace(LAMP, drawn=True), Master(), ["avif", "png"], True),
        (LAMP, Master(drawn=True), ["avif", "png"], True),
        (replace(LAMP, drawn=True), Master(drawn=False), ["avif", "jpeg"], False),
    ],
    ids=["by its pixels", "by the plan", "not, by the plan"],
)
def test_flat_graphics_come_out_crisp(facts: MasterFacts, master: Master, formats: list[str], crisp: bool) -> None:
    renditions = only(BANNER, facts, master).crops[0].renditions
    assert list(renditions) == formats
    search = renditions["avif"][0].encoding.search
    assert search and search.likeness == (CLEAN if crisp else 93)
    assert renditions[formats[1]][0].encoding.lossless == crisp


def test_numbers_are_searched_up_to_the_middle_rung() -> None:
    for ladder in only(BANNER).crops[0].renditions.values():
        search = ladder[0].encoding.search
        assert search and search.sizes == tuple(one.size for one in ladder[: (len(ladder) + 1) // 2])
        assert len({one.encoding.search for one in ladder}) == 1


@pytest.mark.parametrize(
    ("slot", "facts", "kinds"),
    [
        (replace(BANNER, placeholder="soft"), LAMP, ["soft", "soft"]),
        (replace(BANNER, placeholder="#102030"), LAMP, ["#102030", "#102030"]),
        (BANNER, LAMP, [None, None]),
        (replace(BANNER, placeholder="tint"), replace(LAMP, alpha=True), [None, None]),
        (
            replace(
                BADGE,
                placeholder="tint",
                crops=(CropRule("", EVERYWHERE, 1, treatment=Treatment(matte="#ffffff")),),
            ),
            replace(LAMP, alpha=True),
            ["tint"],
        ),
    ],
    ids=["a crop each", "color", "none", "not behind transparency", "laid on a color"],
)
def test_placeholders(slot: Slot, facts: MasterFacts, kinds: list[str | None]) -> None:
    placeholders = [crop.placeholder for crop in only(slot, facts).crops]
    assert [one and one.kind for one in placeholders] == kinds
    keys = [one.key for one in placeholders if one]
    assert all(bool(key) != (kind or "").startswith("#") for key, kind in zip(keys, kinds, strict=False))


def test_style_rules_let_the_first_crop_that_holds_win() -> None:
    picture = only(replace(BANNER, placeholder="tint"))
    first, last = (crop.placeholder.key if crop.placeholder else "" for crop in picture.crops)
    whole, height, *rules = style_rules([picture], {first: "#111111", last: "#222222"}, InFolder("")).splitlines()
    assert whole.startswith(":where(picture:has(> :is(img[src") and whole.endswith(") { display: contents }")
    assert height.startswith(":where(img[src") and height.endswith("{ height: auto }"), "its crops differ in shape"
    assert "#222222 content-box" in rules[0] and not rules[0].startswith("@media")
    assert rules[1].startswith("@media (min-width: 1024px) { ") and "#111111 content-box" in rules[1]
    assert fallback(picture).name in rules[0]


def test_what_is_wrong_with_a_master_is_told_once() -> None:
    assert only(BANNER, replace(LAMP, remarks=("is odd; mend it",))).notices == (
        Notice(Kind.REMARK, LAMP.key, "is odd; mend it", severity="warning"),
    )


def test_pairs_whose_master_cannot_be_read_are_left_out() -> None:
    assert compose([("banner", "none.jpg")], {"banner": BANNER}, {}, {}, FORMATS, BUILT_IN).pictures == {}


@pytest.mark.parametrize("visits", BUILT_IN, ids=lambda visits: str(visits.device))
def test_every_device_gets_a_sharp_file(visits: object) -> None:
    device: Device = visits.device  # type: ignore[attr-defined]
    picture = only(BANNER)
    need = min(BANNER.shown.on(device) * min(device.dpr, 2), BANNER.widest)
    assert picture.fetched(device).width >= need - 1


def test_markup_of_crops() -> None:
    markup = write_markup(only(BANNER), InFolder("/p"), {})
    assert [(source.media, source.type) for source in markup.sources] == [
        ("(min-width: 1024px)", "image/avif"),
        ("(min-width: 1024px)", "image/jpeg"),
        ("", "image/avif"),
    ]
    assert markup.sources[0].sizes == "min(100vw - 4rem, 1280px)"
    assert markup.image.sizes == "100vw" and not markup.image.type
    assert markup.src.startswith("/p/") and markup.src in markup.image.srcset
    assert markup.eager


def test_markup_of_one_constant_width() -> None:
    markup = write_markup(only(BADGE), InFolder(""), {})
    first, fallback = ([one.split(" ")[1] for one in of.srcset.split(", ")] for of in (*markup.sources, markup.image))
    assert first == ["1x", "1.25x", "1.5x", "2x"] and fallback == ["2x"]  # which few fetch
    assert markup.image.sizes == "" and (markup.image.width, markup.image.height) == (96, 64)
    soft = write_markup(only(BADGE, replace(LAMP, width=150, height=100)), InFolder(""), {})
    assert soft.image.srcset.endswith(" 1.562x")  # 150 / 96, in four figures


def test_displayed_size_has_the_ratio_of_the_files() -> None:
    for slot in (BANNER, BADGE):
        picture = only(slot)
        for crop in picture.crops:
            width, height = displayed_size(crop)
            for rendition in crop.renditions["avif"]:
                assert width / height == pytest.approx(rendition.width / rendition.height, rel=0.01)


def test_effort_names_files_of_encoders_that_take_it() -> None:
    """The formats here tell another version for each effort; widths, crops and sizes stay."""
    normal, thorough = only(BANNER), only(replace(BANNER, effort="thorough"))
    assert not names(normal) & names(thorough)
    assert [crop.ladder.widths for crop in normal.crops] == [crop.ladder.widths for crop in thorough.crops]
    assert {one.encoding.effort for one in thorough.renditions()} == {"thorough"}


def test_reserved_space_has_the_crops_ratio() -> None:
    """Browsers lay images out by width and height as a ratio: rounding either would move what stands below."""
    for ratio in (4 / 3, 3 / 2, 21 / 9, 4 / 5):
        picture = only(replace(BANNER, crops=(CropRule("", EVERYWHERE, ratio),)))
        width, height = displayed_size(picture.crops[0])
        assert width / height == pytest.approx(ratio, rel=1e-4) and 0.98 * 1280 <= width <= 1280


@pytest.mark.parametrize(
    ("crops", "media"),
    [
        (["(min-width: 1024px)", "(min-width: 640.5px)", ""], ["(min-width: 1024px)", "(min-width: 640.5px) and (max-width: 1023.98px)", "(max-width: 640.48px)"]),
        (["(orientation: portrait)", "(min-width: 640px)", ""], ["(orientation: portrait)", "(min-width: 640px) and (not (orientation: portrait))", "(not (orientation: portrait)) and (not (min-width: 640px))"]),
        ([""], [""]),
    ],
)  # fmt: skip
def test_preload_links_exclude_each_other_in_words_that_most_browsers_read(crops: list[str], media: list[str]) -> None:
    rules = tuple(CropRule(f"c{i}", parse_media(css) if css else EVERYWHERE, 2 - i / 2) for i, css in enumerate(crops))
    assert [link.media for link in preloads(only(replace(BANNER, crops=rules)), InFolder(""))] == media
