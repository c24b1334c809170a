"""The file that an author's words name: an address, a call of a template, an import of a component. Text in, text out.

Words that hold exactly one literal path of an image are read; the names of functions around it do not matter. Whether a file is
there decides in the end. Nothing is read that puts a path together of parts, or chooses one of several.
"""

from __future__ import annotations

import functools
import re
from collections.abc import Mapping
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Literal

from sarvel.core.html.template_code import holds_code
from sarvel.pages.read.local_files import path_of

UNTOLD = "only the engine knows its file"
"""Why an image is left whose words name no file."""

UNTOLD_CURE = "write a path there, or include a partial ([partials] in the plan); in a component, import the file"
"""What to do about it."""

_ENDING = r"\.(?:jpe?g|jfif|png|webp|avif|gif|jxl|tiff?|bmp|svgz?|heic)"
_LONGEST = 2000  # letters of words that are read as code: longer ones are no one's path
_QUERY = r"(?:\?[^\"'`{}<>\s]*)?"

# Code in front of a path, which the engine replaces by the start of an address. `{% … %}` prints no such start.
_PRINTED = r"""(?:
    \{\{(?:[^{}]|\{[^{}]*\})*\}\} | \{!!(?:[^!]|!(?!!))*!!\} | <\?(?:[^?]|\?(?!>))*\?> | <%[=-](?:[^%]|%(?!>))*%>
    | '\s*\.(?:[^'"]|'[^']*'|"[^"]*"){1,300}?\.\s*'
    | <[\w-]+:[\w-]+\b[^<>]*/?> | \$\{[^{}]*\} | %[A-Z][A-Z_]*% | @[A-Za-z]\w*(?:\.\w+|\((?:[^()]|\([^()]*\))*\))+
)"""
_IN_FRONT = re.compile(
    rf"(?P<code>(?:{_PRINTED})+)(?P<path>[^{{}}<>%$@\"'`|?]+{_ENDING}){_QUERY}", re.VERBOSE | re.IGNORECASE
)

_CODE = re.compile(
    r"\{\{.*\}\}|\{%.*%\}|\{!!.*!!\}|<\?.*\?>|<%.*%>|<[\w-]+:[\w-]+\b.*>|\$\{.*\}|\{.*\}|@[A-Za-z][\w.]*\(.*\)|@\{.*\}|'\s*\..*\.\s*'",
    re.DOTALL,
)
_LITERAL = re.compile(
    rf"""(?P<quote>["'`])(?P<path>(?:[^"'`\\{{}}<>\n$]|\\.)*[^"'`/]{_ENDING}){_QUERY}(?P=quote)""", re.IGNORECASE
)
_BEHIND_CODE = re.compile(rf"`(?P<code>(?:\$\{{[^{{}}`]*\}})+)(?P<path>[^`{{}}$\n]+{_ENDING})`", re.IGNORECASE)
_STRING = re.compile(r"\"(?:[^\"\\]|\\.)*\"|'(?:[^'\\]|\\.)*'|`(?:[^`\\]|\\.)*`")
_CHOOSES = re.compile(
    r"(?<!<)\?(?![>.])|&&|\|\||(?<!\.)\b(?:if|else|unless|or|and|default|append|replace|slice|concat|random|sample)\b(?!\))"
)
_GOES_ON = re.compile(r"\s*(?:[.+~]|%(?![}>]))")

_JOINED = re.compile(r"([^\s'\"]*)\s*[.+~]\s*$")
_BASE = re.compile(
    r"base|url|uri|root|path|prefix|public|static|asset", re.IGNORECASE
)  # in names of what paths begin with
_FORMAT = re.compile(r"%(?![0-9A-Fa-f]{2})")  # a place in a text that is filled in

_IMPORT = re.compile(r"""^[ \t]*import\s+(\w+)\s+from\s+["']([^"'\n]+)["']""", re.MULTILINE)
_REQUIRED = re.compile(r"""(?:const|let|var)\s+(\w+)\s*=\s*require\(\s*["']([^"'\n]+)["']\s*\)""")
_OF_MODULE = re.compile(
    r"""(?:const|let|var)\s+(\w+)\s*=\s*new\s+URL\(\s*["'`]([^"'`\n]+)["'`]\s*,\s*import\.meta\.url\s*\)"""
)
_NAMED_TEXT = re.compile(rf"""(?:const|let|var)\s+(\w+)\s*=\s*["']([^"'\n]+{_ENDING})["']""", re.IGNORECASE)
_NAMED = re.compile(r"\{\s*(\w+)(?:\.(?:src|default|href))*\s*\}")
_MODULE = re.compile(r"\brequire\(|\bimport\s*\(|import\.meta\.url")
_ALIAS = re.compile(r"~?@/|~(?!/)\w|#/|~/")


@dataclass(frozen=True)
class Expression:
    """Words that name a file.

    Attributes:
        path: the literal path in them.
        before: the words in front of it; "" for a plain address.
        after: those behind it.
        form: an address, which a browser reads; a call, which an engine turns into one; or an import, which a bundler follows.
    """

    path: str
    before: str = ""
    after: str = ""
    form: Literal["address", "call", "import"] = "address"

    @property
    def is_script(self) -> bool:
        """Tells whether it is an expression of JavaScript, in one pair of braces."""
        return self.before.startswith("{") and not self.before.startswith(("{{", "{%", "{!"))

    def root_of(self, file: Path) -> Path | None:
        """The folder from which a file that it names is seen; None where that is the page's, or a bundler's."""
        parts = Path((path_of(self.path) or "").lstrip("/")).parts
        if self.form == "import" or (self.form == "address" and not self.path.startswith("/")):
            return None
        place = file.absolute()
        return place.parents[len(parts) - 1] if parts and place.parts[-len(parts) :] == parts else None


def expression(src: str, text: str) -> Expression | None:
    """What the words in a `src` name; None if only an engine knows.

    Args:
        src: the words, character references resolved.
        text: the file that they are in; it may import the image.
    """
    if len(src) > _LONGEST or not (holds_code(src) or src.startswith(("@", "~", "%")) or _CODE.fullmatch(src)):
        return None if holds_code(src) else Expression(src)
    if src.startswith("~/"):
        return Expression(src[1:], "~", "", "call")
    if _ALIAS.match(src) and not _CODE.fullmatch(src):
        return Expression(src, form="import")
    if found := _IN_FRONT.fullmatch(src):
        return Expression(found["path"], found["code"], form="call")
    if _CODE.fullmatch(src):
        return _in_code(src, text)
    return None if holds_code(src) else Expression(src)


def _in_code(src: str, text: str) -> Expression | None:
    """What a piece of code names."""
    if named := _NAMED.fullmatch(src):
        path = _imported(text).get(named[1])
        return Expression(path, form="import") if path else None
    if _CHOOSES.search(_STRING.sub("''", src)):
        return None
    found = list(_LITERAL.finditer(src)) or list(_BEHIND_CODE.finditer(src))
    if len(found) != 1 or _GOES_ON.match(src, found[0].end()) or _FORMAT.search(found[0]["path"]):
        return None
    joined = _JOINED.search(src, 0, found[0].start())
    if joined and not (found[0]["path"].startswith("/") or _BASE.search(joined[1])):
        return None
    start, end = (
        found[0].start("path"),
        found[0].end() - 1,
    )  # the quote; a query asks for another version of the author's file
    said = Expression(found[0]["path"], src[:start], src[end:], "call")
    if said.path.startswith("~/"):
        said = replace(said, path=said.path[1:], before=said.before + "~")
    if said.is_script and _MODULE.search(src):
        return Expression(said.path, form="import")
    return Expression(said.path) if said.is_script and said.before.strip("{ ") in ('"', "'", "`") else said


@functools.lru_cache(maxsize=8)
def _imported(text: str) -> Mapping[str, str]:
    """Paths of what a file imports, by name."""
    return dict(
        [*_NAMED_TEXT.findall(text), *_IMPORT.findall(text), *_REQUIRED.findall(text), *_OF_MODULE.findall(text)]
    )
