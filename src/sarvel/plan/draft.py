"""The first plan of a site, drafted: TOML with comments that give reasons, and a list of open points."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass, field

from sarvel.core.amounts import counted, listed
from sarvel.core.html.mentions import Use
from sarvel.core.layout.bands import bands_from
from sarvel.core.layout.fitted import Fitted
from sarvel.core.quoted import quoted
from sarvel.core.survey.groups import Group

NAMES = ("phone", "tablet", "desktop", "wide")
"""Names of breakpoints, the narrowest first; a layout has seldom more."""


_SLOTS = """\
# Slots. selectors: which img elements belong to a slot, if they name none. sizes: how wide the layout shows them.
# crops = "4:3" would crop them around their subject, crops = { phone = "1:1", desktop = "21:9" } from each breakpoint
# on; without crops they stay whole.
"""


_SAME_RATIO = 0.02  # share by which ratios differ that are the same to the eye
_WORST = 3  # places that are named of many


@dataclass(frozen=True)
class Larger:
    """A larger file of an image, which replaces it.

    Attributes:
        ratio: the shape of its own file, if that of the larger one differs; else "".
    """

    key: str
    slot: str
    master: str
    ratio: str


@dataclass(frozen=True)
class Backgrounds:
    """Backgrounds in pages that will share a slot.

    Attributes:
        fitted: how wide a browser shows them; None if no one looked.
    """

    selectors: Sequence[str]
    places: Sequence[str]
    fitted: Fitted | None = None


@dataclass(frozen=True)
class PicturesByHand:
    """Pictures by hand with the same media conditions.

    Attributes:
        whens: the conditions, in order.
        sizes: their `sizes` value; "" if they have none, or several.
        froms: by master, the masters of its crops by number, from 1.
    """

    whens: Sequence[str]
    selectors: Sequence[str]
    places: Sequence[str]
    sizes: str
    froms: Mapping[str, Mapping[int, str]]


@dataclass(frozen=True)
class Mentions:
    """Places of one use that name masters other than by an img.

    Attributes:
        places: where they are.
        sizes: how wide they show it, if the use needs it; else "".
    """

    use: Use
    places: Sequence[str]
    sizes: str


@dataclass(frozen=True)
class Draft:
    """The contents of a plan to draft; paths are relative to its folder, with forward slashes.

    Attributes:
        pages: folders, files and globs of pages.
        breaks: viewport widths, CSS px, and how many media queries ask for each, the most used first.
        without_alt: images that have no words anywhere, by master key; where one of each is.
        larger: files that images link to and that replace their own.
        backgrounds: backgrounds in pages; or None.
        pictures: pictures by hand.
        mentions: links, posters and so on, by use.
        url: the address that the site is published at; "" if it is not known.
        left: images that the plan does not take: why, and where they are.
        reason: the way that it takes, and why.
        root: the folder that is served as /; "" if that goes without saying.
        base: the path that the site is published below; "" for none.
        address: how pages reach the made files; "" if that goes without saying.
        woven: the folder for woven pages; "" weaves in place.
        component: the file of the component that woven scripts call; "" for none.
        dialects: names of dialects by file ending, where the project has its own.
    """

    masters: str
    pages: Sequence[str]
    output: str
    breaks: Sequence[tuple[float, int]]
    groups: Sequence[Group]
    without_alt: Mapping[str, str] = field(default_factory=dict)
    larger: Sequence[Larger] = ()
    backgrounds: Backgrounds | None = None
    pictures: Sequence[PicturesByHand] = ()
    mentions: Sequence[Mentions] = ()
    url: str = ""
    left: Mapping[str, Sequence[str]] = field(default_factory=dict)
    is_measured: bool = False
    reason: str = ""
    root: str = ""
    base: str = ""
    address: str = ""
    woven: str = ""
    component: str = ""
    dialects: Mapping[str, str] = field(default_factory=dict)

    @property
    def count(self) -> int:
        """How many images the slots take."""
        behind = len(self.backgrounds.places) if self.backgrounds else 0
        return sum(len(one.images) for one in self.groups) + sum(len(one.places) for one in self.pictures) + behind


def drafted(draft: Draft) -> str:
    """The text of the plan."""
    left = _left(draft)
    names = names_of(draft.breaks)
    parts = [
        _site(draft),
        _breakpoints(draft),
        _defaults(),
        _SLOTS,
        *(_slot(group, names, is_measured=draft.is_measured) for group in draft.groups),
    ]
    if draft.backgrounds:
        parts.append(_backgrounds(draft.backgrounds, [group.name for group in draft.groups], names))
    parts += [_pictures(one, name) for name, one in _named_pictures(draft)]
    parts += [_mentions(one, [group.name for group in draft.groups]) for one in draft.mentions]
    parts += _masters(draft)
    if left:
        parts.append("# Left to you:\n" + "".join(f"# - {_line(line)}\n" for line in left))
    return "\n".join(parts)


def left_over(draft: Draft, file: str) -> list[str]:
    """Open points in words: a line for each kind, with a count and the first places.

    Args:
        file: how it is called.
    """
    lines = []
    if draft.without_alt:
        count = counted(len(draft.without_alt), "image")
        lines.append(f"{count} without alt; say in {file} what each shows: {listed(list(draft.without_alt), _WORST)}")
    return [*lines, *_left(draft)]


def _left(draft: Draft) -> list[str]:
    """Slots and images that need a person, in words."""
    guessed = [f"slots.{group.name}" for group in draft.groups if group.guessed]
    lines = []
    if guessed:
        words = "nothing tells how wide images are shown; write it as sizes, or run sarvel measure --save"
        lines.append(f"{counted(len(guessed), 'slot')}: {words}: {listed(list(guessed), _WORST)}")
    mixed = [f"slots.{group.name}" for group in draft.groups if group.seen and not group.seen.alike]
    if mixed:
        words = 'takes images of several widths that nothing in their tags tells apart; write data-sarvel="…" on some'
        lines.append(f"{counted(len(mixed), 'slot')}: {words}: {listed(list(mixed), _WORST)}")
    lines += [
        f"{counted(len(at), 'image')} not taken: {words}: {listed(list(at), _WORST)}"
        for words, at in draft.left.items()
    ]
    return lines


def _masters(draft: Draft) -> Iterator[str]:
    """The tables of single images."""
    larger = {one.key: one for one in draft.larger}
    if draft.without_alt:
        yield '# Images without alt text. Write it; "" for decoration.'
    froms = [
        (key, f"crops.{name}.{number} = {{ from = {quoted(other)} }}    # its source")
        for name, one in _named_pictures(draft)
        for key, numbers in one.froms.items()
        for number, other in numbers.items()
    ]
    for key in sorted({*draft.without_alt, *larger, *(key for key, _ in froms)}):
        lines = [f"[masters.{quoted(key)}]"]
        if key in draft.without_alt:
            lines.append(f'# alt = ""    # {_line(draft.without_alt[key])}')
        if one := larger.get(key):
            said = f"from = {quoted(one.master)}" + (f", ratio = {quoted(one.ratio)}" if one.ratio else "")
            lines.append(f"crops.{_key(one.slot)}.all = {{ {said} }}    # it links to this larger file")
        lines += [line for other, line in froms if other == key]
        yield "\n".join(lines) + "\n"


def names_of(breaks: Sequence[tuple[float, int]]) -> dict[str, tuple[float, int]]:
    """Breakpoints with names, the narrowest first; if there are many, the most used ones.

    Args:
        breaks: viewport widths and how often each is used, the most used first.
    """
    kept = sorted([(0.0, 0), *breaks[: len(NAMES) - 1]])
    names = ("phone", "desktop") if len(kept) == 2 else NAMES
    return dict(zip(names, kept, strict=False))


def _site(draft: Draft) -> str:
    pages = ", ".join(map(quoted, draft.pages))
    woven = (
        f"woven   = {quoted(draft.woven)}    # the folder to publish: woven pages and all that is next to them\n"
        if draft.woven
        else '# woven = "public"    # woven pages go here; by default pages are woven in place\n'
    )
    root = f"root    = {quoted(draft.root)}    # the folder that is served as /\n" if draft.root else ""
    base = (
        f"base    = {quoted(draft.base + '/')}    # the path that the site is published below\n" if draft.base else ""
    )
    address = f"address = {quoted(draft.address)}    # the site is published below a path\n" if draft.address else ""
    said = ", ".join(f"{quoted(ending)} = {quoted(name)}" for ending, name in draft.dialects.items())
    url = f"url     = {quoted(draft.url)}    # published there\n" if draft.url else ""
    component = (
        f"component = {quoted(draft.component)}    # has the markup; without it, each tag has its own\n"
        if draft.component
        else ""
    )
    dialects = f"dialects = {{ {said} }}    # components in files of this ending\n" if said else ""
    return (
        "# Drafted by `sarvel start`. `sarvel plan` explains the result, `sarvel build` makes it, and\n"
        "# `sarvel weave --undo` restores the pages.\n"
        f"# {_line(draft.reason)}.\n\n"
        "[site]\n"
        f"masters = {quoted(draft.masters)}    # the originals; Sarvel never writes to them\n"
        f"pages   = [{pages}]\n"
        f"output  = {quoted(draft.output)}    # the folder for made files\n"
        f"{woven}{root}{url}{base}{address}{dialects}{component}"
    )


def _breakpoints(draft: Draft) -> str:
    is_measured = draft.is_measured and any(group.seen for group in draft.groups)
    what = "where the layout changes, as measured" if is_measured else "the stylesheets' own"
    lines = [f"[breakpoints]    # {what}, CSS px"]
    for name, (start, count) in names_of(draft.breaks).items():
        told = f"    # {count} media {'query' if count == 1 else 'queries'}" if count and not is_measured else ""
        lines.append(f"{name} = {start:g}{told}")
    names = {start for start, _ in names_of(draft.breaks).values()}
    rest = [f"{start:g} ({count})" for start, count in draft.breaks if start not in names]
    if rest and not is_measured:
        lines.append(f"# less used: {', '.join(rest)}")
    return "\n".join(lines) + "\n"


def _defaults() -> str:
    return (
        '[defaults]\nformats   = ["avif", "webp", "jpeg"]    # best first\ndensities = [1, 2]    # sharp up to here\n'
    )


def _slot(group: Group, names: Mapping[str, tuple[float, int]], *, is_measured: bool) -> str:
    count = len(group.images)
    lines = [
        f"[slots.{_key(group.name)}]    # {count} image{'' if count == 1 else 's'}, such as {_line(group.images[0].place)}"
    ]
    if group.selectors:
        lines.append(f"selectors = [{', '.join(map(_literal, group.selectors))}]")
    starts = {name: start for name, (start, _) in names.items()}
    seen = group.seen if group.seen and (group.seen.alike or not group.layout.natural) else None
    shown = shown_in_toml(seen.fitted, starts) if seen else quoted(group.shown)
    source = f"measured in a browser, to {seen.fitted.error:.1f} px" if seen and is_measured else "from the stylesheets"
    why = source if seen else group.why
    lines.append(f"sizes = {shown}    # {why}")
    if seen and seen.ratios:
        lines.append(f"crops  = {_crops(seen.ratios, starts)}    # the stylesheet crops them to this")
        lines.append('reserve = "none"    # and gives them their box')
    if group.layout.urgent:
        lines.append('loading = "eager"    # its author fetches it first')
    elif group.seen and is_measured:
        if group.seen.opens:
            phone, desktop = (f"{100 * share:.0f} %" for share in group.seen.first)
            lines.append(
                f"loading = \"eager\"    # in the first screen: {phone} of a phone's, {desktop} of a desktop's"
            )
    elif group.opens:
        lines.append("# loading: unset, the first image of a header and the first large one of a page are eager")
    if group.layout.shaped and not (seen and seen.ratios):
        lines.append('reserve = "none"    # the stylesheet gives these images a ratio')
    if group.layout.by_place:
        lines.append(
            "# Without a picture around it, because a rule depends on its place: " + _line(group.layout.by_place)
        )
        lines.append('formats = ["webp"]')
    return "\n".join(lines) + "\n"


def shown_in_toml(fitted: Fitted, starts: Mapping[str, float]) -> str:
    """A measured width in TOML: one length, lengths by breakpoint if these have names, else a list.

    Args:
        starts: where bands begin, CSS px, by their names.
    """
    if len(fitted.steps) == 1:
        return quoted(fitted.steps[0][1])
    names = {start: name for name, start in starts.items()}
    if all(start in names for start, _ in fitted.steps):
        return "{ " + ", ".join(f"{names[start]} = {quoted(css)}" for start, css in fitted.steps) + " }"
    return "[" + ", ".join(f"{{ from = {start}, width = {quoted(css)} }}" for start, css in fitted.steps) + "]"


def _crops(ratios: Mapping[int, float], starts: Mapping[str, float]) -> str:
    """The ratios of boxes as crops of a plan: from each breakpoint on the tallest, because the box crops the rest."""
    if max(ratios.values()) <= min(ratios.values()) * (1 + _SAME_RATIO):
        return quoted(_ratio(min(ratios.values())))
    bands = bands_from(starts, starts)
    by_band = {
        band.name: min(some) for band in bands if (some := [ratio for at, ratio in ratios.items() if at in band])
    }
    first = bands[0].name
    by_band = {first: by_band.pop(first, min(ratios.values())), **by_band}
    return "{ " + ", ".join(f"{name} = {quoted(_ratio(ratio))}" for name, ratio in by_band.items()) + " }"


def _ratio(ratio: float) -> str:
    """A ratio in small whole numbers, if some come close enough; else to three digits."""
    pairs = ((width, height) for height in range(1, 17) for width in range(1, 33))
    near = next(((w, h) for w, h in pairs if abs(w / h / ratio - 1) <= _SAME_RATIO / 4), None)
    limited = min(max(ratio, 1 / 20), 20.0)
    return f"{near[0]}:{near[1]}" if near and near[0] <= 20 * near[1] else f"{limited:.3f}:1"


def _backgrounds(one: Backgrounds, names: Collection[str], breaks: Mapping[str, tuple[float, int]]) -> str:
    free = next(name for name in ("backdrop", *(f"backdrop-{i}" for i in range(2, 100))) if name not in names)
    count = counted(len(one.places), "background")
    starts = {name: start for name, (start, _) in breaks.items()}
    shown = shown_in_toml(one.fitted, starts) if one.fitted else '"100vw"'
    why = "measured in a browser" if one.fitted else "as wide as the page, as most backgrounds are"
    return (
        f"[slots.{free}]    # {count}, such as {_line(one.places[0])}\n"
        'use = "background"\n'
        f"selectors = [{', '.join(map(_literal, one.selectors))}]\n"
        f"sizes = {shown}    # {why}\n"
    )


def _named_pictures(draft: Draft) -> list[tuple[str, PicturesByHand]]:
    """Pictures by hand, with the names of their slots."""
    used = {group.name for group in draft.groups}
    free = (name for name in ("art", *(f"art-{i}" for i in range(2, 1000))) if name not in used)
    return list(zip(free, draft.pictures, strict=False))


def _pictures(one: PicturesByHand, name: str) -> str:
    why = "the pictures' own" if one.sizes else "unknown; set it"
    lines = [
        f"[slots.{name}]    # {counted(len(one.places), 'picture')} by hand, such as {_line(one.places[0])}",
        f"selectors = [{', '.join(map(_literal, one.selectors))}]",
        f"sizes = {quoted(one.sizes or '100vw')}    # {why}",
    ]
    if one.whens:
        crops = [*(f'{{ when = {quoted(when)}, ratio = "native" }}' for when in one.whens), '{ ratio = "native" }']
        lines += ["crops = [", *(f"  {crop}," for crop in crops), "]"]
    return "\n".join(lines) + "\n"


_WORDS: Mapping[Use, tuple[str, str]] = {
    "link": ("links to images", "as wide as a large screen shows it"),
    "share": ("images for sharing", ""),
    "single": ("posters and objects", "set it to how wide the layout shows them"),
    "icon": ("icons", ""),
}


def _mentions(one: Mentions, names: Collection[str]) -> str:
    name = next(name for name in (one.use, *(f"{one.use}-{i}" for i in range(2, 100))) if name not in names)
    word, why = _WORDS[one.use]
    count = f"{word}: {len(one.places)}"
    sizes = f"sizes = {quoted(one.sizes)}    # {why}\n" if one.sizes else ""
    return f'[slots.{name}]    # {count}, such as {_line(one.places[0])}\nuse = "{one.use}"\n{sizes}'


def _key(name: str) -> str:
    return name if name.replace("-", "").replace("_", "").isalnum() and name.isascii() else quoted(name)


def _line(text: str) -> str:
    """A text that stays within a comment."""
    return "".join(letter if letter.isprintable() else "�" for letter in text)


def _literal(text: str) -> str:
    """A literal string where that spares escapes."""
    return f"'{text}'" if '"' in text and "'" not in text and text.isprintable() else quoted(text)
