"""Texts as TOML reads them back."""

import tomllib

import pytest

from sarvel.core.quoted import quoted


@pytest.mark.parametrize("text", ["", 'driver\'s "Maud".jpg', "a\\b\n\t\x7f\x01", "Küste ⛵"])
def test_a_text_comes_back(text: str) -> None:
    assert (
        tomllib.loads(f"[masters.{quoted(text or 'x')}]\nalt = {quoted(text)}")["masters"][text or "x"]["alt"] == text
    )
