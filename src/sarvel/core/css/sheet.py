"""A stylesheet as far as images and breakpoints go: its style rules with the media they hold for, and where each stands."""

from __future__ import annotations

import functools
import re
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, replace

import tinycss2
from tinycss2.ast import AtRule, FunctionBlock, Node, QualifiedRule, StringToken, URLToken
from tinycss2.ast import Declaration as DeclarationNode

from sarvel.core.css.tokens import is_too_deep, parted

_LINE_END = re.compile(r"\r\n|[\r\n\f]")
_COMMENT = re.compile(r"/\*.*?(?:\*/|\Z)", re.DOTALL)
_PIECE = re.compile(
    r"""/\*.*?(?:\*/|\Z)|"(?:[^"\\\n]|\\.)*"|'(?:[^'\\\n]|\\.)*'|\burl\(\s*[^\s"')][^)]*\)|\\.|[()\[\]{};]""",
    re.DOTALL | re.IGNORECASE,
)
_OPENING, _CLOSING = "([{", {")": "(", "]": "[", "}": "{"}
_FILES = re.compile(r"url|image-set|cross-fade", re.IGNORECASE)
_MEDIA = re.compile(r"@media\b([^{;]*)\{", re.IGNORECASE)
_SETS = ("image-set", "-webkit-image-set", "cross-fade")


@dataclass(frozen=True)
class Url:
    """A URL in a declaration.

    Attributes:
        url: as written, escapes resolved.
        chosen: whether it is one of several in an image-set.
        type: the media type that the image-set says of it; "" if it says none.
    """

    url: str
    chosen: bool
    type: str = ""


@dataclass(frozen=True)
class Declaration:
    """One declaration.

    Attributes:
        selector: of its rule, spaces made single.
        media: the media queries that its rule is in, outermost first.
        name: in lower case.
        value: as written.
        start: where its name begins, in the stylesheet.
        important: whether it is marked so.
    """

    selector: str
    media: tuple[str, ...]
    name: str
    value: str
    urls: tuple[Url, ...]
    start: int
    important: bool = False


@dataclass(frozen=True, eq=False)
class Sheet:
    """A stylesheet; equal to itself alone, so that it can be the key of a cache.

    Attributes:
        declarations: in order.
    """

    declarations: tuple[Declaration, ...]
    imports: tuple[str, ...]

    @functools.cached_property
    def widths(self) -> tuple[Declaration, ...]:
        """The declarations of how wide something is, or may be."""
        return tuple(one for one in self.declarations if one.name in WIDTHS)


WIDTHS = frozenset({"max-width", "max-inline-size", "width", "inline-size"})
"""Properties that state how wide something is, or may be."""


@functools.lru_cache(maxsize=64)
def read_sheet(css: str) -> Sheet:
    """Reads a stylesheet; invalid CSS is skipped, as in a browser."""
    return _read(css)


def _read(css: str) -> Sheet:
    if is_too_deep(css):
        return Sheet((), ())
    declarations: list[Declaration] = []
    imports: list[str] = []
    nodes = tinycss2.parse_stylesheet(css, skip_comments=True, skip_whitespace=True)
    _rules(nodes, (), _line_starts(css), (declarations, imports))
    return Sheet(tuple(declarations), tuple(imports))


def naming_files(css: str) -> list[Declaration]:
    """The declarations of a stylesheet that have URLs, in order; only the statements around these are read."""
    spans = _statements(css) if _FILES.search(css) else []
    if spans is None:
        return [one for one in _read(css).declarations if one.urls]
    return [
        replace(one, start=start + one.start)
        for start, end in spans
        if _FILES.search(css, start, end)
        for one in _read(css[start:end]).declarations
        if one.urls
    ]


def media_of(css: str) -> list[str]:
    """The media queries of the media rules of a stylesheet, in order, with repetitions."""
    return [found.strip() for found in _MEDIA.findall(_COMMENT.sub("", css))]


def _statements(css: str) -> list[tuple[int, int]] | None:
    """Where each rule that is in no other begins and ends; None if brackets do not match."""
    spans, begin, opened = [], 0, ""
    for found in _PIECE.finditer(css):
        piece = found[0]
        if piece in _OPENING:
            opened += piece
        elif piece in _CLOSING:
            if opened[-1:] != _CLOSING[piece]:
                return None
            opened = opened[:-1]
        if piece in ("}", ";") and not opened:
            spans.append((begin, found.end()))
            begin = found.end()
    return None if opened else [*spans, (begin, len(css))]


_Collected = tuple[list[Declaration], list[str]]


def _rules(nodes: Iterable[Node], inside: tuple[str, ...], starts: Sequence[int], found: _Collected) -> None:
    _, imports = found
    for node in nodes:
        if isinstance(node, QualifiedRule):
            _style_rule(node, "", inside, starts, found)
        elif isinstance(node, AtRule):
            prelude = tinycss2.serialize(node.prelude).strip()
            if node.lower_at_keyword == "import":
                imports += [url.url for url in _urls(node.prelude)][:1] or _strings(node.prelude)[:1]
            elif node.lower_at_keyword == "media" and node.content is not None:
                _rules(_rule_list(node.content), (*inside, prelude), starts, found)
            elif node.lower_at_keyword in ("supports", "layer", "container", "scope") and node.content is not None:
                _rules(_rule_list(node.content), inside, starts, found)


def _style_rule(
    node: QualifiedRule, around: str, inside: tuple[str, ...], starts: Sequence[int], found: _Collected
) -> None:
    """Reads a style rule, and those nested in it (CSS Nesting 1, section 3)."""
    selector = " ".join(tinycss2.serialize(node.prelude).split())
    _block(node.content, _nested(selector, around) if around else selector, inside, starts, found)


def _block(
    content: Sequence[Node], selector: str, inside: tuple[str, ...], starts: Sequence[int], found: _Collected
) -> None:
    declarations, _ = found
    for one in tinycss2.parse_blocks_contents(content, skip_comments=True, skip_whitespace=True):
        if isinstance(one, DeclarationNode):
            declarations.append(_declaration(one, selector, inside, starts))
        elif isinstance(one, QualifiedRule):
            _style_rule(one, selector, inside, starts, found)
        elif isinstance(one, AtRule) and one.content is not None:
            prelude = tinycss2.serialize(one.prelude).strip()
            if one.lower_at_keyword == "media":
                _block(one.content, selector, (*inside, prelude), starts, found)
            elif one.lower_at_keyword in ("supports", "layer", "container"):
                _block(one.content, selector, inside, starts, found)


def _nested(selectors: str, around: str) -> str:
    """Nested selectors as such that are alone: `&` is what the rule around them means (CSS Nesting 1, section 3.1)."""
    parts = (tinycss2.serialize(part).strip() for part in parted(tinycss2.parse_component_value_list(selectors)))
    outer = f":is({around})"
    return ", ".join(part.replace("&", outer) if "&" in part else f"{outer} {part}" for part in parts)


def _rule_list(content: Sequence[Node]) -> Iterable[Node]:
    return tinycss2.parse_rule_list(content, skip_comments=True, skip_whitespace=True)


def declarations_of(css: str) -> list[Declaration]:
    """The declarations of a style attribute."""
    return list(_declarations(css, "", (), _line_starts(css))) if not is_too_deep(css) else []


def _declarations(
    content: Sequence[Node] | str, selector: str, media: tuple[str, ...], starts: Sequence[int]
) -> Iterator[Declaration]:
    for one in tinycss2.parse_declaration_list(content, skip_comments=True, skip_whitespace=True):
        if isinstance(one, DeclarationNode):
            yield _declaration(one, selector, media, starts)


def _declaration(one: DeclarationNode, selector: str, media: tuple[str, ...], starts: Sequence[int]) -> Declaration:
    start = starts[min(one.source_line, len(starts)) - 1] + one.source_column - 1
    value = tinycss2.serialize(one.value).strip()
    return Declaration(selector, media, one.lower_name, value, tuple(_urls(one.value)), start, one.important)


def _urls(tokens: Iterable[Node], *, chosen: bool = False) -> Iterator[Url]:
    for token in tokens:
        if isinstance(token, URLToken):
            yield Url(token.value, chosen)
        elif isinstance(token, FunctionBlock):
            if token.lower_name == "url":
                yield from (Url(text, chosen) for text in _strings(token.arguments))
            else:
                among = token.lower_name in _SETS
                for option in parted(token.arguments):
                    type_ = _type(option) if among else ""
                    yield from (replace(one, type=type_) for one in _urls(option, chosen=chosen or among))
                    yield from (Url(text, chosen=True, type=type_) for text in (_strings(option) if among else ()))


def _type(option: Iterable[Node]) -> str:
    """The media type that an option of an image-set says (CSS Images 4, section 2.4.1); "" if it says none."""
    calls = (one for one in option if isinstance(one, FunctionBlock) and one.lower_name == "type")
    return next((text.split(";")[0].strip().lower() for one in calls for text in _strings(one.arguments)), "")


def _strings(tokens: Iterable[Node]) -> list[str]:
    return [token.value for token in tokens if isinstance(token, StringToken)]


def _line_starts(css: str) -> list[int]:
    """Offsets of lines, as CSS counts them (CSS Syntax 3, section 3.3): CR, LF, CRLF and FF end one."""
    return [0, *(found.end() for found in _LINE_END.finditer(css))]
