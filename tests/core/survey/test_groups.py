"""Images of pages grouped into slots by what tells most of them."""

from sarvel.core.html.document import read_document
from sarvel.core.survey.groups import LocalImage, grouped

PAGE = """
<img src="top.jpg" alt=""><img data-sarvel="card" src="c.jpg" alt="">
<img src="a.jpg" sizes="(min-width: 600px) 50vw, 100vw" srcset="a.jpg 1w"><img src="b.jpg" sizes="10%" class="thumb left">
<img src="d.jpg" class="thumb"><img src="e.jpg" width="300"><img src="f.jpg">
"""


def test_groups_and_what_tells_their_width() -> None:
    images = [
        LocalImage(image, image.tag.values()["src"], "p", f"p:{image.number}") for image in read_document(PAGE).images
    ]
    told = {
        group.name: (group.takes, group.shown, group.first, group.guessed, [one.src for one in group.images])
        for group in grouped(images)
    }
    assert told == {
        "card": ([], "100vw", False, True, ["c.jpg"]),
        "opening": (['[src="top.jpg"]'], "100vw", True, True, ["top.jpg"]),
        "listed": (
            ['[sizes="(min-width: 600px) 50vw, 100vw"]'],
            "(min-width: 600px) 50vw, 100vw",
            False,
            False,
            ["a.jpg"],
        ),
        "thumb": ([".thumb"], "100vw", False, True, ["b.jpg", "d.jpg"]),
        "shown-300": (['[width="300"]'], "min(100vw, 300px)", False, False, ["e.jpg"]),
        "picture": (["img"], "100vw", False, True, ["f.jpg"]),
    }
