"""Fits the numbers of the subject finder: the weights of its cues, and how sure its guesses are.

    python bench/fit_subjects.py FOLDER

The photographs are those of labelled_photographs.py that are not kept aside. The weights are those of a logistic regression of
"within the label" on the cues, in which every photograph counts the same, and in each the label as much as the rest. How sure a
guess is, is fitted to guesses of photographs that took no part in fitting the weights by which they were made.
"""

from __future__ import annotations

import argparse
from pathlib import Path

import numpy as np
from labelled_photographs import labelled
from numpy.typing import NDArray
from subjects import RIGHT, opened, shares

from sarvel.core.crop.place import Box
from sarvel.core.pixels.standing_out import WEIGHTS, Cues, cues_of
from sarvel.core.pixels.subject import guesses, set_apart, within

FOLDS = 6
SMALL = 10.0  # how much small weights are preferred, in photographs: any number from 1 to 100 gives the same guesses

Numbers = NDArray[np.float64]


def main() -> None:
    """Fetches, fits and prints."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("folder", type=Path)
    photographs = labelled(parser.parse_args().folder, aside=False)
    sizes: list[tuple[int, int]] = []
    found: list[Cues] = []
    labels: list[Box] = []
    for file, label in photographs:
        pixels, size = opened(file)
        if cues := cues_of(pixels):
            sizes.append(size)
            found.append(cues)
            labels.append(label)
    weights, bias = fitted(found, labels)
    print({name: round(weight, 2) for name, weight in weights.items()}, f"bias {bias:.2f}")
    apart, right = [], []
    for fold in range(FOLDS):
        others = [i for i in range(len(found)) if i % FOLDS != fold]
        weights, bias = fitted([found[i] for i in others], [labels[i] for i in others])
        for i in range(fold, len(found), FOLDS):
            likely = found[i].likely(weights, bias)
            guess = guesses(found[i], likely).boxes[0]
            apart.append(set_apart(likely, guess))
            right.append(np.mean([got >= RIGHT * best for got, best in shares(sizes[i], labels[i], (guess,))]))
    slope, at = logistic(np.array(apart)[:, None], np.array(right), np.ones(len(apart)), 1e-3)
    print(f"sure: slope {slope:.1f}, middle {-at / slope:.2f}; {np.mean(right):.1%} of crops are right")


def fitted(found: list[Cues], labels: list[Box]) -> tuple[dict[str, float], float]:
    """The weight of each cue, and the bias."""
    cues = [np.stack([one.fields[name] for name in WEIGHTS], axis=-1).reshape(-1, len(WEIGHTS)) for one in found]
    inside = [within(label, one.visible.shape).ravel() for one, label in zip(found, labels, strict=True)]
    counts = [np.where(one, 0.5 / max(1, one.sum()), 0.5 / max(1, (~one).sum())) for one in inside]
    every = np.concatenate(cues)
    spread, middle = every.std(axis=0), every.mean(axis=0)
    coefficients = logistic(
        (every - middle) / spread, np.concatenate(inside), 1000 * np.concatenate(counts), SMALL * len(found)
    )
    weights = coefficients[:-1] / spread
    return dict(zip(WEIGHTS, map(float, weights), strict=True)), float(coefficients[-1] - weights @ middle)


def logistic(given: Numbers, wanted: Numbers, counts: Numbers, small: float) -> Numbers:
    """The coefficients, and last the constant, of a logistic regression: by Newton's method."""
    given = np.c_[given, np.ones(len(given))]
    rein = small * np.r_[np.ones(given.shape[1] - 1), 0.0]
    coefficients = np.zeros(given.shape[1])
    for _ in range(25):
        likely = 1 / (1 + np.exp(-given @ coefficients))
        bend = (given * (counts * likely * (1 - likely))[:, None]).T @ given + np.diag(rein)
        coefficients -= np.linalg.solve(bend, given.T @ (counts * (likely - wanted)) + rein * coefficients)
    return coefficients


if __name__ == "__main__":
    main()
