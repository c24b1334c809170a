"""Templates with statements: tags are found where markup is, whatever strings, comments and generics hold."""

import re
from pathlib import Path

import pytest

from sarvel.core.html.statements import code_in_statements, statement_tags
from tests.razor import by_razor

IMG = "<img src='a.jpg'>"


CASES = [
    (f"<p>{IMG}</p>", ["p", "img", "p"]),
    (f"@* {IMG} *@{IMG}", ["img"]),
    (f'@{{ var a = "{IMG}"; }}{IMG}', ["img"]),
    (f'@{{ var a = @"x ""{IMG}"; }}{IMG}', ["img"]),
    (f'@{{ var a = """{IMG} " """; }}{IMG}', ["img"]),
    (f"@{{ // {IMG}\n }}{IMG}", ["img"]),
    (f"@{{ /* {IMG} */ }}{IMG}", ["img"]),
    (f"@{{ var a = 1; {IMG} var b = \"<i>\"; }}{IMG}", ["img", "img"]),
    (f"@{{ <p>one {IMG}</p> }}{IMG}", ["p", "img", "p", "img"]),
    ("@{ var list = new List<string>(); if (a < b) { } }<b>", ["b"]),
    (f"@foreach (var x in Of<int>(\"<i>\")) {{ {IMG} }}<b>", ["img", "b"]),
    (f"@if (a) {{ {IMG} }} else if (b) {{ <i>x</i> }} else {{ <u/> }}<b>", ["img", "i", "i", "u", "b"]),
    (f"@section Side {{ <p>{IMG} it's</p> }}<b>", ["p", "img", "p", "b"]),
    ("@code { string a = \"<i>\"; char c = '<'; }<b>", ["b"]),
    ("a@@b.example <b> me@example.com <i>", ["b", "i"]),
    ("<script>var a = '<i>';</script><b>", ["script", "b"]),
    ("<p class=\"@(a > 1 ? \"x\" : \"y\")\">@Model.Items[\"<i>\"].Of(\"<u>\").Name<b>", ["p", "b"]),
    ("@{ <text>one <b>two</b></text> }", ["text", "b", "b", "text"]),
    ("<!-- <i> --><b>", ["b"]),
    ("@{ never closed \" <i>", []),
]  # fmt: skip


@pytest.mark.parametrize(("text", "names"), CASES)
def test_tags_among_statements(text: str, names: list[str]) -> None:
    assert [tag.name for tag in statement_tags(text)] == names


def test_a_line_of_markup_among_statements_is_one_line() -> None:
    text = f"@if (a) {{\n  @: one {IMG} two\n  {IMG}\n}}\n{IMG}"
    assert [tag.one_line for tag in statement_tags(text)] == [True, False, False]


@pytest.mark.parametrize(
    ("text", "end"),
    [("@a.b(c)[d] e", 10), ("@(a + \")\") b", 10), ("@@a", 0), ("@* a *@ b", 7), ("@a?.b!.c d", 8), ("@(a", 0), ("@{ a } b", 6), ("a", 0), ("@a. b", 2)],
)  # fmt: skip
def test_code_within_a_tag(text: str, end: int) -> None:
    assert code_in_statements(text, 0) == end


def test_razor_reads_the_same_tags_as_markup(tmp_path: Path) -> None:
    """Less what it does not know at its age, raw strings, and what is no template of its."""
    known = [
        (text, names)
        for text, names in CASES
        if '"""' not in text and "never closed" not in text and "@code" not in text
    ]
    for (text, names), pieces in zip(known, by_razor([text for text, _ in known], tmp_path), strict=True):
        markup = "".join(piece for kind, piece in pieces if kind == "Markup")
        markup = re.sub("<!--.*?-->|<script>.*?</script>", "", markup)
        assert re.findall(r"</?(\w+)", markup) == [name for name in names if name not in ("text", "script")], text
        assert not any(kind == "Error" for kind, _ in pieces), text
