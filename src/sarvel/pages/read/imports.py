"""Files that code in a src names: `src={photo}` and `import photo from "./a.jpg"`, a template's `{% static "a.jpg" %}`."""

from __future__ import annotations

import functools
import re
from collections.abc import Mapping

_IMPORT = re.compile(r"""^[ \t]*import\s+(\w+)\s+from\s+["']([^"'\n]+)["']""", re.MULTILINE)
_REQUIRED = re.compile(r"""(?:const|let|var)\s+(\w+)\s*=\s*require\(\s*["']([^"'\n]+)["']\s*\)""")
_NAMED = re.compile(r"\{\s*(\w+)(?:\.src)?\s*\}")
_CALLED = re.compile(r"""\{\s*require\(\s*["']([^"'\n]+)["']\s*\)(?:\.default)?\s*\}""")
_TEXT = re.compile(r"""\{\s*(?:"([^"\\\n]*)"|'([^'\\\n]*)'|`([^`$\\\n]*)`)\s*\}""")
# Of a call in a template, the file: {% static "a.jpg" %}, {{ url_for("static", filename="a.jpg") }}, {{ "a.jpg" | asset_url }},
# <?= asset("a.jpg") ?>, <%= asset_path "a.jpg" %>. What puts a name together of parts has no such form.
_IN_TEMPLATES = re.compile(
    r"""(?:\{%-?|\{\{-?|\{!!|<%[=-]?|<\?=|<\?php\s+echo)\s*
    (?:[\w$][\w.:>$-]*(?:\s+|\s*\(\s*(?:(["'])[\w-]+\1\s*,\s*)?(?:\w+\s*[=:]\s*)?))?
    (["'])([^"'{}$%\n]+\.\w+)\2
    \s*\)?\s*(?:\|\s*\w+)?\s*;?\s*
    (?:-?%\}|-?\}\}|!!\}|-?%>|\?>)""",
    re.VERBOSE,
)
# Of Razor: ~/a.jpg and @Url.Content("~/a.jpg") are seen from the site's root.
_FROM_ROOT = re.compile(r"""(?:@Url\.Content\(\s*")?~(/[^"'{}@\n]+\.\w+)(?:"\s*\))?""")


def followed(src: str, text: str) -> str:
    """The address that code in a src resolves to in its file; else the src itself.

    Args:
        src: the src, as written.
    """
    if not src.startswith(("{", "<", "@", "~")):
        return src
    if rooted := _FROM_ROOT.fullmatch(src):
        return rooted[1]
    if said := _IN_TEMPLATES.fullmatch(src):
        return said[3]
    if (said := _TEXT.fullmatch(src)) or (said := _CALLED.fullmatch(src)):
        return next(part for part in said.groups() if part is not None)
    named = _NAMED.fullmatch(src)
    return _imported(text).get(named.group(1), src) if named else src


@functools.lru_cache(maxsize=8)
def _imported(text: str) -> Mapping[str, str]:
    """Addresses of what a file imports, by name."""
    return dict([*_IMPORT.findall(text), *_REQUIRED.findall(text)])
