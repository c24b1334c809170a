"""Tags in component files, where markup stands among JavaScript and expressions in braces among markup.

A file is read with a stack of what one is in: code, or the children of an element. In code a `<` opens an element only where
an expression can begin; elsewhere it compares, or holds a type.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass, field

from sarvel.core.html.front_matter import front_matter_end
from sarvel.core.html.tags import VOID, Attribute, Tag, is_call, read_tag
from sarvel.core.html.template_code import braces, string_or_comment, template

_RAW = frozenset({"script", "style"})

_IN_CODE = re.compile(r"""[<{}"'`]|//|/\*|/""")
_IN_CHILDREN = re.compile(r"[<{]")
# Behind these an expression begins (ECMAScript, section 12.10.1, for the division sign; the same holds for `<`).
_BEFORE_EXPRESSION = re.compile(r"(?:^|[(,=:\[!&|?{};>]|\b(?:return|default|yield|await|case|else))\s*$")
_LONGEST_REGEX = 1000  # characters; a `/` whose fellow is farther away divides
_MOST_UNENDED = 8  # of a file: after so many tags that never end, a `<` in it is taken to compare
_REGEX = re.compile(r"/(?![*/])(?:[^\\/\[\n]|\\.|\[(?:[^\]\\\n]|\\.)*\])+/")
_FRAGMENT = re.compile(r"<\s*(/?)\s*>")
_NAMED = re.compile(r"</?[A-Za-z]")
_GENERIC = re.compile(r"<\s*(?:const\s+)?[A-Za-z_$][\w$]*\s*(?:,|\bextends\b)")  # type parameters of an arrow function


@dataclass
class _ComponentReader:
    """A reader at a place in a file: `stack` holds "{" for code in braces and names of open elements, "" for a fragment."""

    text: str
    like_html: bool
    stack: list[str] = field(default_factory=list)
    at: int = 0
    unended: int = 0  # tags that never end, each looked for to the end of the text

    def in_children(self) -> bool:
        return bool(self.stack) and self.stack[-1] != "{"

    def tags(self) -> Iterator[Tag]:
        while self.at < len(self.text):
            found = (_IN_CHILDREN if self.in_children() else _IN_CODE).search(self.text, self.at)
            if not found:
                return
            self.at = found.start()
            match found.group():
                case "<":
                    yield from self._opened()
                case "{":
                    self.stack.append("{")
                    self.at += 1
                case "}":
                    if self.stack:
                        self.stack.pop()
                    self.at += 1
                case "`":
                    self.at = template(self.text, self.at)
                case "/" if self._expression_begins() and (
                    regex := _REGEX.match(self.text, self.at, self.at + _LONGEST_REGEX)
                ):
                    self.at = regex.end()
                case _:
                    self.at = max(string_or_comment(self.text, self.at), self.at + 1)

    def _opened(self) -> Iterator[Tag]:
        text = self.text
        if not self.in_children() and not self._expression_begins():
            self.at += 1
        elif text.startswith("<!--", self.at):
            end = text.find("-->", self.at)
            self.at = end + 3 if end >= 0 else len(text)
        elif fragment := _FRAGMENT.match(text, self.at):
            self._nest("", closing=bool(fragment.group(1)))
            self.at = fragment.end()
        elif _NAMED.match(text, self.at) and not (_GENERIC.match(text, self.at) and not self.in_children()):
            yield from self._tag()
        else:
            self.at += 1

    def _tag(self) -> Iterator[Tag]:
        text = self.text
        tag = read_tag(text, self.at, _expression) if self.unended < _MOST_UNENDED else None
        if tag is None:
            self.unended += 1
            self.at += 1
            return
        if text[tag.start + 1].islower() or tag.closing or is_call(tag):  # others with a capital letter are components
            yield tag
        for attribute in tag.attributes:
            if (attribute.raw or "").startswith("{") and "<" in (attribute.raw or ""):
                yield from self._within(attribute)
        self.at = tag.end
        if tag.name in _RAW and self.like_html and not tag.closing and text[tag.end - 2] != "/":
            found = re.compile(rf"</{tag.name}\s*>", re.IGNORECASE).search(text, tag.end)
            self.at = found.end() if found else len(text)
        elif text[tag.end - 2] != "/" and not (self.like_html and tag.name in VOID):
            self._nest(tag.name, closing=tag.closing)

    def _within(self, attribute: Attribute) -> Iterator[Tag]:
        """The tags of markup in an attribute's expression."""
        start = attribute.end - len(attribute.raw or "")
        inner = _ComponentReader(self.text[: attribute.end], self.like_html, ["{"], start + 1, self.unended)
        yield from inner.tags()
        self.unended = inner.unended

    def _nest(self, name: str, *, closing: bool) -> None:
        if not closing:
            self.stack.append(name)
        elif self.in_children() and not (self.like_html and len(self.stack) == 1):
            self.stack.pop()

    def _expression_begins(self) -> bool:
        return bool(_BEFORE_EXPRESSION.search(self.text, max(0, self.at - 200), self.at))


def _expression(text: str, at: int) -> int:
    """Passes over an expression in braces, or over a comment within a tag."""
    return braces(text, at) if text.startswith("{", at) else at


def script_tags(text: str) -> Iterator[Tag]:
    """The tags of a file of JavaScript or TypeScript with markup in it, in order."""
    return _ComponentReader(text, like_html=False).tags()


def markup_tags(text: str) -> Iterator[Tag]:
    """The tags of a file that is markup with expressions in braces that hold markup in turn, behind a front of code."""
    return _ComponentReader(text, like_html=True, stack=["html"], at=front_matter_end(text)).tags()
