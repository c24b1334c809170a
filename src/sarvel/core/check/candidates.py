"""Rules for srcset: candidates that browsers drop or misread."""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Sequence

from sarvel.core.check.context import FileLookup
from sarvel.core.check.rule import Finding
from sarvel.core.check.slips import Slip
from sarvel.core.check.srcset_slips import is_name, srcset_slips
from sarvel.core.html.document import Document, value_of
from sarvel.core.html.pieces import Edit, piece_edit, piece_span
from sarvel.core.html.srcset import Candidate, parse_srcset
from sarvel.core.html.tags import Tag
from sarvel.core.html.template_code import holds_code

_SET = "srcset"


def check_candidates(page: Document, lookup: FileLookup) -> Iterator[Finding]:
    """Findings about the candidates of each list; template code is not judged."""
    for image in page.images:
        for tag in image.tags:
            srcset = value_of(tag, _SET) or ""
            if srcset and not holds_code(srcset):
                yield from _of_srcset(page.text, tag, srcset, lookup)


def _of_srcset(text: str, tag: Tag, srcset: str, lookup: FileLookup) -> Iterator[Finding]:
    candidates = parse_srcset(srcset)
    dropped = [_dropped(text, tag, one, slip) for one, slip in srcset_slips(srcset, lookup)]
    if torn := torn_by_comma(candidates, lookup):
        dropped.append(_torn(text, tag, *torn))
    if dropped:
        yield from dropped
        return
    kinds = {"x" if one.width is None else "w" for one in candidates}
    if len(kinds) > 1:
        yield _mixed(text, tag, candidates, lookup)
        return
    alike = list(_alike(text, tag, candidates, lookup))
    yield from alike or _denser_but_narrower(text, tag, candidates, lookup)


def _dropped(text: str, tag: Tag, one: Candidate, slip: Slip | None) -> Finding:
    if slip is None:
        where = piece_span(text, tag, _SET, one.start, one.end)
        words = f"browsers drop {_short(one.url)}: {one.fault}"
        return Finding(
            "candidate-dropped", *where, words, "Write the width of its file, such as 640w, or a density, such as 2x"
        )
    rule = "address-not-escaped" if "%20" in slip.text else "candidate-dropped"
    edits = piece_edit(text, tag, _SET, slip.start, slip.end, slip.text) if slip.sure else ()
    return Finding(rule, *piece_span(text, tag, _SET, *slip.marked), slip.says, f"Write {slip.meant.strip()}", edits)


def torn_by_comma(candidates: Sequence[Candidate], lookup: FileLookup) -> tuple[Candidate, Candidate] | None:
    """Two candidates that are halves of one address, split by a comma before a space; or None."""
    for one, follower in itertools.pairwise(candidates):
        whole = not one.descriptors and not is_name(one.url) and is_name(follower.url)
        if whole and ((file := lookup(one.url)) is None or file.missing) and "/" not in follower.url:
            return one, follower
    return None


def _torn(text: str, tag: Tag, one: Candidate, follower: Candidate) -> Finding:
    where = piece_span(text, tag, _SET, one.start, follower.start + len(follower.url))
    words = f"a comma ends the address {one.url}, before {follower.url}"
    return Finding("address-not-escaped", *where, words, f"Write {one.url}%2C%20{follower.url}")


def _mixed(text: str, tag: Tag, candidates: Sequence[Candidate], lookup: FileLookup) -> Finding:
    """A finding about a list that has widths and densities; the few that differ from the others are marked."""
    by_density = [one for one in candidates if one.width is None]
    few = by_density if len(by_density) * 2 <= len(candidates) else [one for one in candidates if one.width is not None]
    first = few[0]
    where = piece_span(text, tag, _SET, first.start, first.end)
    widths = [_width(one, lookup) for one in by_density]
    said = " ".join([_short(first.url), *first.descriptors])
    words = f"{said} is among {'widths' if first.width is None else 'densities'}"
    if few is not by_density or not all(widths):
        return Finding("widths-and-densities-mixed", *where, words)
    told = ", ".join(f"{_short(one.url)} {width}w" for one, width in zip(by_density, widths, strict=True))
    edits = [_described(text, tag, one, f"{width}w") for one, width in zip(by_density, widths, strict=True)]
    sure = value_of(tag, "sizes") is not None
    return Finding(
        "widths-and-densities-mixed", *where, words, f"Write {told}", tuple(itertools.chain(*edits)) if sure else ()
    )


def _described(text: str, tag: Tag, one: Candidate, descriptor: str) -> tuple[Edit, ...]:
    """The edit that gives a candidate another descriptor, and no others."""
    return piece_edit(text, tag, _SET, one.start + len(one.url), one.end, f" {descriptor}")


def _alike(text: str, tag: Tag, candidates: Sequence[Candidate], lookup: FileLookup) -> Iterator[Finding]:
    known: dict[str, Candidate] = {}
    for one in candidates:
        said = _descriptor(one)
        first = known.setdefault(said, one)
        if first is one:
            continue
        widths = [_width(other, lookup) for other in candidates]
        width = _width(one, lookup)
        words = f"{_short(one.url)} has the descriptor of {_short(first.url)}, {said}"
        where = piece_span(text, tag, _SET, one.start, one.end)
        sure = one.width is not None and width and widths.count(width) == 1
        cure = f"Write {width}w, which its file is wide" if sure else ""
        yield Finding(
            "same-descriptor-twice", *where, words, cure, _described(text, tag, one, f"{width}w") if sure else ()
        )


def _denser_but_narrower(text: str, tag: Tag, candidates: Sequence[Candidate], lookup: FileLookup) -> Iterator[Finding]:
    """A finding about files that get fewer px as their densities rise."""
    if any(one.width is not None for one in candidates) or len(candidates) < 2:
        return
    widths = [_width(one, lookup) for one in candidates]
    if not all(widths):
        return
    by_density = sorted(zip(candidates, widths, strict=True), key=lambda pair: _density(pair[0]))
    for (one, width), (denser, narrower) in itertools.pairwise(by_density):
        if narrower < width:
            words = (
                f"{_short(denser.url)} for {_density(denser):g}x is {narrower} px wide, "
                f"and {_short(one.url)} for {_density(one):g}x {width}"
            )
            where = piece_span(text, tag, _SET, denser.start, denser.end)
            meant = list(zip(candidates, _rising(candidates, widths), strict=True))
            cure = "Write " + ", ".join(f"{_short(one.url)} {density:g}x" for one, density in meant)
            edits = itertools.chain(*(_described(text, tag, one, f"{density:g}x") for one, density in meant))
            yield Finding(
                "densities-out-of-order", *where, words, cure, tuple(edits) if len(set(widths)) == len(widths) else ()
            )
            return


def _rising(candidates: Sequence[Candidate], widths: Sequence[int]) -> list[float]:
    """The densities of a list, given to its files in the order of their widths."""
    densities = sorted(map(_density, candidates))
    order = sorted(range(len(widths)), key=lambda i: widths[i])
    return [densities[order.index(i)] for i in range(len(widths))]


def _descriptor(one: Candidate) -> str:
    return f"{_density(one):g}x" if one.width is None else f"{one.width}w"


def _density(one: Candidate) -> float:
    return 1.0 if one.density is None else one.density


def _width(one: Candidate, lookup: FileLookup) -> int:
    file = lookup(one.url)
    return file.width if file else 0


def _short(url: str) -> str:
    return url.rsplit("/", 1)[-1] or url
