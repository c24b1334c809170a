"""The first plan of a site, drafted: TOML with comments that say why, and what is left to say."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from sarvel.core.survey.groups import Group

NAMES = ("hand", "tray", "desk", "wall")
"""Names of breakpoints, the narrowest first; a layout has seldom more."""


_SLOTS = """\
# Slots. takes: which images are for one that name none, by selectors of the img. shown: how wide the layout
# shows them. cuts = "4:3" would crop them around their subject, cuts = { hand = "1:1", desk = "21:9" } for each
# band; without it they stay whole.
"""


@dataclass(frozen=True)
class Draft:
    """The contents of a plan to draft; paths are relative to its folder, with forward slashes.

    Attributes:
        masters: the folder of the images.
        pages: folders, files and globs of pages.
        output: where renditions go.
        address: how pages reach that.
        breaks: viewport widths, CSS px, and how many media queries ask for each, the most used first.
        groups: the slots.
        without_alt: images that have no words anywhere, by master key; where one of each is.
        left: what was found and the plan does not mend, in words.
    """

    masters: str
    pages: Sequence[str]
    output: str
    address: str
    breaks: Sequence[tuple[float, int]]
    groups: Sequence[Group]
    without_alt: Mapping[str, str] = field(default_factory=dict)
    left: Sequence[str] = ()


def drafted(draft: Draft) -> str:
    """The text of the plan."""
    parts = [_site(draft), _breakpoints(draft), _defaults(), _SLOTS, *map(_slot, draft.groups)]
    if draft.without_alt:
        parts.append('# These images have no alt. Say what they show, in words; "" if they are decoration.')
        parts += [
            f'[masters.{_text(key)}]\n# alt = ""    # {_line(place)}\n'
            for key, place in sorted(draft.without_alt.items())
        ]
    if draft.left:
        parts.append("# Left to you:\n" + "".join(f"# - {_line(line)}\n" for line in draft.left))
    return "\n".join(parts)


def names_of(breaks: Sequence[tuple[float, int]]) -> dict[str, tuple[float, int]]:
    """Breakpoints with names, the narrowest first: of many those that are used most.

    Args:
        breaks: viewport widths and how often each is used, the most used first.
    """
    kept = sorted([(0.0, 0), *breaks[: len(NAMES) - 1]])
    names = ("hand", "desk") if len(kept) == 2 else NAMES
    return dict(zip(names, kept, strict=False))


def _site(draft: Draft) -> str:
    pages = ", ".join(map(_text, draft.pages))
    return (
        "# Drafted by `sarvel start` from what is here. `sarvel plan` shows what it comes to, `sarvel build` does it, and\n"
        "# `sarvel weave --undo` takes the markup back.\n\n"
        "[site]\n"
        f"masters = {_text(draft.masters)}    # the images as they are; never written to\n"
        f"pages   = [{pages}]\n"
        f"output  = {_text(draft.output)}    # where renditions go\n"
        f"address = {_text(draft.address)}    # how pages reach that folder\n"
        '# woven = "public"    # finished pages go here; without this they are woven in place\n'
    )


def _breakpoints(draft: Draft) -> str:
    lines = ["[breakpoints]    # the stylesheets' own, CSS px"]
    for name, (start, count) in names_of(draft.breaks).items():
        told = f"    # {count} media {'query' if count == 1 else 'queries'}" if count else ""
        lines.append(f"{name} = {start:g}{told}")
    names = {start for start, _ in names_of(draft.breaks).values()}
    rest = [f"{start:g} ({count})" for start, count in draft.breaks if start not in names]
    if rest:
        lines.append(f"# less used: {', '.join(rest)}")
    return "\n".join(lines) + "\n"


def _defaults() -> str:
    return (
        '[defaults]\nformats   = ["avif", "webp", "jpeg"]    # best first\ndensities = [1, 2]    # sharp up to here\n'
    )


def _slot(group: Group) -> str:
    count = len(group.images)
    lines = [
        f"[slots.{_key(group.name)}]    # {count} image{'' if count == 1 else 's'}, such as {_line(group.images[0].place)}"
    ]
    if group.takes:
        lines.append(f"takes = [{', '.join(map(_literal, group.takes))}]")
    lines.append(f"shown = {_text(group.shown)}    # {group.why}")
    if group.first:
        lines.append('load  = "first"    # seen at once')
    return "\n".join(lines) + "\n"


def _key(name: str) -> str:
    return name if name.replace("-", "").replace("_", "").isalnum() and name.isascii() else _text(name)


def _text(text: str) -> str:
    """A basic string of TOML: JSON's escapes are among its own."""
    return json.dumps(text, ensure_ascii=False).replace("\x7f", "\\u007f")


def _line(text: str) -> str:
    """A text that stays within a comment."""
    return "".join(letter if letter.isprintable() else "�" for letter in text)


def _literal(text: str) -> str:
    """A literal string where that spares escapes."""
    return f"'{text}'" if '"' in text and "'" not in text and text.isprintable() else _text(text)
