"""Values of the right type that no file system, glob or terminal can do anything with: found before anything is done."""

from __future__ import annotations

import unicodedata
from collections.abc import Iterator, Mapping

from sarvel.plan import schema
from sarvel.plan.key_lines import KeyPath
from sarvel.plan.messages import Problem, shortened

_LONGEST_NAME = 255  # bytes of a part of a path: what common file systems allow


def odd_values(content: Mapping[str, object], parsed: schema.PlanFile) -> Iterator[Problem]:
    """Finds them all in a plan.

    Args:
        content: the plan's tables and keys, as they were read.
        parsed: the same, checked against the schema.
    """
    yield from _odd_texts(content, ())
    yield from _odd_patterns(parsed)
    yield from _long_names(parsed)


def _odd_texts(said: object, path: KeyPath) -> Iterator[Problem]:
    """Finds texts that no file, page or terminal could hold."""
    if isinstance(said, str) and "\0" in said:
        yield Problem(path, "holds a NUL, which nothing can be called", "take it out")
    elif isinstance(said, Mapping):
        for key, value in said.items():
            if path != ("masters",) and any(unicodedata.category(letter) == "Cc" for letter in str(key)):
                yield Problem((*path, key), "a key holds a control letter", "take it out")
            yield from _odd_texts(value, (*path, key))
    elif isinstance(said, list):
        for number, value in enumerate(said):
            yield from _odd_texts(value, (*path, number))


def _long_names(parsed: schema.PlanFile) -> Iterator[Problem]:
    """Finds paths with a part that is too long for a file name."""
    site, partials = parsed.site, parsed.partials
    said: list[tuple[KeyPath, str | None]] = [
        *(
            (("site", key), getattr(site, key))
            for key in ("masters", "output", "woven", "manifest", "component", "audience")
        ),
        *((("partials", key), getattr(partials, key)) for key in (("folder", "macro") if partials else ())),
        *((("site", "outside", number), place) for number, place in enumerate(site.outside)),
        *((("site", "pages", number), place) for number, place in enumerate(site.pages)),
    ]
    for path, place in said:
        if place and any(len(part.encode()) > _LONGEST_NAME for part in place.split("/")):
            yield Problem(path, f"'{shortened(place)}' is longer than a file can be called", "write a shorter name")


def _odd_patterns(parsed: schema.PlanFile) -> Iterator[Problem]:
    for number, pattern in enumerate(parsed.site.pages):
        if problem := _pattern_problem(pattern, anywhere=True):
            yield Problem(("site", "pages", number), problem)
    for name, slot in parsed.slots.items():
        for number, pattern in enumerate(slot.masters):
            if problem := _pattern_problem(pattern, anywhere=False):
                yield Problem(("slots", name, "masters", number), problem)


def _pattern_problem(pattern: str, *, anywhere: bool) -> str:
    """The reason why a pattern cannot be followed, with advice; "" for none.

    Args:
        anywhere: whether it may lead out of the folder that it is seen from.
    """
    parts = pattern.replace("\\", "/").split("/")
    wild = any(set(part) & set("*?[") for part in parts)
    if not pattern.strip():
        return 'is empty; write a folder, a file or a glob such as "posts/*.html"'
    if any("**" in part and part != "**" for part in parts):
        return f"'{shortened(pattern)}' has ** next to other characters; write ** between slashes, as in \"posts/**/*.html\""
    if pattern.startswith("/") and (wild or not anywhere):
        return f"'{shortened(pattern)}' begins at the root; write it as seen from the plan's folder, such as \"posts/*.html\""
    if ".." in parts and not anywhere:
        return f"'{shortened(pattern)}' leads out of the masters folder; write a glob within it"
    return ""
