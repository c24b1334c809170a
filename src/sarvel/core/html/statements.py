"""Tags in templates where statements of code stand among markup behind an @, and markup among statements in turn.

    <p>@title</p>   @{ var a = "<no tag>"; <b>markup</b> }   @foreach (var one in list) { <i>@one.Name</i> }   @* comment *@

A text is read with a stack of what one is in: markup, or statements, where markup begins only where a statement can.
"""

from __future__ import annotations

import functools
import re
from collections.abc import Iterator
from dataclasses import dataclass, field, replace

from sarvel.core.html.tags import VOID, Tag, read_tag
from sarvel.core.html.template_code import closing

_COMMENT_END = re.compile(r"\*@")
_HTML_COMMENT_END = re.compile(r"-->")
_BLOCK_COMMENT_END = re.compile(r"\*/")
_IN_MARKUP = re.compile(r"@|<|\}|\n")
_IN_CODE = re.compile(r"""@\*|@:|["'{}<]|//|/\*""")
_STRING = re.compile(r'(?P<raw>"{3,}).*?(?P=raw)|"(?:[^"\\\n]|\\.)*"', re.DOTALL)
_VERBATIM = re.compile(r'"(?:[^"]|"")*"', re.DOTALL)
_LETTER = re.compile(r"'(?:[^'\\\n]|\\.)+'")
_STATEMENT = re.compile(
    r"@(?:if|for|foreach|while|do|switch|using|lock|try|functions|code|section\s+\w+|else(?:\s+if)?)\b[ \t\r\n]*(?=[({])"
)
_FOLLOWING = re.compile(r"\s*(?:else(?:\s+if)?|catch|finally|while)\b\s*(?=[({;])")
_STARTS = re.compile(r"[{};>]\s*\Z|\*@\s*\Z|\*/\s*\Z|//[^\n]*\n\s*\Z")  # behind these a statement begins
_TAG = re.compile(r"</?[A-Za-z]")
_NAMED = re.compile(r"@[A-Za-z_]\w*")
_CHAIN = re.compile(r"(?:\?|!)?\.[A-Za-z_]\w*")
_RAW = frozenset({"script", "style"})
_FELLOWS = {"(": ")", "[": "]", "{": "}"}
_BRACKET = re.compile(r"""[()\[\]{}"']|//|/\*""")
_MOST_UNENDED = 8  # of a text: after so many tags that never end, each looked for to its end, a `<` in it is text


def code_in_statements(text: str, at: int) -> int:
    """Passes over code within a tag or a value: `@name.chain(…)[…]`, `@(…)`, `@{…}`, `@* … *@`."""
    if not text.startswith("@", at) or text.startswith("@@", at):
        return at
    if text.startswith("@*", at):
        return max(at, closing(text, at + 2, _COMMENT_END))
    if text.startswith(("@(", "@{"), at):
        end = _balanced(text, at + 1)
        return end if end > at + 1 else at
    found = _NAMED.match(text, at)
    end = found.end() if found else at
    while end > at:
        if text.startswith(("(", "["), end) and (behind := _balanced(text, end)) > end:
            end = behind
        elif chain := _CHAIN.match(text, end):
            end = chain.end()
        else:
            break
    return end


@functools.lru_cache(maxsize=16)
def _known_ends(_text: str) -> dict[int, int]:
    """A cache for one text: end offsets of brackets by start offset."""
    return {}


def _balanced(text: str, at: int) -> int:
    """End offset of the brackets that open here, strings and comments of code passed over; the same offset if none closes.

    Brackets within are remembered, so that reading takes time in proportion to the text.
    """
    known = _known_ends(text)
    if at in known:
        return known[at]
    opened, place = [at], at + 1
    while opened and (found := _BRACKET.search(text, place)) is not None:
        mark, place = found.group(), found.end()
        if mark in _FELLOWS:
            opened.append(found.start())
        elif mark == _FELLOWS[text[opened[-1]]]:
            known[opened.pop()] = place
        elif mark not in ")]}":
            place = max(place, _past_string_or_comment(text, found.start()))
    known.update((start, start) for start in opened)
    return known[at]


def _past_string_or_comment(text: str, at: int) -> int:
    """End offset of a string, a letter or a comment of code that begins at an offset; else the same offset."""
    if text.startswith("//", at):
        end = text.find("\n", at)
        return end if end >= 0 else len(text)
    if text.startswith("/*", at):
        return max(at, closing(text, at + 2, _BLOCK_COMMENT_END))
    if text.startswith("'", at):
        letter = _LETTER.match(text, at)
        return letter.end() if letter else at
    is_verbatim = text[max(0, at - 1) : at] == "@" or text[max(0, at - 2) : at] == "@$"
    found = _VERBATIM.match(text, at) if is_verbatim else _STRING.match(text, at)
    return found.end() if found else at


@dataclass
class _Reader:
    """A reader at a place in a text.

    Attributes:
        stack: open constructs: "{" for a statement, "section" for markup in braces, ":" for markup in a line, names of
            elements that were opened among statements.
        lines: how many of these are ":".
    """

    text: str
    at: int = 0
    stack: list[str] = field(default_factory=list)
    lines: int = 0
    fresh: int = 0  # where a line of markup last ended: statements begin there
    unended: int = 0  # tags that never end

    def tags(self) -> Iterator[Tag]:
        while self.at < len(self.text):
            yield from self._statements() if self.stack and self.stack[-1] == "{" else self._markup()

    def _open(self, mark: str) -> None:
        self.stack.append(mark)
        self.lines += mark == ":"

    def _close(self) -> None:
        self.lines -= self.stack.pop() == ":"

    def _markup(self) -> Iterator[Tag]:
        """Reads on to the next thing of markup."""
        text = self.text
        found = _IN_MARKUP.search(text, self.at)
        if not found:
            self.at = len(text)
            return
        self.at, mark = found.start(), found.group()
        is_line = bool(self.stack) and self.stack[-1] == ":"
        if mark == "<":
            yield from self._tag()
        elif mark == "\n" and is_line:
            self._close()
            self.at += 1
            self.fresh = self.at
        elif mark == "}" and self.stack and self.stack[-1] == "section":
            self._close()
            self.at += 1
        elif mark == "@":
            self._code()
        else:
            self.at += 1

    def _code(self) -> None:
        """Passes over code, or enters statements."""
        text = self.text
        if text.startswith("@@", self.at):
            self.at += 2
        elif text.startswith("@{", self.at):
            self._open("{")
            self.at += 2
        elif statement := _STATEMENT.match(text, self.at):
            self._enter(statement.end(), "section" if "section" in statement.group() else "{")
        else:
            self.at = max(code_in_statements(text, self.at), self.at + 1)

    def _enter(self, at: int, kind: str) -> None:
        """Enters the braces behind the parentheses of a statement."""
        end = _balanced(self.text, at) if self.text.startswith("(", at) else at
        brace = re.compile(r"\s*\{").match(self.text, end)
        self.at = brace.end() if brace else max(end, at)
        if brace:
            self._open(kind)

    def _statements(self) -> Iterator[Tag]:
        """Reads on to the next thing among statements."""
        text = self.text
        found = _IN_CODE.search(text, self.at)
        if not found:
            self.at = len(text)
            return
        self.at, mark = found.start(), found.group()
        match mark:
            case "{":
                self._open("{")
                self.at += 1
            case "}":
                self._close()
                self.at += 1
                if (following := _FOLLOWING.match(text, self.at)) and not (self.stack and self.stack[-1] == "{"):
                    self._enter(following.end(), "{")
            case "@:":
                self._open(":")
                self.at += 2
            case "@*":
                self.at = max(self.at + 2, closing(text, self.at + 2, _COMMENT_END))
            case "<" if self._statement_begins() and _TAG.match(text, self.at):
                yield from self._tag(among_statements=True)
            case "<":
                self.at += 1
            case _:
                self.at = max(self.at + 1, _past_string_or_comment(text, self.at))

    def _statement_begins(self) -> bool:
        near = max(0, self.at - 200)
        return not self.text[max(near, self.fresh) : self.at].strip() or bool(_STARTS.search(self.text, near, self.at))

    def _tag(self, *, among_statements: bool = False) -> Iterator[Tag]:
        """Reads a tag, a comment, or a `<` that is neither."""
        text = self.text
        if text.startswith("<!--", self.at):
            self.at = max(self.at + 4, closing(text, self.at + 4, _HTML_COMMENT_END))
            return
        tag = read_tag(text, self.at, code_in_statements) if self.unended < _MOST_UNENDED else None
        if tag is None:
            self.unended += bool(_TAG.match(text, self.at))
            self.at += 1
            return
        self.at = tag.end
        yield replace(tag, one_line=self.lines > 0)
        is_empty = tag.name in VOID or text[tag.end - 2] == "/"
        nests = among_statements or (bool(self.stack) and self.stack[-1] not in ("{", ":", "section"))
        if tag.name in _RAW and not tag.closing and not is_empty:
            end = re.compile(rf"</{tag.name}\s*>", re.IGNORECASE).search(text, tag.end)
            self.at = end.end() if end else len(text)
        elif tag.closing and self.stack and self.stack[-1] == tag.name:
            self._close()
        elif nests and not tag.closing and not is_empty:
            self._open(tag.name)


def statement_tags(text: str) -> Iterator[Tag]:
    """The tags of a template with statements, in order; those on a line of markup among code must stay on one line."""
    return _Reader(text).tags()
