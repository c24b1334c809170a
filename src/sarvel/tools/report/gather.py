"""The facts of a report, gathered: the plan's files, the files that pages fetch, and open points."""

from __future__ import annotations

import base64
import functools
import math
import os
from collections.abc import Callable, Iterable, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field, replace
from pathlib import Path

from sarvel.core.address.address import Address, InFolder
from sarvel.core.css.device import Device
from sarvel.core.edition.compose import SUBJECT_LOST, Crop, Picture
from sarvel.core.edition.encoding import EncoderNumbers
from sarvel.core.edition.promise import promise_of, shortfalls
from sarvel.core.edition.rendition import Rendition
from sarvel.core.html.density import select
from sarvel.core.layout.audience import BUILT_IN, Visits, busiest
from sarvel.core.layout.ladder import demand
from sarvel.core.markup.one_file import named_files
from sarvel.core.markup.picture import write_markup
from sarvel.core.model import ONE_FILE
from sarvel.encode.thumbs import small
from sarvel.errors import PageError, PlanError
from sarvel.files.ledger import Ledger
from sarvel.files.ledger_entries import known_numbers
from sarvel.notices import Kind, Notice
from sarvel.pages.read.asks import Page
from sarvel.pages.read.page_files import read_text, seen_from
from sarvel.pages.weave.write import standing_alone
from sarvel.pipeline.check import Checked, check_files, pages_of_plan
from sarvel.pipeline.listener import Listener
from sarvel.pipeline.page_sums import DESKTOP, PHONE, Pair, Weighed, pairs_shown_on, sum_pages, weigh
from sarvel.pipeline.site import Site
from sarvel.tools.pick import images_of, outcomes
from sarvel.tools.report.comparisons import begin
from sarvel.tools.report.facts import (
    Budget,
    CropFacts,
    Fetch,
    FileFacts,
    PageFacts,
    PictureFacts,
    Report,
    ShownWidths,
    Stair,
)

STAIR_ENDS = (240, 3840)
"""The narrowest and the widest viewport of a staircase chart, CSS px."""

_STEPS = 160  # viewports of a chart, evenly spread by their logarithms
_DENSITIES = (1.0, 2.0, 3.0)
_STRIDE = 32  # CSS px, within which a layout hardly bends twice
_STRAIGHT = 1e-6  # CSS px; what arithmetic rounds
_THUMB = 160  # px across, at least, of the preview of a crop
_DEVICES = 8  # of the audience, that tables of pages show


@dataclass(frozen=True)
class ReportOptions:
    """What a report is to hold, and where it will stand.

    Attributes:
        folder: of the report, from which addresses are seen.
        comparisons: how many pictures are compared with their masters, those least similar first.
        confirmed: what `confirm` found, in words.
    """

    folder: Path
    comparisons: int
    workers: int
    confirmed: tuple[str, ...] = ()


def report_of(site: Site, ledger: Ledger, options: ReportOptions, listener: Listener) -> Report:
    """Gathers all facts of a report.

    Args:
        site: the site, as it stands.
        options: what the report is to hold.

    Raises:
        OutputError: the folder of renditions cannot be read.
        PlanError: files are not made beforehand.
    """
    plan = site.plan
    if not plan.makes_files:
        raise PlanError.at(
            plan.file,
            "a report needs files that are made in advance, and these are made on request",
            'see plan, pick and check, or write delivery = "files" into a copy of the plan',
        )
    there = site.there()
    made = site.made(there)
    on_pages = [pairs_shown_on(page) for page in site.pages]
    asked: dict[Pair, list[Page]] = {}
    for page, pairs in zip(site.pages, on_pages, strict=True):
        for pair in pairs:
            asked.setdefault(pair, []).append(page)
    shown = [one for one in made if not asked or (one.slot.name, one.master.key) in asked]
    sums = sum_pages([pairs for pairs in on_pages if pairs], weighed := weigh(shown, there))
    numbers = known_numbers(ledger, site.edition)
    gather = _Pictures(site, numbers, there, options)
    devices = _devices(plan.audience)
    with ThreadPoolExecutor(options.workers) as pool:
        comparing = begin(pool, shown, numbers, site, options.comparisons)
        pictures = [gather.facts(one, asked.get((one.slot.name, one.master.key), ())) for one in shown]
        checked = check_files(pages_of_plan(plan), plan)
        pages = tuple(
            _page(page, pairs, weighed, devices, site, options)
            for page, pairs in zip(site.pages, on_pages, strict=True)
        )
        windows = comparing.windows(listener)
    pictures = [replace(one, windows=windows.get(one.key, ())) for one in pictures]
    budgets = _budgets(pages, plan.checks.budgets)
    return Report(
        plan.folder.absolute().name,
        pages,
        tuple(pictures),
        sums.masters,
        {str(device): total for device, total in sums.fetched.items()},
        budgets,
        tuple(_tasks(site, shown, checked, budgets, unmade=len(site.edition.pictures) - len(made))),
        tuple(one for page in checked.pages for one in page.notices),
        tuple(_measured(site)),
        options.confirmed,
        tuple(str(device) for device in devices),
    )


def _markup(picture: Picture, address: Address, placeholders: Mapping[str, str]) -> str:
    """The markup of a picture that stands alone; the address, where a page names one file."""
    if picture.slot.use in ONE_FILE:
        return named_files(picture, address)[-1].url
    return standing_alone(write_markup(picture, address, placeholders), picture.alt or "")


def _devices(audience: tuple[Visits, ...]) -> list[Device]:
    """The devices that tables show: a phone, a desktop, and those of most visits; by width."""
    most = sorted(busiest(audience or BUILT_IN), key=lambda visits: -visits.share)
    chosen = dict.fromkeys([PHONE, DESKTOP, *(visits.device for visits in most)])
    return sorted(list(chosen)[:_DEVICES], key=lambda device: (device.width, device.dpr))


def _page(
    page: Page,
    pairs: set[tuple[str, str]],
    weighed: Mapping[Pair, Weighed],
    devices: Sequence[Device],
    site: Site,
    options: ReportOptions,
) -> PageFacts:
    file = page.file.target
    sums = sum_pages([pairs], weighed) if pairs else None
    before = {str(device): sums.masters for device in (PHONE, DESKTOP)} if sums else {}
    now = {str(device): total for device, total in sums.fetched.items()} if sums else {}
    name = seen_from(site.plan.folder, page.file.source)
    try:
        text = read_text(file).text
    except PageError:  # not woven yet, or gone: check describes it
        return PageFacts(name, "", 0, before, now, {})
    images = images_of(text, file, site.plan)
    on_budget = [device for device in site.plan.checks.budgets if device not in devices]
    audience = [Visits(device, 1, str(device)) for device in (*devices, *on_budget)]
    found = outcomes(images, audience, text, file, site.plan)
    shown = {
        str(visits.device): tuple(
            ShownWidths(
                image.number,
                found[image.number][i].pick.url.rsplit("/", 1)[-1],
                None if (width := found[image.number][i].fit.width) is None else round(width),
                found[image.number][i].weight,
                found[image.number][i].verdict,
            )
            for image in images
        )
        for i, visits in enumerate(audience)
    }
    return PageFacts(name, _seen_from(options.folder, file), len(images), before, now, shown)


def _seen_from(folder: Path, file: Path) -> str:
    """The address of a file as a page in a folder writes it."""
    from urllib.parse import quote

    return quote(os.path.relpath(file.absolute(), folder.absolute()).replace(os.sep, "/"), errors="surrogateescape")


@dataclass(frozen=True)
class _Pictures:
    """What the facts of all pictures are gathered from."""

    site: Site
    numbers: Mapping[str, EncoderNumbers]
    there: Mapping[str, int]
    options: ReportOptions
    bends: dict[str, tuple[tuple[int, float], ...]] = field(default_factory=dict)
    stairs: dict[tuple[object, ...], tuple[Stair, ...]] = field(default_factory=dict)

    def facts(self, picture: Picture, pages: Sequence[Page]) -> PictureFacts:
        """The facts of one picture, without comparisons."""
        plan = self.site.plan
        fetched = {}
        for device in (PHONE, DESKTOP):
            rendition = picture.fetched(device)
            weight = self.there[rendition.name]
            saving = round(1 - weight / picture.master.size, 4)
            fetched[str(device)] = Fetch(rendition.name, weight, saving, self._by_format(picture, device))
        address = InFolder(plan.address or _seen_from(self.options.folder, plan.output))
        return PictureFacts(
            picture.slot.name,
            picture.master.key,
            picture.master.size,
            picture.alt or "",
            tuple(seen_from(plan.folder, page.file.source) for page in pages),
            picture.slot.loading,
            tuple(self._crop(crop) for crop in picture.crops),
            fetched,
            self._stairs(picture),
            _markup(picture, address, self.site.placeholders),
            tuple(
                map(str, sorted([*picture.notices, *shortfalls([picture])], key=lambda one: one.severity != "warning"))
            ),
            max(picture.slot.densities),
            self._shown(picture),
        )

    def _by_format(self, picture: Picture, device: Device) -> dict[str, int]:
        """Bytes of what a device would fetch in each format of its crop."""
        shown, ladders = picture.slot.shown.on(device) or 1.0, picture.crop_on(device).renditions
        chosen = {
            name: ladder[select([one.width / shown for one in ladder], device.dpr)] for name, ladder in ladders.items()
        }
        return {name: self.there[one.name] for name, one in chosen.items()}

    def _shown(self, picture: Picture) -> tuple[tuple[int, float], ...]:
        """The shown width over the viewport, as the points at which it bends."""
        slot = picture.slot.name
        if slot not in self.bends:
            self.bends[slot] = tuple(_bends(lambda width: picture.slot.shown.on(Device(width, _height(width), 1))))
        return self.bends[slot]

    def _stairs(self, picture: Picture) -> tuple[Stair, ...]:
        """The pixels needed and delivered: the same for all pictures of a slot that have the same widths."""
        widths = [tuple(one.width for one in next(iter(crop.renditions.values()))) for crop in picture.crops]
        key = (picture.slot.name, *widths)
        if key not in self.stairs:
            self.stairs[key] = tuple(_stairs(picture))
        return self.stairs[key]

    def _crop(self, crop: Crop) -> CropFacts:
        promise, box = promise_of(crop), crop.box
        files = tuple(self._file(one) for ladder in crop.renditions.values() for one in ladder)
        return CropFacts(
            crop.rule.name,
            crop.rule.media.css,
            round(box.width),
            round(box.height),
            tuple(
                (
                    (one.left - box.left) / box.width,
                    (one.top - box.top) / box.height,
                    (one.right - box.left) / box.width,
                    (one.bottom - box.top) / box.height,
                )
                for one in crop.subjects
            ),
            crop.lost,
            crop.guessed,
            crop.sizes,
            tuple(crop.ladder.widths),
            crop.ladder.fitness.excess,
            crop.ladder.one_for_all.excess,
            promise.soft,
            str(promise.softest),
            promise.waste,
            str(promise.wasteful),
            files,
            self._thumb(crop),
            tuple((start[0], end[0]) for start, end in crop.viewports.spans),
        )

    def _file(self, one: Rendition) -> FileFacts:
        encoding = one.encoding
        found = self.numbers.get(encoding.search.key) if encoding.search else None
        quality = (
            "lossless" if encoding.lossless else str(found.at(one.width)) if found else str(encoding.quality or "")
        )
        tried = {width: alike for width, _, alike in found.points} if found else {}
        alike = tried.get(one.width)
        return FileFacts(
            one.name,
            _seen_from(self.options.folder, self.site.plan.output / one.name),
            one.format,
            one.width,
            one.height,
            self.there[one.name],
            quality,
            None if alike is None else round(alike, 1),
        )

    def _thumb(self, crop: Crop) -> str:
        """The lightest file of a crop that is wide enough, made small if it is heavy, as an address that holds it."""
        every = [one for ladder in crop.renditions.values() for one in ladder]
        wide = [one for one in every if one.width >= _THUMB] or every
        least = min(wide, key=lambda one: (one.width, self.there[one.name]))
        content, format_ = small(self.site.output.file(least.name), least.format)
        return f"data:image/{format_};base64,{base64.b64encode(content).decode()}"


def _stairs(picture: Picture) -> Iterable[Stair]:
    """The pixels needed and delivered, over the width of the viewport. Narrow viewports are taken upright, wide ones across."""
    ratio = STAIR_ENDS[1] / STAIR_ENDS[0]
    viewports = sorted({round(STAIR_ENDS[0] * ratio ** (i / (_STEPS - 1))) for i in range(_STEPS)})
    shown = [picture.slot.shown.on(Device(width, _height(width), 1)) or 1.0 for width in viewports]
    for density in _DENSITIES:
        devices = [Device(width, _height(width), density) for width in viewports]
        needed = tuple(demand(width, density, picture.slot.densities) for width in shown)
        yield Stair(density, tuple(viewports), needed, tuple(picture.fetched(device).width for device in devices))


def _bends(value: Callable[[int], float]) -> Iterable[tuple[int, float]]:
    """The whole widths of viewports at which a value bends, each with the value there, and both ends."""
    known = functools.cache(value)
    yield STAIR_ENDS[0], known(STAIR_ENDS[0])
    for start in range(STAIR_ENDS[0], STAIR_ENDS[1], _STRIDE):
        end = min(start + _STRIDE, STAIR_ENDS[1])
        thirds = (start + (end - start) // 3, start + 2 * (end - start) // 3)
        slope = (known(end) - known(start)) / (end - start)
        straight = all(abs(known(at) - known(start) - slope * (at - start)) < _STRAIGHT for at in thirds)
        for at in () if straight else range(start + 1, end):
            if abs(known(at - 1) + known(at + 1) - 2 * known(at)) > _STRAIGHT:
                yield at, round(known(at), 4)
        yield end, round(known(end), 4)


def _height(width: float) -> int:
    return math.ceil(width * (16 / 9 if width < 700 else 9 / 16))


def _budgets(pages: Sequence[PageFacts], budgets: Mapping[Device, int]) -> tuple[Budget, ...]:
    return tuple(
        Budget(page.name, str(device), allowed, page.weight_on(str(device)))
        for page in pages
        for device, allowed in budgets.items()
        if page.shown
    )


def _tasks(
    site: Site, shown: Sequence[Picture], checked: Checked, budgets: Sequence[Budget], *, unmade: int
) -> Iterable[Notice]:
    """Open points, worst first."""
    found: list[Notice] = [*site.faults, *checked.faults]
    if unmade:
        says = f"{unmade} picture{'s have' if unmade > 1 else ' has'} files that are not made yet"
        found.append(Notice(Kind.TO_MAKE, "", says, "run sarvel build"))
    for picture in shown:
        guessed = any(crop.guessed is not None and crop.lost > SUBJECT_LOST for crop in picture.crops)
        found += [one for one in picture.notices if guessed or one.severity != "note"]
    found += shortfalls(shown)
    for budget in budgets:
        if budget.weight > budget.allowed:
            says = f"its images weigh {budget.weight:,} bytes on {budget.device}, its budget is {budget.allowed:,}"
            cure = "show fewer or smaller images, or choose a lighter quality"
            found.append(Notice(Kind.PROMISE, budget.page, says, cure))
    found += [one for page in checked.pages for one in page.notices if one.severity != "note"]
    matter = dict.fromkeys(one for one in found if one.matters)
    return sorted(matter, key=lambda one: (["fault", "warning", "note"].index(one.severity), -(one.share or 0.0)))


def _measured(site: Site) -> Iterable[str]:
    for slot in site.plan.slots.values():
        if slot.measured:
            yield f"{slot.name}: measured on {slot.measured.on} on {', '.join(slot.measured.pages)}"
