"""Messages of one kind in one line."""

from sarvel.cli.ui.condensed import condensed


def test_few_messages_stay_as_they_are() -> None:
    messages = [
        "s.toml: slots.a: x.jpg: is odd; mend it",
        "pages/a.html:1:2: no slot 'a' in the plan",
        "no place at all",
    ]
    assert condensed(messages) == messages


def test_many_of_one_kind_are_one_line_with_the_worst_three() -> None:
    soft = [f"s.toml: slots.card: {name}.jpg: soft on 360x740@3, 390x844@3 ({share}% of visits); give more" for name, share in
            (("a", 5), ("b", 80), ("c", 20), ("d", 40))]  # fmt: skip
    other = "s.toml: slots.card: a.jpg: cut desk: webp is left out: its files weigh 9.1 kB"
    places = "s.toml: slots.card: b.jpg, s.toml: slots.card: d.jpg, s.toml: slots.card: c.jpg"
    words = "soft on 360x740@3, 390x844@3 (80% of visits); give more"
    assert condensed([*soft, other]) == [f"4 times, such as {places}: {words}; --verbose has all", other]


def test_names_in_quotes_and_counts_make_no_kind_of_their_own() -> None:
    told = [f'p.html:{i}:1: has no alt; write it under [masters."{i}.jpg"]' for i in range(5)]
    (line,) = condensed(told)
    places = ", ".join(f"p.html:{i}:1" for i in range(5))
    assert line.startswith(f"5 times, {places}: has no alt; write it under") and "--verbose" not in line
    (many,) = condensed(told * 2)
    assert many.count("p.html:") == 8 and many.endswith("; --verbose has all")
