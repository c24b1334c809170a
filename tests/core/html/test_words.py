"""Words that markup shows."""

import pytest

from sarvel.core.html.words import words_in


@pytest.mark.parametrize(
    ("text", "count"),
    [
        ("", 0),
        ("<p>one two</p><p>three", 3),
        ("<script>a b c</script>one<STYLE>p { x: y }</STYLE> <!-- a > b --> two", 2),
        ('<img alt="not these"><b>this</b>', 1),
    ],
)
def test_words_of_markup(text: str, count: int) -> None:
    assert words_in(text) == count
