"""Widths of known truth, measured by numbers alone: bends to the pixel, the shortest text, half a pixel at most."""

import math
import random
from collections.abc import Callable

import pytest

from sarvel.core.css.device import Device
from sarvel.core.layout.alike import Measured, are_alike, sorted_apart, united
from sarvel.core.layout.bends import NARROWEST, WIDEST, closer_looks, first_looks
from sarvel.core.layout.fitted import Pull, fit_shown, middles
from sarvel.core.layout.lines import pieces_of

Truth = Callable[[int], float | None]


def seen_of(truth: Truth) -> dict[int, float | None]:
    """What would be measured of it: in steps of 1/64 px, as browsers lay out."""

    def at(viewport: int) -> float | None:
        width = truth(viewport)
        return None if width is None else math.floor(width * 64) / 64

    seen = {one: at(one) for one in first_looks()}
    while looks := closer_looks(seen):
        seen |= {one: at(one) for one in looks}
    return seen


@pytest.mark.parametrize(
    ("truth", "steps"),
    [
        (lambda _: 96.0, {0: "96px"}),
        (lambda v: v, {0: "100vw"}),
        (lambda v: v - 32, {0: "calc(100vw - 32px)"}),
        (lambda v: min(v - 64, 1280), {0: "min(100vw - 64px, 1280px)"}),
        (lambda v: min(max(300, v / 2), 720), {0: "min(max(300px, 50vw), 720px)"}),
        (lambda v: v - 48 if v < 900 else v - 360, {0: "calc(100vw - 48px)", 900: "calc(100vw - 360px)"}),
        (lambda v: v - 32 if v < 641 else (v - 80) / 2 if v < 1024 else 384, {0: "calc(100vw - 32px)", 641: "calc(50vw - 40px)", 1024: "384px"}),
        (lambda v: None if v < 600 else v / 4, {0: "25vw"}),
        (lambda v: 200 if v < 700 else None if v < 900 else 100, {0: "200px", 900: "100px"}),
        (lambda v: (v - 60) / 7, {0: "calc(14.29vw - 8.5px)"}),  # shorter than a seventh, and near enough
        (lambda v: round(0.37 * v - 14), {0: "calc(37vw - 14px)"}),
        (lambda v: 1 + 0.0625 * v if v < 1000 else 63.5 + (v - 1000) * 0.31, {0: "max(6.25vw + 1px, 31vw - 246.5px)"}),
    ],
)  # fmt: skip
def test_the_truth_is_found(truth: Truth, steps: dict[int, str]) -> None:
    seen = seen_of(truth)
    fitted = fit_shown(seen, {}, 900)
    assert dict(fitted.steps) == steps and fitted.error <= 0.5 and len(seen) < 400
    chance = random.Random(3)
    for viewport in [chance.randint(NARROWEST, WIDEST) for _ in range(200)]:
        width = truth(viewport)
        assert width is None or abs(fitted.on(Device(viewport, 900)) - width) <= 0.51


def test_columns_that_come_one_after_another_are_found_to_the_pixel() -> None:
    def truth(viewport: int) -> float:
        count = max(1, math.floor((viewport - 40 + 16) / 256))
        return (viewport - 40 - 16 * (count - 1)) / count

    fitted = fit_shown(seen_of(truth), {}, 900)
    assert [start for start, _ in fitted.steps] == [0, *(256 * n + 24 for n in range(2, 15))]
    assert all(abs(fitted.on(Device(v, 900)) - truth(v)) <= 0.5 for v in range(240, 3841, 7))


def test_what_else_pulls_is_said_in_its_unit() -> None:
    seen = seen_of(lambda v: v / 2 - 48)
    at = middles(seen)
    assert fit_shown(seen, {one: Pull(font=-3.0) for one in at}, 900).steps == ((0, "calc(50vw - 3rem)"),)
    assert fit_shown(seen, {one: Pull(font=-2.93) for one in at}, 900).steps == ((0, "calc(50vw - 48px)"),), (
        "no part of a font"
    )
    tall = seen_of(lambda _: 360.0)
    assert fit_shown(tall, {one: Pull(height=0.4) for one in middles(tall)}, 900).steps == ((0, "40vh"),)


def test_pieces_are_as_few_as_can_be() -> None:
    points = {0: 0.0, 10: 10.0, 20: 20.0, 30: 20.0, 40: 20.0, 50: None, 60: 5.0}
    assert [(piece.start, piece.end, piece.slope) for piece in pieces_of(points)] == [
        (0, 20, 1),
        (30, 40, 0),
        (60, 60, 0),
    ]


def place(limit: int | None, width: Truth = lambda v: v - 20) -> Measured:
    def shown(viewport: int) -> float | None:
        room = width(viewport)
        return room if room is None or limit is None else min(room, limit)

    return Measured.of(seen_of(shown), {}, limit or 0)


def test_images_that_their_files_limit_are_alike_in_one_place() -> None:
    small, large, free, other = place(300), place(900), place(None), place(None, lambda v: v / 2)
    assert (small.limit, large.limit, free.limit) == (300, 900, None)
    assert are_alike([small, large, free]) and not are_alike([small, other]) and not are_alike([free, other])
    assert united([small, large]).limit == 900 and fit_shown(united([small, large]).widths, {}, 900).steps == (
        (0, "min(100vw - 20px, 900px)"),
    )
    assert sorted_apart([small, other, large, free, other]) == [[0, 2, 3], [1, 4]]
    assert Measured.of({240: 200.0}, {}, 100).limit is None, "wider than its file: nothing limits it"


def test_looks_are_bounded() -> None:
    """A width that is no chain of lines is left after as many looks as there are viewports."""
    seen: dict[int, float | None] = {one: math.sqrt(one) * 20 for one in first_looks([640.5])}
    assert {640, 641} <= seen.keys()
    while looks := closer_looks(seen):
        seen |= {one: math.sqrt(one) * 20 for one in looks}
    assert len(seen) < 400 and fit_shown(seen, {}, 900).error <= 0.5
