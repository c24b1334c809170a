"""Rendering a site: what is missing made, alone in its folder, and all that is found out kept in the ledger."""

from __future__ import annotations

import contextlib
import time
from collections import Counter
from collections.abc import Callable, Container, Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import TYPE_CHECKING

from sarvel.core.amounts import duration
from sarvel.core.edition.compose import Edition
from sarvel.core.markup.backgrounds import STYLESHEET
from sarvel.core.model import Effort
from sarvel.core.patterns import matches
from sarvel.encode.work import Made
from sarvel.errors import PlanError
from sarvel.files.atomic import sweep
from sarvel.files.folder_lock import alone_in
from sarvel.files.ledger import Ledger, MadeFile
from sarvel.files.ledger_entries import known_pace, remember_efforts, remember_pace
from sarvel.files.name_set import NameSet
from sarvel.files.output_folder import OutputFolder, prune
from sarvel.pages.read.references import names_in_pages
from sarvel.pipeline.cluster_when_needed import ClusterWhenNeeded
from sarvel.pipeline.listener import Listener
from sarvel.pipeline.make_files import Rendered, render
from sarvel.pipeline.pace import Watch, costs_of
from sarvel.pipeline.portions import PORTION, portions
from sarvel.pipeline.sending import Publishing, finish, send_left_behind
from sarvel.pipeline.site import Asked, PlanAndPages, Site, compose_site, read_asked, settled
from sarvel.pipeline.todo import Todo, placeholders_to_do, work_to_do
from sarvel.pipeline.unchanged import endings_by_folder
from sarvel.plan.read import Plan
from sarvel.workers.cores import available_workers

if TYPE_CHECKING:  # few runs have one
    from sarvel.workers.cluster.coordinator import Cluster

# Seconds of one core for a pixel, all its formats and the search for their numbers: the demo on a machine of 2026.
_PACE: dict[Effort, float] = {"quick": 0.5e-6, "normal": 1e-6, "thorough": 4e-6}
_NAMED = 8  # masters in work that progress names
_LITTLE = 3_000_000  # px to encode: about a second's work, as long as a process takes to start


@dataclass(frozen=True)
class RenderOptions:
    """The part of a plan to render, and how.

    Attributes:
        only: patterns of names of slots and masters; empty for all.
        force: whether to make what stands there already, too.
        verify: whether to compare the contents of what stands there with what was written.
        prune: whether to remove files that the plan does not make any more.
        workers: processes at most, >= 1; None for as many as suit.
        on: the address of a dask scheduler whose workers do it; None for this machine.
    """

    only: tuple[str, ...] = ()
    force: bool = False
    verify: bool = False
    prune: bool = False
    workers: int | None = None
    on: str | None = None


@dataclass
class RenderedPlan:
    """The result of rendering all that a plan asks for.

    Attributes:
        asked: what was asked for.
        rendered: what was made.
        left_out: names of files that were made and are of formats that do not pay.
        count: how many files the plan comes to.
        masters: the folders that its masters lie in, each with the endings of their names.
        faults: what stands in the way of parts of it, a message each.
        warnings: messages about pictures that need the user.
        notes: messages about pictures that the user may leave so.
    """

    asked: Asked
    rendered: Rendered = field(default_factory=Rendered)
    left_out: set[str] = field(default_factory=set)
    count: int = 0
    masters: dict[Path, set[str]] = field(default_factory=dict)
    faults: dict[str, None] = field(default_factory=dict)
    warnings: dict[str, None] = field(default_factory=dict)
    notes: dict[str, None] = field(default_factory=dict)

    def add(self, site: Site, rendered: Rendered) -> None:
        """Adds a part of it."""
        mine = self.rendered
        mine.made += rendered.made
        mine.kept += rendered.kept
        mine.faults |= rendered.faults
        mine.altered = [*mine.altered, *rendered.altered]
        self.left_out |= site.dropped().intersection(rendered.made)
        self.count += len(site.edition.files())
        endings_by_folder(site.masters_read(), self.masters)
        self.faults |= dict.fromkeys([*site.faults, *rendered.faults.values()])
        self.warnings |= dict.fromkeys(site.warnings)
        self.notes |= dict.fromkeys(site.notes)


def render_plan(plan: Plan, ledger: Ledger, options: RenderOptions, listener: Listener) -> RenderedPlan:
    """Renders all that a plan asks for, a portion of its masters at a time, so that memory stays the same for any number.

    Args:
        plan: the plan.
        ledger: what is known already.
        options: what is to be rendered, and how.
        listener: who hears how it goes.

    Raises:
        PlanError: the plan's pages cannot be found, it would write where it may not, or the options name nothing of it.
        OutputError: the folder of renditions cannot be read or written.
        ClusterError: the cluster cannot be reached, or went away.
    """
    asked = read_asked(plan)
    result = RenderedPlan(asked)
    with contextlib.ExitStack() as stack:
        names = stack.enter_context(NameSet())
        with contextlib.ExitStack() as running:
            cluster = ClusterWhenNeeded(options.on, listener, running)
            if plan.makes_files:
                running.enter_context(alone(asked.output, listener))
            for wanted in portions(chosen(asked, options), plan.slots, plan.masters, cluster.portion):
                site, rendered = _render(compose_site(asked, wanted, ledger), ledger, options, listener, cluster)
                result.add(site, rendered)
                if options.prune:
                    names.add(site.edition.files())
                del site  # before the next one is worked out
        if options.prune:
            result.rendered.pruned = pruned(asked, ledger, names, list(result.faults), options, listener)
    return result


def render_site(site: Site, ledger: Ledger, options: RenderOptions, listener: Listener) -> tuple[Site, Rendered]:
    """Renders what is missing while no other run does, and settles which formats pay.

    Of a plan whose files are not made beforehand only placeholders are made.

    Returns:
        The site now that files were made, and what was made.

    Raises:
        PlanError: the options name no slot or master of the plan.
        OutputError: the folder of renditions cannot be read or written.
        ClusterError: the cluster cannot be reached, or went away.
    """
    with contextlib.ExitStack() as stack:
        cluster = ClusterWhenNeeded(options.on, listener, stack)
        if site.plan.makes_files:
            stack.enter_context(alone(site.output, listener))
        return _render(site, ledger, options, listener, cluster)


def _render(
    site: Site, ledger: Ledger, options: RenderOptions, listener: Listener, cluster: ClusterWhenNeeded
) -> tuple[Site, Rendered]:
    """As render_site, of a site or a part of it, by a run that is alone in the folder of renditions."""
    output = site.output
    if not site.plan.makes_files:
        return with_placeholders(site, ledger, listener), Rendered()
    send_left_behind(output, ledger, listener)
    todo = to_do(site, ledger, options)
    listener.trouble(_told_of_altered(todo, output))
    there = cluster() if todo.works else None
    rendered = run_press(todo, output, ledger, options.workers, listener, there, Publishing(site, ledger))
    site = settled(site, ledger)
    gone = output.sizes(site.dropped()).keys() | OutputFolder(output.folder).sizes(site.dropped()).keys()
    output.discard(gone - names_named(site) if gone else ())
    return site, rendered


def to_do(site: Site, ledger: Ledger, options: RenderOptions) -> Todo:
    """Works out the files that the options ask for.

    Raises:
        PlanError: they name no slot or master of the plan.
    """
    pairs = set(_chosen(site.edition.pictures, options.only))
    edition = Edition({pair: one for pair, one in site.edition.pictures.items() if pair in pairs})
    master = site.masters.file
    return work_to_do(edition, master, site.output, ledger, force=options.force, verify=options.verify)


def chosen(asked: Asked, options: RenderOptions) -> list[tuple[str, str]]:
    """The pictures that the options ask for: slot name and master key.

    Raises:
        PlanError: they name no slot or master of the plan.
    """
    return _chosen(asked.wanted, options.only)


def _chosen(pairs: Iterable[tuple[str, str]], only: Sequence[str]) -> list[tuple[str, str]]:
    found = [pair for pair in pairs if not only or any(map(_matcher(pair), only))]
    if only and not found:
        raise PlanError(f"--only {only[0]}: no slot and no master of the plan's pages is called so")
    return found


def to_do_in_portions(asked: Asked, ledger: Ledger, options: RenderOptions) -> Iterator[tuple[Site, Todo]]:
    """What is to do of all that is asked for, a portion of its masters at a time; each with the part of the site.

    Raises:
        PlanError: the options name no slot or master of the plan.
        OutputError: the folder of renditions cannot be read.
    """
    plan = asked.plan
    for wanted in portions(chosen(asked, options), plan.slots, plan.masters, lambda: PORTION):
        site = compose_site(asked, wanted, ledger)
        yield site, to_do(site, ledger, options) if plan.makes_files else Todo([], {}, 0)


def _matcher(pair: tuple[str, str]) -> Callable[[str], bool]:
    """Tells of a pattern whether it means this slot or this master."""
    return lambda pattern: any(matches(pattern, name) for name in (*pair, pair[1].rsplit("/", 1)[-1]))


def _told_of_altered(todo: Todo, output: OutputFolder) -> Iterator[str]:
    if count := len(todo.altered):
        some = ", ".join(todo.altered[:3]) + (", …" if count > 3 else "")
        are = (
            "1 file is not what was written there, and is"
            if count == 1
            else f"{count} files are not what was written there, and are"
        )
        yield f"{output}: {are} made again: {some}"


def pruned(
    asked: PlanAndPages,
    ledger: Ledger,
    wanted: Container[str],
    faults: Sequence[str],
    options: RenderOptions,
    listener: Listener,
) -> list[str]:
    """Removes renditions that neither the plan makes nor a page names any more; returns their names.

    Args:
        asked: the plan and its pages.
        ledger: what was made before.
        wanted: names of all files that the plan makes.
        faults: what stands in the way of parts of it: then nothing is removed.
        options: how the run was asked for.
        listener: who hears of it.

    Raises:
        OutputError: one cannot be removed.
    """
    output = asked.output
    unread = "some masters or pages could not be read" if faults else ""
    if why := unread or ("--only looks at a part of the plan" if options.only else ""):
        listener.notes([f"{output}: nothing pruned, since {why}"])
        return []
    with alone(output, listener):
        return prune(wanted, output, ledger, names_named(asked))


def names_named(site: PlanAndPages) -> set[str]:
    """Names of files that the site's pages name as they stand, authors' and woven ones, and its side files."""
    plan = site.plan
    files = {file for one in (*(page.file for page in site.pages), *site.others) for file in (one.source, one.target)}
    partials = plan.partials.folder.rglob("*") if plan.partials else ()
    single = (plan.output / STYLESHEET, plan.manifest, plan.partials.macro if plan.partials else None)
    return names_in_pages([*sorted(files), *filter(Path.is_file, partials), *filter(None, single)])


def with_placeholders(site: Site, ledger: Ledger, listener: Listener) -> Site:
    """Makes missing placeholders, of which rendering leaves commonly none; returns the site with them."""
    todo = placeholders_to_do(site.edition, site.masters.file, site.output, ledger)
    with listener.progress("placeholders", len(todo.works)) as advance:

        def done(made: Made) -> None:
            ledger.remember([], made.findings)
            advance(1, made.key)

        render(todo, site.output, 1, done)
    return settled(site, ledger)


@contextlib.contextmanager
def alone(output: OutputFolder, listener: Listener) -> Iterator[None]:
    """Keeps other runs from writing renditions while the block runs; what killed runs left half written is removed."""
    with alone_in(output.folder, lambda: listener.notes([f"{output}: another run is writing there; waiting for it"])):
        sweep(output.folder)
        yield


def run_press(
    todo: Todo,
    output: OutputFolder,
    ledger: Ledger,
    workers: int | None,
    listener: Listener,
    cluster: Cluster | None = None,
    published: Callable[[Made], Sequence[MadeFile]] = lambda made: made.files,
) -> Rendered:
    """Does the work, tells how it goes, and remembers what came of it.

    Args:
        todo: the work.
        output: the folder of renditions.
        ledger: what is to remember.
        workers: as asked for; None takes as many as suit.
        listener: who hears of it.
        cluster: who does it, if not this machine.
        published: tells which files of a master are sent to where they are published, if that is elsewhere.
    """
    workers = max(1, cluster.threads) if cluster else workers or workers_for(todo)
    remember_efforts(ledger, [effort for work in todo.works for effort in work.efforts])
    started = time.monotonic()
    left = {work.key: work.cost for work in todo.works}
    whole = sum(left.values())
    with output.sending() as send, listener.progress("rendering", todo.count, timed=False) as advance:

        def pace() -> str:
            return f"{(whole - sum(left.values())) / 1e6 / max(0.001, time.monotonic() - started):.1f} MP/s"

        def stands(count: int, seconds: float | None) -> None:
            advance(count, _in_work(list(left), workers, seconds))

        def done(made: Made) -> None:
            left.pop(made.key, None)
            watch.made(file.name for file in made.files)
            ledger.remember(made.files, made.findings)
            send(published(made))
            listener.step(f"{made.key}: {len(made.files)} files made, {pace()}")

        advance(0, _in_work(list(left), workers, None))
        with Watch(costs_of(todo.works), output.folder, workers, stands) as watch:
            rendered = render(todo, output, workers, done, cluster)
        if send.left:
            finish(send, listener)
    if todo.works and not cluster:
        seconds = time.monotonic() - started
        remember_pace(ledger, _effort(todo), seconds * workers / max(1, whole))
    return rendered


def _in_work(left: list[str], workers: int, seconds: float | None) -> str:
    """The time left, and the masters in work, which is in the order of the work."""
    time_left = "" if seconds is None else f"{duration(seconds)} left"
    named = ", ".join(left[: min(workers, _NAMED)])
    more = f" and {min(workers, len(left)) - _NAMED} more" if min(workers, len(left)) > _NAMED else ""
    return " · ".join(filter(None, [time_left, named + more]))


def workers_for(todo: Todo) -> int:
    """The number of workers for some work: one for each core, but a single one for little work."""
    return available_workers() if sum(work.cost for work in todo.works) > _LITTLE else 1


def estimate(todo: Todo, ledger: Ledger, workers: int | None) -> tuple[float, bool]:
    """Seconds that the work may take, and whether that goes by an earlier run; else it goes by the pixels alone."""
    effort = _effort(todo)
    known = known_pace(ledger, effort)
    pixels = sum(work.cost for work in todo.works)
    seconds = pixels * (_PACE[effort] if known is None else known) / (workers or workers_for(todo))
    return round(seconds, 1), known is not None


def _effort(todo: Todo) -> Effort:
    """The effort of most of the work."""
    pixels = sum((work.efforts for work in todo.works), Counter[Effort]())
    return max(pixels, key=lambda effort: pixels[effort], default="normal")
