"""The whole job of a plan: rendered, woven, checked."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from sarvel.files.ledger import Ledger
from sarvel.notices import Kind, Notice
from sarvel.pipeline.check import Checked, check_files, pages_of_plan
from sarvel.pipeline.listener import Listener
from sarvel.pipeline.page_sums import PageSums, Weighed, pairs_shown_on, sum_pages
from sarvel.pipeline.portions import Parts
from sarvel.pipeline.render import RenderedPlan, RenderOptions, prune_plan, render_plan
from sarvel.pipeline.weave import WrittenPages, weave_plan
from sarvel.plan.read import Plan


@dataclass(frozen=True)
class Built:
    """The result of a build.

    Attributes:
        checked: what the check of its pages found.
        pictures: the pictures that pages show and whose files are all there; if no page shows any, all. None of those whose
            files are made when asked for.
        sums: of all pages; of all pictures, as one page, if no page shows any.
        faults: obstacles, each once.
    """

    done: RenderedPlan
    pages: WrittenPages
    checked: Checked
    pictures: tuple[Weighed, ...]
    sums: PageSums
    faults: tuple[Notice, ...]


def build(
    plan: Plan, ledger: Ledger, options: RenderOptions, listener: Listener, woven: Callable[[], None] = lambda: None
) -> Built:
    """Renders, weaves and checks. Faults of single masters and pages stop no others.

    Args:
        options: which files to render, and how.
        woven: called once pages are written, before they are checked.

    Raises:
        PlanError: the plan's pages cannot be found, or it would write where it may not.
        OutputError: the folder of renditions cannot be written.
    """
    done = render_plan(plan, ledger, options, listener, weighs=True)
    asked, rendered = done.asked, done.rendered
    parts = Parts(asked, ledger, whole=done.site)
    pages = weave_plan(parts, listener, rendered.faults)
    if options.only:
        done.faults |= dict.fromkeys(fault for site in parts.by_masters() for fault in site.faults)
    woven()
    if options.prune:
        rendered.pruned = prune_plan(asked, ledger, list(done.faults), options, listener)
    checked = check_files(pages_of_plan(plan), plan)
    if told := [one.kind for one in pages.faults]:  # says of an image why it is not woven
        checked = checked.without("not-woven", *(["alt-missing"] if Kind.NO_ALT in told else []))
    on_pages = [pairs for page in asked.pages if (pairs := pairs_shown_on(page))]
    shown = {pair for one in on_pages for pair in one} or done.pictures.keys()
    pictures = {pair: done.pictures[pair] for pair in asked.wanted if pair in shown and pair in done.pictures}
    faults = dict.fromkeys([*done.faults, *pages.faults, *checked.faults])
    return Built(done, pages, checked, tuple(pictures.values()), sum_pages(on_pages, pictures), tuple(faults))
