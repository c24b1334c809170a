"""The whole job of a plan: rendered, woven, checked."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from sarvel.core.css.device import Device
from sarvel.core.edition.compose import Picture
from sarvel.core.edition.rendition import Rendition
from sarvel.files.ledger import Ledger
from sarvel.pipeline.check import Checked, check_files, pages_of_plan
from sarvel.pipeline.listener import Listener
from sarvel.pipeline.make_files import Rendered
from sarvel.pipeline.page_sums import DESKTOP, PHONE, PageSums, shown_on, summed
from sarvel.pipeline.render import RenderOptions, pruned, render_site
from sarvel.pipeline.site import Site, read_site
from sarvel.pipeline.weave import WrittenPages, weaver_of, write_site
from sarvel.plan.read import Plan


@dataclass(frozen=True)
class BuiltPicture:
    """One picture whose files are all there.

    Attributes:
        picture: the picture.
        files: how many files were made of it.
        total: their bytes together.
        fetched: what each device fetches, and its bytes.
    """

    picture: Picture
    files: int
    total: int
    fetched: dict[Device, tuple[Rendition, int]]

    def saving(self, device: Device) -> float:
        """The share of the master's bytes that a device is spared; negative if it fetches more."""
        return 1 - self.fetched[device][1] / self.picture.master.size


@dataclass(frozen=True)
class Built:
    """The result of a build.

    Attributes:
        site: the site.
        rendered: its renditions.
        pages: its pages and side files.
        checked: what the check of its pages found.
        pictures: the pictures that pages show and whose files are all there; if no page shows any, all. None of those whose
            files are made when asked for.
        sums: of all pages; of all pictures, as one page, if no page shows any.
        faults: what stands in the way of parts of it, a message each.
    """

    site: Site
    rendered: Rendered
    pages: WrittenPages
    checked: Checked
    pictures: tuple[BuiltPicture, ...]
    sums: PageSums
    faults: tuple[str, ...]

    @property
    def needs_user(self) -> bool:
        """Tells whether something needs the user."""
        return bool(self.faults or self.site.warnings or self.checked.has_grave())


def build(
    plan: Plan, ledger: Ledger, options: RenderOptions, listener: Listener, woven: Callable[[], None] = lambda: None
) -> Built:
    """Renders, weaves and checks. Faults of single masters and pages stop no others.

    Args:
        plan: the plan.
        ledger: what is known already.
        options: what is to be rendered, and how.
        listener: who hears how it goes.
        woven: called once pages are written, before they are checked.

    Raises:
        PlanError: the plan's pages cannot be found, or it would write where it may not.
        OutputError: the folder of renditions cannot be written.
    """
    site, rendered = render_site(read_site(plan, ledger), ledger, options, listener)
    if ledger.is_damaged:  # it was asked before that was found out: once more, by what is left of it
        earlier = rendered.made
        site, rendered = render_site(read_site(plan, ledger), ledger, options, listener)
        rendered.made = [*earlier, *rendered.made]
    weaver = weaver_of(site, rendered.faults)
    pages = write_site([weaver(page) for page in site.pages], weaver, site, ledger, listener)
    woven()
    if options.prune:
        rendered.pruned = pruned(
            site, ledger, site.edition.files(), [*site.faults, *rendered.faults], options, listener
        )
    there = site.there()
    checked = check_files(pages_of_plan(plan), plan)
    faults = dict.fromkeys([*site.faults, *rendered.faults.values(), *pages.faults, *checked.faults])
    on_pages = [shown for page in site.pages if (shown := shown_on(page))]
    shown = {pair for one in on_pages for pair in one}
    pictures = tuple(
        _built(picture, there)
        for picture in (site.made(there) if plan.makes_files else ())
        if not shown or (picture.slot.name, picture.master.key) in shown
    )
    by_pair = {(one.picture.slot.name, one.picture.master.key): one.picture for one in pictures}
    return Built(site, rendered, pages, checked, pictures, summed(on_pages, by_pair, there), tuple(faults))


def _built(picture: Picture, there: dict[str, int]) -> BuiltPicture:
    weights = {rendition.name: there[rendition.name] for rendition in picture.renditions()}
    fetched = {device: picture.fetched(device) for device in (PHONE, DESKTOP)}
    return BuiltPicture(
        picture,
        len(weights),
        sum(weights.values()),
        {device: (rendition, weights[rendition.name]) for device, rendition in fetched.items()},
    )
