"""Tags in each kind of template: found where markup is, and nowhere else."""

import pytest

from sarvel.core.html.component import markup_tags, script_tags
from sarvel.core.html.dialect import DIALECTS, dialect_of
from sarvel.core.html.front_matter import front_matter_end
from sarvel.core.html.images import names_a_file
from sarvel.core.html.markdown import read_markdown
from sarvel.core.html.markdown_script import markdown_script_tags
from sarvel.core.html.nested import code_with_elements
from sarvel.core.html.sections import section_tags
from sarvel.core.html.tags import Wanted
from sarvel.core.html.template_code import (
    braces,
    closing,
    code_with_calls,
    holds_code,
    marked_code,
    raw_or_marked_code,
    template,
)

IMG = '<img src="a.jpg">'
CASES = [
    ("html", f"<!-- {IMG} -->{IMG}<script>'{IMG}'</script>", 1),
    ("html", f"{{# {IMG} #}}{IMG}{{% raw %}}{IMG}{{% endraw %}}", 1),
    ("html", f"---\nx: {IMG}\n---\n{IMG}", 1),
    ("calls", f"@if(count($a) > 1) {IMG} @endif {{!! '{IMG}' !!}}", 1),
    ("braces", f"{{#if a}}{IMG}{{/if}}{{@html `{IMG}`}}", 1),
    ("expressions", f"---\nconst a = '{IMG}';\n---\n<p>{{list.map(one => {IMG})}}</p>", 1),
    ("script", f"const s = '{IMG}'; // {IMG}\nreturn a < b ? <p>{IMG.replace('>', '/>')}</p> : null;", 1),
    ("markdown", f"{IMG}\n\n![b](b.jpg)\n\n    {IMG}\n\n`![c](c.jpg)`\n", 2),
    ("xhtml", f"<![CDATA[{IMG}]]>{IMG}", 1),
    ("html", f"{{{{!-- {{{{ a }}}} {IMG} --}}}}{{{{/* {{{{ a }}}} {IMG} */}}}}{{{{- /* {IMG} */ -}}}}{IMG}", 1),
    ("html", f"{{{{{{{{raw-code x}}}}}}}}{IMG}{{{{{{{{/raw-code}}}}}}}}{IMG}", 1),
    ("html", f"<?php $a = '?>{IMG}'; /* ?>{IMG} */ $b = <<<END\n?>{IMG} \"\n  END; $c = \"?>{IMG}\" ?>{IMG}", 1),
    ("html", f"<?php // it's ?>{IMG}<?= '?>' ?>{IMG}<?php # don't\n $a = 1 ?>{IMG}", 3),
    ("html", f"{IMG}<?php echo 'never closed", 1),
    ("calls", f"{{{{-- {{{{ $a }}}} {IMG} --}}}}@php $a = \"{IMG}\"; @endphp @php($a = 1) {IMG}", 1),
    ("sections", f"<docs>{IMG}</docs><template><div>{IMG}<template #x>{IMG}</template><Img src='a'/></div></template><i18n>{IMG}</i18n>", 2),
    ("sections", f"<script>'{IMG}'</script><!-- <template>{IMG}</template> --><template lang='pug'>{IMG}</template>", 0),
    ("elements", f"<%-- {IMG} --%><c:if test='${{a > 1}}'>{IMG}</c:if><c:out value=\"${{'{IMG}'}}\"/>", 1),
    ("elements", "<img <c:if test='${a}'>class='x'</c:if> src=\"<c:url value='/a.jpg'/>\">", 1),
    ("statements", f"@* {IMG} *@{IMG}", 1),
    ("markdown-script", f"import a from './{IMG}'\n\n![b](b.jpg) `{IMG}`\n\n{{list.map(x => '{IMG}')}}\n\n<Card>\n  ![c](c.jpg)\n</Card>", 2),
    ("markdown-script", "{/* ![b](b.jpg) */}\n\n    ![c](c.jpg)\n\n<Img src='a'/><img src={a} />\n", 2),
    ("script", "const f = <T,>(a: T) => a, g = <T extends {}>(a: T) => a; return <Card icon={<img src='a.jpg' />}><img src='b.jpg'/></Card>", 2),
    ("script", "return <Card icon={list.map(a => <img src='a.jpg' />)} text='<img>' />", 1),
]  # fmt: skip


@pytest.mark.parametrize(("name", "text", "count"), CASES)
def test_images_are_found_where_markup_is(name: str, text: str, count: int) -> None:
    tags = [tag for tag in DIALECTS[name].tags(text, Wanted(frozenset({"img"}))) if tag.name == "img"]
    assert len(tags) == count
    assert all(
        text[tag.start] in "<!" and text[tag.end - 1] in ">)" and tag.short == (text[tag.start] == "!") for tag in tags
    )


def test_within_a_whole_element_all_is_looked_at_and_outside_what_was_asked_for() -> None:
    wanted = Wanted(frozenset({"picture", "img"}), whole=frozenset({"picture"}))
    for name in ("html", "markdown"):
        found = [tag.name for tag in DIALECTS[name].tags("<b></b><picture><i></i><img></picture><u></u>\n", wanted)]
        assert found == ["picture", "i", "i", "img", "picture"], name


@pytest.mark.parametrize(
    ("name", "dialect"),
    [
        ("a.html", "html"),
        ("a.blade.php", "calls"),
        ("A.TSX", "script"),
        ("a.md", "markdown"),
        ("a.tpl", "xhtml"),
        ("a.png", None),
        ("a.mdx", "markdown-script"),
        ("a.vue", "sections"),
        ("a.cshtml", "statements"),
        ("a.jsp", "elements"),
    ],
)
def test_a_dialect_by_its_file(name: str, dialect: str | None) -> None:
    found = dialect_of(name, {".tpl": "xhtml"})
    assert (found.name if found else None) == dialect


def test_components_know_code_from_markup() -> None:
    assert [tag.name for tag in script_tags("x = a<b; y = <Big><i a={'<b>'}/></Big>")] == ["i", "big"]
    assert [tag.name for tag in markup_tags("---\nconst a = <no>;\n---\n<p>{x && <b/>}</p><br><i></i>")] == [
        "p",
        "b",
        "p",
        "br",
        "i",
        "i",
    ]


@pytest.mark.parametrize(
    ("text", "end"), [("---\na\n---\nb", 10), ("+++\n+++\n", 8), ("---\na", 0), ("x\n---\n---\n", 0), ("---\n+++\n", 0)]
)
def test_front_matter(text: str, end: int) -> None:
    assert front_matter_end(text) == end


@pytest.mark.parametrize(
    ("skip", "text", "end"),
    [
        (marked_code, "{{ a }} b", 7), (marked_code, "{{ a", 0), (marked_code, "<?php a", 7), (marked_code, "{{{ a }}}", 9), (marked_code, "a", 0),
        (raw_or_marked_code, "{% raw %}{{ {% endraw %}x", 24), (code_with_calls, "@a(b(c)) d", 8), (code_with_calls, "{!! a !!}", 9),
        (braces, "{a: '}', b: `${ {} }`} c", 22), (braces, "{a", 0), (template, "`a${`b`}` c", 9), (template, "`a", 2),
    ],
)  # fmt: skip
def test_code_is_passed_over_whole(skip: object, text: str, end: int) -> None:
    assert skip(text, 0) == end  # type: ignore[operator]


def test_readers_by_themselves() -> None:
    wanted = Wanted(frozenset({"b"}))
    assert [tag.start for tag in section_tags("<template><b/></template>", wanted)] == [10]
    assert [tag.start for tag in markdown_script_tags("x <b/> <i/>\n", wanted)] == [2]
    assert code_with_elements("<c:if test='${a > \"b\"}'>x", 0) == 24 and code_with_elements("<b>", 0) == 0


def test_code_in_values_and_closings() -> None:
    import re

    assert [holds_code(value) for value in ("a", "{{ a }}", "a{b}", "{a}", "<?= a ?>", "${a}")] == [
        False,
        True,
        False,
        True,
        True,
        True,
    ]
    assert [closing("a%}b%}", at, re.compile("%}")) for at in (0, 2, 5)] == [3, 6, -1]


# CommonMark 0.31, sections 6.1 and 6.4 to 6.6: links in links, code before brackets, parentheses within parentheses.
MARKDOWN = [
    ("![a](x(1(2)).jpg)", [("x(1(2)).jpg", "a")]), ("![a ` b](x.jpg) and ![c ` d](y.jpg)", [("y.jpg", "a b](x.jpg) and ![c d")]),
    ("![a ` b](x.jpg)", [("x.jpg", "a ` b")]), ("![`]`](x.jpg)", [("x.jpg", "]")]), ('![<b title="]">](x.jpg)', [("x.jpg", '<b title="]">')]),
    ("![a [l](u) c](x.jpg)", [("x.jpg", "a l c")]), ("![a](x y.jpg)", []), ("![a]()", [("", "a")]), ("![r][]\n\n[r]: z.jpg", [("z.jpg", "r")]),
    ("![a [b](c]d) e](x)", [("x", "a b e")]), ("![a", []), ("\\![a](x)", []), ("![a](x 't')", [("x", "a")]),
]  # fmt: skip


@pytest.mark.parametrize(("text", "images"), MARKDOWN)
def test_images_of_markdown(text: str, images: list[tuple[str, str]]) -> None:
    values = [image.values() for image in read_markdown(text).images]
    assert [(said["src"], " ".join(said["alt"].split())) for said in values] == images


@pytest.mark.parametrize(
    ("alt", "src", "is_name"),
    [
        ("gull.jpg", "x", True),
        ("sea-gull", "a/sea-gull.png?v", True),
        ("gull", "gull.png", False),
        ("IMG_1234", "", True),
        ("A gull", "", False),
        ("", "", False),
    ],
)
def test_an_alt_that_is_a_file_name(alt: str, src: str, *, is_name: bool) -> None:
    assert names_a_file(alt, src) is is_name
