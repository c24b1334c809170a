"""Draws the plots of docs/arithmetic.md from the demo's plan: python scripts/plots.py [FOLDER]."""

from __future__ import annotations

import sys
from pathlib import Path

import matplotlib as mpl

import sarvel
from sarvel.core.edition.demand import demands_of
from sarvel.core.layout.growth import growth_of
from sarvel.core.layout.ladder import Chooser, Terms, demand, even_spread, fitness
from sarvel.plan.read import read_plan

mpl.use("agg")
from matplotlib import pyplot
from matplotlib.axes import Axes
from matplotlib.figure import Figure

ROOT = Path(__file__).parents[1]
PLAN = ROOT / "src" / "sarvel" / "demo" / "site" / "sarvel.toml"
VIEWPORTS = range(320, 2001, 4)
COLORS = ("#1f5568", "#b8322c", "#7a8794")


def shown(folder: Path) -> None:
    """Shown width against viewport width, for each slot of the demo."""
    slots = read_plan(PLAN).slots
    figure, axes = pyplot.subplots(figsize=(8, 4))
    for name, slot in slots.items():
        axes.plot(
            VIEWPORTS, [slot.shown.on(sarvel.Device(width, 800, 1)) for width in VIEWPORTS], label=name, linewidth=2
        )
    for width, name in ((640, "tablet"), (1024, "desktop")):
        axes.axvline(width, color="#c9c2b4", linewidth=1, zorder=0)
        axes.text(width + 8, 1230, name, color="#7a8794")
    axes.set(xlabel="viewport, CSS px", ylabel="shown, CSS px", title="How wide the demo's slots show their images")
    _saved(figure, axes, folder / "shown.png")


def delivered(folder: Path) -> None:
    """Pixels needed and delivered on screens of density 2, by widths that were chosen and such as are evenly spread."""
    slot = read_plan(PLAN).slots["card"]
    chosen, spread = _widths(3)
    needed = [demand(slot.shown.on(sarvel.Device(width, 800, 2)), 2, slot.densities) for width in VIEWPORTS]
    figure, axes = pyplot.subplots(figsize=(8, 4))
    axes.plot(VIEWPORTS, needed, color=COLORS[0], linewidth=2, label="needed")
    for widths, color, label in (
        (chosen, COLORS[1], "fetched, of 3 chosen widths"),
        (spread, COLORS[2], "fetched, of 3 evenly spread"),
    ):
        got = [next((width for width in widths if width >= need), widths[-1]) for need in needed]
        axes.step(VIEWPORTS, got, color=color, linewidth=1.5, label=label)
    axes.set(
        xlabel="viewport, CSS px",
        ylabel="px across",
        title="A card on screens of density 2",
        ylim=(0, max(spread) * 1.1),
    )
    _saved(figure, axes, folder / "delivered.png")


def excess(folder: Path) -> None:
    """Bytes too many against the number of widths."""
    shares, growth = _met()
    counts = range(1, 11)
    best, even = [], []
    for count in counts:
        chosen, spread = _widths(count)
        best.append(100 * fitness(shares, chosen, growth).excess)
        even.append(100 * fitness(shares, spread, growth).excess)
    figure, axes = pyplot.subplots(figsize=(8, 4))
    axes.plot(counts, even, "o-", color=COLORS[2], label="evenly spread")
    axes.plot(counts, best, "o-", color=COLORS[1], label="chosen")
    axes.set(
        xlabel="widths",
        ylabel="bytes too many, %",
        yscale="log",
        title="What the widths of the demo's card cost its visitors",
    )
    axes.set_yticks([5, 10, 20, 50, 100, 200], ["5", "10", "20", "50", "100", "200"])
    _saved(figure, axes, folder / "excess.png")


def _met() -> tuple[dict[int, float], float]:
    """Shares of visits by the pixels that they need of the demo's card, and how its bytes grow."""
    plan = read_plan(PLAN)
    [met] = demands_of(plan.slots["card"], plan.audience)
    return met.shares, growth_of("avif", drawn=False)


def _widths(count: int) -> tuple[tuple[int, ...], tuple[int, ...]]:
    """So many widths, chosen and evenly spread, for the demo's card."""
    shares, growth = _met()
    most = max(shares)
    chosen = Chooser(shares, Terms(count, None, growth, 0.0)).widths(most, most)
    return chosen, even_spread(min(shares), most, count)


def _saved(figure: Figure, axes: Axes, file: Path) -> None:
    axes.spines[["top", "right"]].set_visible(False)
    axes.grid(axis="y", color="#eeeae2")
    axes.legend(frameon=False)
    figure.tight_layout()
    figure.savefig(file, dpi=110, metadata={"Software": None})


if __name__ == "__main__":
    where = Path(sys.argv[1]) if len(sys.argv) > 1 else ROOT / "docs" / "plots"
    where.mkdir(parents=True, exist_ok=True)
    for draw in (shown, delivered, excess):
        draw(where)
