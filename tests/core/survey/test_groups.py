"""Images of pages grouped into slots by what tells most of them, so that each slot takes its own images and no others."""

from sarvel.core.html.document import read_document
from sarvel.core.html.selector import parse_selector
from sarvel.core.survey.groups import Group, LocalImage, grouped
from sarvel.core.survey.traits import Traits

PAGE = """
<img src="top.jpg" alt=""><img data-sarvel="card" src="c.jpg" alt="">
<img src="a.jpg" sizes="(min-width: 600px) 50vw, 100vw" srcset="a.jpg 1w"><img src="b.jpg" sizes="10%" class="thumb left">
<img src="d.jpg" class="thumb"><img src="e.jpg" width="300"><img src="f.jpg">
"""


def images_of(page: str, traits: dict[str, Traits]) -> list[LocalImage]:
    images = read_document(page).images
    sources = [image.tag.values()["src"] for image in images]
    return [
        LocalImage(image, src, "p", f"p:{image.number}", 900, traits.get(src, Traits()))
        for image, src in zip(images, sources, strict=True)
    ]


def told(groups: list[Group]) -> dict[str, tuple[list[str], str, bool, list[str]]]:
    return {one.name: (one.selectors, one.shown, one.guessed, [image.src for image in one.images]) for one in groups}


def test_groups_and_what_tells_their_width() -> None:
    assert told(grouped(images_of(PAGE, {}))) == {
        "card": ([], "min(100vw, 900px)", True, ["c.jpg"]),
        "listed": (['[sizes="(min-width: 600px) 50vw, 100vw"]'], "(min-width: 600px) 50vw, 100vw", False, ["a.jpg"]),
        "thumb": ([".thumb"], "min(100vw, 900px)", True, ["b.jpg", "d.jpg"]),
        "shown-300": (['[width="300"]'], "min(100vw, 300px)", False, ["e.jpg"]),
        "picture": (["img"], "min(100vw, 900px)", True, ["top.jpg", "f.jpg"]),
    }


def test_images_that_rules_treat_differently_are_told_apart_by_address() -> None:
    traits = {
        "b.jpg": Traits(natural=True),
        "d.jpg": Traits(shown=150.0, most=150.0),
        "e.jpg": Traits(most=200.0),
        "f.jpg": Traits(shaped=True, by_place="p > img"),
    }
    groups = grouped(images_of(PAGE, traits))
    assert told(groups) == {
        "card": ([], "min(100vw, 900px)", True, ["c.jpg"]),
        "picture": (['[src="f.jpg"]'], "min(100vw, 900px)", True, ["f.jpg"]),
        "thumb": (['[src="d.jpg"]'], "150px", False, ["d.jpg"]),
        "listed": (['[sizes="(min-width: 600px) 50vw, 100vw"]'], "(min-width: 600px) 50vw, 100vw", False, ["a.jpg"]),
        "thumb-2": ([".thumb"], "900px", False, ["b.jpg"]),
        "shown-300": (['[width="300"]'], "min(100vw, 200px)", False, ["e.jpg"]),
        "picture-2": (["img"], "min(100vw, 900px)", True, ["top.jpg"]),
    }
    assert [group.layout.by_place for group in groups if group.layout.shaped] == ["p > img"]


def test_every_image_is_taken_by_its_own_group() -> None:
    """Of one address with two layouts what is safe for both holds."""
    page = """<img src="a.jpg" class="x"><img src="a.jpg" width="300"><img src='q".jpg' class="x"><img src="b.jpg" class="y x">"""
    images = images_of(page, {"b.jpg": Traits(natural=True)})
    images[1] = LocalImage(images[1].image, "a.jpg", "p", "p:2", 900, Traits(shaped=True))
    groups = grouped(images)
    for group in groups:
        for one in group.images:
            taker = next(
                other for other in groups if any(parse_selector(css).matches(one.image.tag) for css in other.selectors)
            )
            assert taker is group
    assert sum(len(group.images) for group in groups) == len(images)
