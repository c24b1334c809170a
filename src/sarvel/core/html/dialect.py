"""Dialects: how the tags of each kind of template are found, and how woven markup must be spelled in it."""

from __future__ import annotations

import heapq
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Literal, TypeAlias

from sarvel.core.html import markdown, markdown_script
from sarvel.core.html.component import markup_tags, script_tags
from sarvel.core.html.front_matter import front_matter_end
from sarvel.core.html.nested import code_with_elements, element_tags
from sarvel.core.html.sections import section_tags
from sarvel.core.html.statements import code_in_statements, statement_tags
from sarvel.core.html.tags import COMPONENT, Tag, Wanted, read_tag, tags
from sarvel.core.html.template_code import (
    Beyond,
    beside_code,
    braces,
    code_with_calls,
    joined_or_marked_code,
    marked_code,
    php_block,
    php_texts,
    raw_or_marked_code,
)

Style: TypeAlias = Literal["text", "text or object", "object"]

TagReader: TypeAlias = Callable[[str, Wanted | None], Iterator[Tag]]
"""Takes a text and the elements to look for, None for all; yields their tags in order, and maybe others."""


def _no_outline(_text: str) -> Sequence[str]:
    return ()


@dataclass(frozen=True)
class Dialect:
    """A kind of template: how it is read and written.

    Attributes:
        code: passes over template code within a tag.
        camel: whether attributes are spelled srcSet and fetchPriority.
        closed: whether an element without content must be closed by a slash, and every attribute have a value.
        one_line: whether woven markup may hold no line end.
        fragment: reads markup that was woven into a page; None if that is read as a whole page is.
        nests: whether the meaning of a text depends on open elements before it. Else, from the end of a tag on, it depends on the
            text from there alone: the text between two images is read the same, whichever markup replaces them.
        lines: whether lines decide on paragraphs. "html": a tag alone on its line is no paragraph; "components": what consists of
            tags alone is not one.
        outline: the parts of a page that its lines decide on, as paragraphs, in order; they must outlast weaving.
    """

    name: str
    tags: TagReader
    code: Beyond
    camel: bool = False
    closed: bool = False
    one_line: bool = False
    style: Style = "text"
    fragment: TagReader | None = None
    nests: bool = False
    lines: Literal["", "html", "components"] = ""
    outline: Callable[[str], Sequence[str]] = _no_outline

    def tags_of_fragment(self, text: str, only: Wanted | None) -> Iterator[Tag]:
        """The tags of markup that was woven into a page of this dialect."""
        return (self.fragment or self.tags)(text, only)


_MOST_UNENDED = 8  # tags of a file that never end, each looked for to the end of the text
_STOP_OF_CALLS = r"\{[{%#!]|@verbatim\b|@php\b"


def _html(text: str, only: Wanted | None) -> Iterator[Tag]:
    return tags(text, front_matter_end(text), only=only)


def _html_joined(text: str, only: Wanted | None) -> Iterator[Tag]:
    return tags(text, only=only, code=joined_or_marked_code)


def _php(text: str, only: Wanted | None) -> Iterator[Tag]:
    """Tags of HTML, and those in texts of PHP between single quotes, which must stay in their line."""
    return heapq.merge(_html(text, only), _in_texts(text, only), key=lambda tag: tag.start)


def _in_texts(text: str, only: Wanted | None) -> Iterator[Tag]:
    behind = unended = 0
    for start, end in php_texts(text):
        behind = max(behind, start)
        while unended < _MOST_UNENDED and (at := text.find("<", behind, end)) >= 0:
            tag = read_tag(text, at, joined_or_marked_code)
            behind = tag.end if tag else at + 1
            unended += tag is None
            if (
                tag
                and (only is None or tag.name in only.names)
                and "'" not in beside_code(text, joined_or_marked_code, tag.start, tag.end)
            ):
                yield replace(tag, one_line=True)


def _raw_or_echo(text: str, at: int) -> int:
    """Passes over code as raw_or_marked_code does, and over `{!! … !!}` and `@php … @endphp`."""
    if text.startswith("@php", at):
        return php_block(text, at)
    return code_with_calls(text, at) if text.startswith("{!!", at) else raw_or_marked_code(text, at)


def _with_calls(text: str, only: Wanted | None) -> Iterator[Tag]:
    return tags(text, front_matter_end(text), only=only, code=code_with_calls, skip=_raw_or_echo, stop=_STOP_OF_CALLS)


def _statements(text: str, _only: Wanted | None) -> Iterator[Tag]:
    return statement_tags(text)


def _expressions(text: str, _only: Wanted | None) -> Iterator[Tag]:
    return markup_tags(text)


def _script(text: str, _only: Wanted | None) -> Iterator[Tag]:
    return script_tags(text)


def _no_tags(_text: str, _only: Wanted | None) -> Iterator[Tag]:
    return iter(())


HTML = Dialect("html", _html, marked_code)

DIALECTS: Mapping[str, Dialect] = {
    dialect.name: dialect
    for dialect in (
        HTML,
        Dialect("php", _php, joined_or_marked_code, fragment=_html_joined),
        Dialect("xhtml", _html, marked_code, closed=True),
        Dialect("calls", _with_calls, code_with_calls),
        Dialect("statements", _statements, code_in_statements, nests=True),
        Dialect("elements", element_tags, code_with_elements, nests=True),
        Dialect("sections", section_tags, marked_code, fragment=_html),
        Dialect("braces", markdown_script.script_markup_tags, braces),
        Dialect("expressions", _expressions, braces, style="text or object", nests=True),
        Dialect("script", _script, braces, camel=True, closed=True, style="object", nests=True),
        Dialect(
            "markdown",
            markdown.markdown_tags,
            marked_code,
            one_line=True,
            fragment=_html,
            lines="html",
            outline=markdown.outline,
        ),
        Dialect(
            "markdown-script",
            markdown_script.markdown_script_tags,
            braces,
            camel=True,
            closed=True,
            one_line=True,
            style="object",
            fragment=markdown_script.script_markup_tags,
            lines="components",
            outline=markdown_script.outline,
        ),
        Dialect("json", _no_tags, marked_code),
        Dialect("css", _no_tags, marked_code),
        Dialect("scss", _no_tags, marked_code),
    )
}

_BY_ENDING = {
    "html": "html htm njk jinja jinja2 j2 twig liquid erb ejs hbs handlebars mustache tmpl gohtml",
    "php": "php phtml",
    "xhtml": "xhtml xht",
    "calls": "blade.php",
    "statements": "cshtml vbhtml razor",
    "elements": "jsp jspf tag",
    "sections": "vue",
    "braces": "svelte",
    "expressions": "astro",
    "script": "jsx tsx",
    "markdown": "md markdown",
    "markdown-script": "mdx",
    "json": "webmanifest",
}
STYLES: Mapping[str, str] = {".css": "css", ".scss": "scss", ".less": "scss"}
"""The dialect of stylesheets, which are pages of plans alone that have a slot for them."""

ENDINGS: Mapping[str, str] = {f".{ending}": name for name, endings in _BY_ENDING.items() for ending in endings.split()}
"""The dialect that files of each ending are in, in lower case, unless the plan says otherwise."""


def dialect_of(name: str, said: Mapping[str, str]) -> Dialect | None:
    """The dialect of a file by its name; of two endings the longer counts. None if it is no page, nor is our own component.

    Args:
        said: what the plan says of endings, before our own.
    """
    parts = name.lower().split(".")
    if parts[0] == COMPONENT.lower():
        return None
    if name.lower() == "manifest.json":  # its other common name: Web App Manifest, section "Linking to a manifest"
        return DIALECTS["json"]
    endings = ["." + ".".join(parts[i:]) for i in range(1, len(parts))]
    known = {**ENDINGS, **said}
    return next((DIALECTS[known[ending]] for ending in endings if ending in known), None)
