"""Colors of the terminal."""

import re
from pathlib import Path

import pytest

from sarvel.cli.ui import styles

COLORS = {name: said for name, said in vars(styles).items() if name.isupper()}


def luminance(color: str) -> float:
    """WCAG 2.2, "relative luminance"."""
    parts = [int(color[at : at + 2], 16) / 255 for at in (1, 3, 5)]
    red, green, blue = (part / 12.92 if part <= 0.04045 else ((part + 0.055) / 1.055) ** 2.4 for part in parts)
    return 0.2126 * red + 0.7152 * green + 0.0722 * blue


@pytest.mark.parametrize("name", COLORS)
def test_colors_are_read_on_light_and_on_dark(name: str) -> None:
    found = re.search(r"#\w{6}$", COLORS[name])
    assert found
    light = luminance(found[0])
    assert 1.05 / (light + 0.05) >= 4 and (light + 0.05) / 0.05 >= 4, (1.05 / (light + 0.05), (light + 0.05) / 0.05)


def test_no_color_is_named_elsewhere() -> None:
    for file in Path(styles.__file__).parent.glob("*.py"):
        named = re.findall(r'"(?:bold |dim )?(?:red|green|yellow|blue|magenta|cyan|white|black)"', file.read_text())
        assert not named, file.name
