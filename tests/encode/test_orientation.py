"""Parts of turned pictures against the whole turned by Pillow."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from sarvel.core.crop.place import Box
from sarvel.core.crop.turn import Turn
from sarvel.core.pixels.light import LIGHT_OF_BYTE
from sarvel.encode import decode
from sarvel.encode.decode import Decoded
from sarvel.encode.orientation import moved_size, moves_of, stored_box

PICTURE = Image.fromarray(np.random.default_rng(1).integers(0, 256, (7, 11, 3), np.uint8))


@given(st.lists(st.tuples(st.sampled_from(["", "left", "right", "half"]), st.booleans()), max_size=3), st.data())
def test_a_part_of_the_moved_is_the_moved_part(turns: list[tuple[Turn, bool]], data: st.DataObject) -> None:
    moves = [move for turn in turns for move in moves_of(*turn)]
    whole = PICTURE
    for move in moves:
        whole = whole.transpose(move)
    assert moved_size(PICTURE.size, moves) == whole.size
    left, right = sorted(data.draw(st.tuples(st.integers(0, whole.width), st.integers(0, whole.width))))
    top, bottom = sorted(data.draw(st.tuples(st.integers(0, whole.height), st.integers(0, whole.height))))
    part = PICTURE.crop(stored_box((left, top, right, bottom), PICTURE.size, moves))
    for move in moves:
        part = part.transpose(move)
    assert np.array_equal(np.asarray(part), np.asarray(whole.crop((left, top, right, bottom))))


@pytest.mark.parametrize(
    ("turn", "mirror", "wanted"),
    [
        ("left", False, [[2, 5], [1, 4], [0, 3]]),
        ("right", False, [[3, 0], [4, 1], [5, 2]]),
        ("half", False, [[5, 4, 3], [2, 1, 0]]),
        ("", True, [[2, 1, 0], [5, 4, 3]]),
        ("left", True, [[5, 2], [4, 1], [3, 0]]),  # turned first
    ],
)
@pytest.mark.parametrize("most_light", [0, 100], ids=["in bands", "whole"])
def test_a_turn_to_the_left_brings_the_right_edge_to_the_top(
    turn: Turn, mirror: bool, wanted: list[list[int]], most_light: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(decode, "MOST_LIGHT", most_light)
    picture = np.arange(6, dtype=np.uint8).reshape(2, 3, 1).repeat(3, axis=2)  # 0 1 2 above 3 4 5
    height, width = np.shape(wanted)
    light = Decoded.of(picture).reducer(turn, mirror=mirror)(Box(0, 0, width, height), width, height)
    assert light[0] == pytest.approx(LIGHT_OF_BYTE[np.array(wanted)], abs=1e-6)
