"""Room for an image: what is written for it beside what the author wrote."""

from dataclasses import replace

import pytest

from sarvel.core.html.dialect import DIALECTS, HTML
from sarvel.core.html.tags import Tag, read_tag
from sarvel.core.markup.picture import Markup, Room, Source
from sarvel.pages.weave.room import RoomHere, room_in, styled

RATIO = {"aspect-ratio": "auto 3/2"}


def tag(text: str, dialect: str = "html") -> Tag:
    found = read_tag(text, 0, DIALECTS[dialect].code)
    assert found
    return found


def markup(room: Room) -> Markup:
    return Markup((), Source("", "", "a 1x", "", 300, 200), "a", eager=False, room=room)


AS_IT_IS, CROP = Room("ratio", (3, 2)), Room("ratio", (3, 2), cropped=True)
SIZE, SHAPES = Room("size", (3, 2)), Room("size", (3, 2), cropped=True, height=True)
OURS = {"width": "300", "height": "200"}


@pytest.mark.parametrize(
    ("author", "room", "here"),
    [
        ("<img>", AS_IT_IS, RoomHere(style=RATIO)),
        ("<img width=30>", AS_IT_IS, RoomHere(style=RATIO)),
        ("<img width=30 height=20>", AS_IT_IS, RoomHere()),
        ("<img width=30 height=90>", AS_IT_IS, RoomHere()),
        ("<img width=30 height=90>", CROP, RoomHere({"width": "30", "height": "20"}, aside=("width", "height"))),
        ("<img width=30 height=20>", CROP, RoomHere()),
        ("<img width=30% height=20>", CROP, RoomHere()),
        ("<img>", SIZE, RoomHere(OURS, on_sources=True)),
        ("<img width=30>", SIZE, RoomHere({"height": "20"})),
        ("<img height=30>", SIZE, RoomHere()),
        ("<img width=30 height=20>", SIZE, RoomHere()),
        ("<img :width=w>", SIZE, RoomHere()),
        ("<img>", SHAPES, RoomHere(OURS, on_sources=True, style={"height": "auto"})),
        ("<img width=3>", SHAPES, RoomHere(OURS, on_sources=True, aside=("width",), style={"height": "auto"})),
        ("<img>", Room("none", (3, 2)), RoomHere()),
    ],
)
def test_what_the_author_wrote_stays(author: str, room: Room, here: RoomHere) -> None:
    assert room_in(tag(author), markup(room)) == here


@pytest.mark.parametrize("author", ["<img>", "<img width=30>", "<img width=30 height=20>"])
def test_a_ratio_is_exact_where_no_rule_gives_the_img_edges(author: str) -> None:
    exact = Room("ratio", (700, 467), exact=(4000, 2667))
    assert room_in(tag(author), markup(exact), bare=True) == RoomHere(style={"aspect-ratio": "4000/2667"})
    assert room_in(tag(author), markup(replace(exact, exact=None)), bare=True).style.get("aspect-ratio") != "4000/2667"
    assert room_in(tag("<img>"), markup(exact)) == RoomHere(style={"aspect-ratio": "auto 700/467"})
    assert room_in(tag("<img>"), markup(replace(exact, kind="size")), bare=True) == RoomHere(OURS, on_sources=True)


@pytest.mark.parametrize(
    ("author", "dialect", "style"),
    [
        ("<img>", "html", 'style="aspect-ratio:auto 3/2"'),
        ('<img style="width: 9px">', "html", 'style="aspect-ratio:auto 3/2;width: 9px"'),
        ("<img style='font: \"x\"'>", "html", "style='aspect-ratio:auto 3/2;font: \"x\"'"),
        ("<img/>", "script", 'style={{ aspectRatio: "auto 3/2" }}'),
        (
            "<img style={{ width: 9 }}/>",
            "script",
            'style={{ aspectRatio: "auto 3/2", ...{ width: 9 } }}',
        ),
        ("<img style={theirs} />", "script", 'style={{ aspectRatio: "auto 3/2", ...theirs }}'),
        ("<img style={theirs} />", "expressions", ""),
    ],
)
def test_styles_of_the_author_win(author: str, dialect: str, style: str) -> None:
    assert styled(tag(author, dialect), RATIO, DIALECTS[dialect]) == style


def test_nothing_to_say_is_no_attribute() -> None:
    assert styled(tag("<img style=x>"), {"background": ""}, HTML) == ""
