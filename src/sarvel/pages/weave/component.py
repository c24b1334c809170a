"""The component that has the markup of all pictures, and the tags of pages that call it. See `pages.restore.component_tags`."""

from __future__ import annotations

import json
import re
from collections.abc import Iterable, Mapping
from dataclasses import replace

from sarvel.core.address.address import Address
from sarvel.core.edition.compose import Picture
from sarvel.core.html.dialect import Dialect
from sarvel.core.html.tags import COMPONENT, Tag, read_tag
from sarvel.core.markup.picture import Markup, Source, write_markup
from sarvel.core.quoted import escaped
from sarvel.pages.restore.blocks import Block
from sarvel.pages.restore.image_places import PARAGRAPH
from sarvel.pages.weave.room import room_in
from sarvel.pages.weave.write import has_words, with_ours

COMPONENT_BEGINS = "// Written by sarvel weave."
"""The beginning of the component's file: no other file of its name is written over."""

_FORM = re.compile(r"[\s,;()]")  # what formatters of scripts add and take away
_TYPES = """\
import type { ComponentProps, CSSProperties } from "react";

type Shown = {
  alt?: string;
  sources: ComponentProps<"source">[];
  image: ComponentProps<"img">;
  size?: { width: number; height: number };
  ratio?: string;
  style?: CSSProperties;
};

"""
_FUNCTION = """
export function SarvelPicture({ of, first, alt, style, ...author }PROPS) {
  const others: ANY = { ...author };
  for (const name of Object.keys(others)) {
    if (name.startsWith("data-was-")) delete others[name];
  }
  const picture = pictures[of];
  if (!picture) return <img {...others} src={author["data-master"]} alt={alt} style={style} />;
  // What the author says of the size goes for all sources.
  const said = ["width", "height"].filter((name) => others[name] !== undefined).length;
  const size = said ? {} : picture.size;
  const ratio = said < 2 && picture.ratio ? { aspectRatio: picture.ratio } : {};
  return (
    <picture PICTURE>
      {picture.sources.map(({ width, height, ...source }, number) => (
        <source key={number} {...source} {...(size && !said ? { width, height } : {})} hidden />
      ))}
      <img
        {...picture.image}
        {...size}
        {...(first ? { fetchPriority: "high" } : {})}
        alt={alt ?? picture.alt}
        {...others}
        style={{ ...ratio, ...picture.style, ...style }}
      />
    </picture>
  );
}
"""


def component_tag(block: Block, picture: Picture, markup: Markup, dialect: Dialect) -> str | None:
    """The text of a block as a call of the component; None if the markup must be there itself.

    A component has no ref of its own, and cannot know a height that only follows from the author's width.
    """
    author = read_tag(block.image, 0, dialect.code)
    if (
        author is None
        or block.mention is not None
        or block.picture
        or author.get("ref")
        or not block.image.endswith("/>")
    ):
        return None
    room = room_in(author, markup)
    if room.size and not room.on_sources:
        return None
    aside = ("srcset", "sizes", *room.aside, *(() if has_words(block) else ("alt",)))
    tag = with_ours(block.image, [], " ", aside, dialect)
    gap = block.image[len("<img") : author.attributes[0].start]  # one a line where a formatter has them so
    first = f"{gap}first" if markup.urgent else ""
    text = f'<{COMPONENT}{gap}of="{escaped(name_of(picture))}"{first}{tag.removeprefix("<img")}'
    return text.join(PARAGRAPH) if block.within == "p" else text


def name_of(picture: Picture) -> str:
    """The name by which pages call a picture: its slot and master."""
    return f"{picture.slot.name}/{picture.master.key}"


def component(
    pictures: Iterable[Picture], address: Address, backgrounds: Mapping[str, str] | None, *, typed: bool
) -> str:
    """The file of the component.

    Args:
        backgrounds: of placeholders, by key; None leaves styles out, for a stylesheet has them.
        typed: whether it is TypeScript.
    """
    rows = "".join(_row(picture, write_markup(picture, address, backgrounds)) for picture in pictures)
    words = {
        "PROPS": ': ComponentProps<"img"> & { of: string; first?: boolean; "data-master"?: string }' if typed else "",
        ": ANY": ": Record<string, unknown>" if typed else "",
        " PICTURE": "" if backgrounds is None else ' style={{ display: "contents" }}',
    }
    function = _FUNCTION
    for word, text in words.items():
        function = function.replace(word, text)
    head = f'{COMPONENT_BEGINS} Pages call it as <{COMPONENT} of="slot/master" alt="…" />.\n'
    of_type = ": Record<string, Shown | undefined>" if typed else ""
    return f"{head}{_TYPES if typed else ''}const pictures{of_type} = {{\n{rows}}};\n{function}"


def in_form_of(text: str, there: str) -> str:
    """A text as it is there already, if no more than a formatter has changed it."""
    return there if _FORM.sub("", there).replace("'", '"') == _FORM.sub("", text).replace("'", '"') else text


def _row(picture: Picture, markup: Markup) -> str:
    """What the component knows of a picture, as a property of its table."""
    bare = room_in(Tag("img", closing=False, attributes=(), start=0, end=0), markup)
    image = replace(markup.image, width=0, height=0)
    style = {name: value for name, value in bare.style.items() if name != "aspect-ratio"}
    parts = {
        "alt": None if picture.alt is None else _text(picture.alt),
        "sources": f"[\n{''.join(f'      {_object(_said(source))},{chr(10)}' for source in markup.sources)}    ]",
        "image": _object(
            {"src": markup.src, **_said(image), "loading": "eager" if markup.eager else "lazy", "decoding": "async"}
        ),
        "size": _object({"width": markup.image.width, "height": markup.image.height}) if bare.size else None,
        "ratio": _text(bare.style["aspect-ratio"]) if "aspect-ratio" in bare.style and markup.style else None,
        "style": _object({**style, "background": markup.background}) if markup.style else None,
    }
    said = "".join(f"    {name}: {text},\n" for name, text in parts.items() if text is not None)
    return f"  {json.dumps(name_of(picture), ensure_ascii=False)}: {{\n{said}  }},\n"


def _said(source: Source) -> Mapping[str, str | int]:
    """The attributes of a source or an img, as a script names them."""
    return {
        "media": source.media,
        "type": source.type,
        "srcSet": source.srcset,
        "sizes": source.sizes,
        "width": source.width,
        "height": source.height,
    }


def _object(values: Mapping[str, str | int]) -> str:
    """An object of JavaScript; empty values are left out."""
    said = ", ".join(f"{name}: {_text(value)}" for name, value in values.items() if value)
    return f"{{ {said} }}" if said else "{}"


def _text(value: str | int) -> str:
    """A value of JavaScript; one with an expression in it is a template literal."""
    if isinstance(value, str) and "${" in value:
        return f"`{value}`"
    return json.dumps(value, ensure_ascii=False)
