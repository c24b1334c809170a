"""Rendering a site: what is missing made, alone in its folder, and all that is found out kept in the ledger."""

from __future__ import annotations

import contextlib
import time
from collections import Counter
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

from sarvel.core.amounts import duration
from sarvel.core.edition.compose import Edition
from sarvel.core.markup.backgrounds import STYLESHEET
from sarvel.core.model import Effort
from sarvel.core.patterns import matches
from sarvel.errors import ClusterError, PlanError
from sarvel.job.listener import Listener
from sarvel.job.pace import Watch, costs_of
from sarvel.job.site import Site, settled
from sarvel.pages.references import names_in_pages
from sarvel.press.atomic import sweep
from sarvel.press.cores import available_workers
from sarvel.press.executor import Rendered, render
from sarvel.press.folder_lock import alone_in
from sarvel.press.ledger import Ledger
from sarvel.press.ledger_entries import known_pace, remember_efforts, remember_pace
from sarvel.press.output_folder import prune, remove, standing
from sarvel.press.todo import Todo, placeholders_to_do, work_to_do
from sarvel.press.work import Made

if TYPE_CHECKING:  # few runs have one
    from sarvel.press.cluster.coordinator import Cluster

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
    output = site.plan.output
    if not site.plan.makes_files:
        return with_placeholders(site, ledger, listener), Rendered()
    with alone(output, listener):
        ledger.look_again()
        todo = to_do(site, ledger, options)
        listener.trouble(_told_of_altered(todo, output))
        with _cluster(options.on if todo.works else None, listener) as cluster:
            rendered = run_press(todo, output, ledger, options.workers, listener, cluster)
        site = settled(site, ledger)
        gone = standing(output).keys() & {one.name for left in site.left_out for one in left.renditions}
        remove(gone - names_named(site) if gone else (), output)
    return site, rendered


def to_do(site: Site, ledger: Ledger, options: RenderOptions) -> Todo:
    """Works out the files that the options ask for.

    Raises:
        PlanError: they name no slot or master of the plan.
    """
    edition = site.edition
    if options.only:
        chosen = {pair: one for pair, one in edition.pictures.items() if any(map(_matcher(pair), options.only))}
        if not chosen:
            raise PlanError(f"--only {options.only[0]}: no slot and no master of the plan's pages is called so")
        edition = Edition(chosen)
    plan = site.plan
    return work_to_do(edition, plan.masters_folder, plan.output, ledger, force=options.force, verify=options.verify)


def _matcher(pair: tuple[str, str]) -> Callable[[str], bool]:
    """Tells of a pattern whether it means this slot or this master."""
    return lambda pattern: any(matches(pattern, name) for name in (*pair, pair[1].rsplit("/", 1)[-1]))


def _told_of_altered(todo: Todo, output: Path) -> Iterator[str]:
    if count := len(todo.altered):
        some = ", ".join(todo.altered[:3]) + (", …" if count > 3 else "")
        are = (
            "1 file is not what was written there, and is"
            if count == 1
            else f"{count} files are not what was written there, and are"
        )
        yield f"{output}: {are} made again: {some}"


def pruned(site: Site, ledger: Ledger, rendered: Rendered, options: RenderOptions, listener: Listener) -> list[str]:
    """Removes renditions that neither the plan makes nor a page names any more; returns their names.

    Raises:
        OutputError: one cannot be removed.
    """
    output = site.plan.output
    unread = "some masters or pages could not be read" if site.faults or rendered.faults else ""
    if why := unread or ("--only looks at a part of the plan" if options.only else ""):
        listener.notes([f"{output}: nothing pruned, since {why}"])
        return []
    with alone(output, listener):
        return prune(site.edition, output, ledger, names_named(site))


def names_named(site: Site) -> set[str]:
    """Names of files that the site's pages name as they stand, authors' and woven ones, and its side files."""
    plan = site.plan
    files = {file for one in (*(page.file for page in site.pages), *site.others) for file in (one.source, one.target)}
    partials = plan.partials.folder.rglob("*") if plan.partials else ()
    single = (plan.output / STYLESHEET, plan.manifest, plan.partials.macro if plan.partials else None)
    return names_in_pages([*sorted(files), *filter(Path.is_file, partials), *filter(None, single)])


def with_placeholders(site: Site, ledger: Ledger, listener: Listener) -> Site:
    """Makes missing placeholders, of which rendering leaves commonly none; returns the site with them."""
    todo = placeholders_to_do(site.edition, site.plan.masters_folder, site.plan.output, ledger)
    with listener.progress("placeholders", len(todo.works)) as advance:

        def done(made: Made) -> None:
            ledger.remember([], made.findings)
            advance(1, made.key)

        render(todo, site.plan.output, 1, done)
    return settled(site, ledger)


@contextlib.contextmanager
def alone(output: Path, listener: Listener) -> Iterator[None]:
    """Keeps other runs from writing renditions while the block runs; what killed runs left half written is removed."""
    with alone_in(output, lambda: listener.notes([f"{output}: another run is writing there; waiting for it"])):
        sweep(output)
        yield


@contextlib.contextmanager
def _cluster(address: str | None, listener: Listener) -> Iterator[Cluster | None]:
    """The workers of a dask scheduler, if an address is given.

    Raises:
        ClusterError: it cannot be reached, or dask is not installed.
    """
    if address is None:
        yield None
        return
    try:
        from sarvel.press.cluster.coordinator import Cluster  # slow to load
    except ImportError as error:
        raise ClusterError("--on needs an extra; install it with pip install 'sarvel[cluster]'") from error
    with Cluster(address, lambda line: listener.notes([line])) as cluster:
        yield cluster


def run_press(
    todo: Todo,
    output: Path,
    ledger: Ledger,
    workers: int | None,
    listener: Listener,
    cluster: Cluster | None = None,
) -> Rendered:
    """Does the work, tells how it goes, and remembers what came of it.

    Args:
        todo: the work.
        output: the folder of renditions.
        ledger: what is to remember.
        workers: as asked for; None takes as many as suit.
        listener: who hears of it.
        cluster: who does it, if not this machine.
    """
    workers = max(1, cluster.threads) if cluster else workers or workers_for(todo)
    remember_efforts(ledger, [effort for work in todo.works for effort in work.efforts])
    started = time.monotonic()
    left = {work.key: work.cost for work in todo.works}
    whole = sum(left.values())
    with listener.progress("rendering", todo.count, timed=False) as advance:

        def pace() -> str:
            return f"{(whole - sum(left.values())) / 1e6 / max(0.001, time.monotonic() - started):.1f} MP/s"

        def stands(count: int, seconds: float | None) -> None:
            advance(count, _in_work(list(left), workers, seconds))

        def done(made: Made) -> None:
            left.pop(made.key, None)
            ledger.remember(made.files, made.findings)
            listener.step(f"{made.key}: {len(made.files)} files made, {pace()}")

        advance(0, _in_work(list(left), workers, None))
        with Watch(costs_of(todo.works), output, workers, stands):
            rendered = render(todo, output, workers, done, cluster)
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
