"""Markup for where only the template engine knows the file: a partial for each slot and master, and a macro for all.

A partial's name is that of its slot and of its master, so that an engine computes it from what a page's author writes at its
top: `banner/lamp-at-dusk.jpg.html`.
"""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import dataclass

from sarvel.core.address.address import Address
from sarvel.core.edition.compose import Picture
from sarvel.core.html.dialect import DIALECTS, HTML, dialect_of
from sarvel.core.markup.picture import write_markup
from sarvel.pages.weave.write import in_text, standing_alone


@dataclass(frozen=True)
class _Component:
    """What makes a component of a partial.

    Attributes:
        said: attributes of the img that the component computes, before ours.
        others: all other attributes that it is given, which follow ours, and win.
    """

    before: str
    behind: str
    indent: str
    said: str
    others: str


_COMPONENTS: Mapping[str, _Component] = {
    ".jsx": _Component(
        "export default function Picture({ alt, style, ...others }) {\n  return (\n    ",
        "\n  );\n}\n",
        "    ",
        "alt={alt} style={style}",
        "{...others}",
    ),
    ".tsx": _Component(
        'import type { ComponentProps } from "react";\n\n'
        'export default function Picture({ alt, style, ...others }: ComponentProps<"img">) {\n  return (\n    ',
        "\n  );\n}\n",
        "    ",
        "alt={alt} style={style}",
        "{...others}",
    ),
    ".vue": _Component(
        '<script setup>\ndefineOptions({ inheritAttrs: false });\ndefineProps(["alt"]);\n</script>\n\n<template>\n  ',
        "\n</template>\n",
        "  ",
        ':alt="alt"',
        'v-bind="$attrs"',
    ),
    ".svelte": _Component("<script>\n  export let alt;\n</script>\n\n", "\n", "", "alt={alt}", "{...$$restProps}"),
    ".astro": _Component("---\nconst { alt, ...others } = Astro.props;\n---\n", "\n", "", "alt={alt}", "{...others}"),
}
MACRO_BEGINS = "{# Written by sarvel weave."
MANIFEST_BEGINS = '{\n  "version": '
"""The beginnings of macros and manifests that Sarvel wrote: no other file of their name is written over."""

_ALT = "\x01"  # replaces the alt while the markup is written; no text holds it


def partial_name(slot: str, key: str, ending: str) -> str:
    """The path of the partial of a slot and a master, below their folder."""
    return f"{slot}/{key}{ending}"


def partial(
    picture: Picture,
    address: Address,
    backgrounds: Mapping[str, str] | None,
    ending: str,
    alt: str,
    dialects: Mapping[str, str],
    *,
    called: bool = False,
) -> str:
    """The partial of a picture.

    Args:
        backgrounds: of placeholders, by key; None leaves them out of the markup.
        ending: of its file name, which decides how it is spelled.
        alt: what the engine writes the alt by; a component has its own way.
        dialects: names of dialects by file ending, before our own.
        called: whether Markdown calls it: then it must stay in its line, and be no block of its own.
    """
    quote = "'" if '"' in alt else '"'
    said = f"alt={quote}{alt}{quote}"
    markup = write_markup(picture, address, backgrounds)
    if called:
        return in_text(markup, f"<img {said}>")
    dialect = dialect_of(f"x{ending}", dialects) or HTML
    form = _COMPONENTS.get(ending) or _Component("", "\n", "", said, "")
    tag = f"<img {form.said} />" if dialect.closed else f"<img {form.said}>"
    written = standing_alone(markup, None, tag, dialect, f"\n{form.indent}", form.others)
    return f"{form.before}{written}{form.behind}"


def _string(text: str, ending: str) -> str:
    """A text as a string of Jinja or Twig; the latter takes `#{` in it for code."""
    said = json.dumps(text, ensure_ascii=False)
    return said.replace("#{", "\\#{") if ending == ".twig" else said


def macro(pictures: list[Picture], address: Address, backgrounds: Mapping[str, str] | None, ending: str) -> str:
    """A macro that looks pictures up by slot and master, for engines in whose code a table is written as in JSON.

    Args:
        ending: of its file name: in `.twig` the filter for safe text is raw, elsewhere safe.
    """
    asis = "raw" if ending == ".twig" else "safe"
    table = {}
    for picture in pictures:
        markup = write_markup(picture, address, backgrounds)
        written = standing_alone(markup, None, f'<img alt="{_ALT}">', DIALECTS["markdown"])
        table[f"{picture.slot.name}/{picture.master.key}"] = written.split(_ALT)
    rows = ",\n".join(
        f"  {_string(name, ending)}: [{', '.join(_string(part, ending) for part in parts)}]"
        for name, parts in table.items()
    )
    return (
        f"{MACRO_BEGINS} Import it, and call picture(slot, master, alt). #}}\n"
        "{% macro picture(slot, master, alt) -%}\n"
        f"{{% set pictures = {{\n{rows}\n}} -%}}\n"
        "{% set found = pictures[slot ~ '/' ~ master] -%}\n"
        f"{{{{ found[0] | {asis} }}}}{{{{ alt | e }}}}{{{{ found[1] | {asis} }}}}\n"
        "{%- endmacro %}\n"
    )
