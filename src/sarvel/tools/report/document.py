"""The report as a JSON document, for programs and for the next report."""

from __future__ import annotations

import math
from collections.abc import Mapping

from sarvel.tools.report.facts import CropFacts, FileFacts, PageFacts, PictureFacts, Report
from sarvel.tools.report.networks import NETWORKS


def as_document(report: Report) -> dict[str, object]:
    """The facts of a report without pictures. Keys that `build` has too are as it has them."""
    return {
        "title": report.title,
        "pages_fetch": {
            "pages": sum(bool(page.now) for page in report.pages),
            "masters_bytes": report.masters_weight,
            "bytes": dict(report.fetched),
        },
        "pictures": [_picture(one) for one in report.pictures],
        "pages": [_page(one) for one in report.pages],
        "budgets": [vars(one) for one in report.budgets],
        "tasks": [one.as_json() for one in report.tasks],
        "findings": [one.as_json() for one in report.findings],
        "measured": list(report.measured),
        "confirmed": list(report.confirmed),
    }


def _picture(one: PictureFacts) -> Mapping[str, object]:
    return {
        "slot": one.slot,
        "master": one.master,
        "master_bytes": one.master_weight,
        "files": one.files,
        "bytes": one.weight,
        "fetched": {
            device: {
                "file": fetch.file,
                "bytes": fetch.weight,
                "saving": fetch.saving,
                "by_format": dict(fetch.by_format),
            }
            for device, fetch in one.fetched.items()
        },
        "pages": list(one.pages),
        "likeness": one.likeness,
        "crops": [_crop(crop) for crop in one.crops],
        "remarks": list(one.remarks),
        "differences": {name: off for window in one.windows for name, off in window.differences.items()},
    }


def _crop(crop: CropFacts) -> Mapping[str, object]:
    return {
        "crop": crop.name,
        "media": crop.media,
        "sizes": crop.sizes,
        "widths": list(crop.widths),
        "excess": round(crop.excess, 6),
        "one_for_all": round(crop.one_for_all, 6),
        "worst_soft": round(crop.soft, 6),
        "worst_soft_on": crop.softest,
        "worst_waste": round(crop.waste, 6),
        "worst_waste_on": crop.wasteful,
        "lost": round(crop.lost, 4),
        "guessed": crop.guessed,
        "viewports": [[start, None if math.isinf(end) else end] for start, end in crop.viewports],
        "files": [_file(one) for one in crop.files],
    }


def _file(one: FileFacts) -> Mapping[str, object]:
    return {
        "file": one.name,
        "format": one.format,
        "width": one.width,
        "height": one.height,
        "bytes": one.weight,
        "quality": one.quality,
        "likeness": one.likeness,
    }


def _page(page: PageFacts) -> Mapping[str, object]:
    return {
        "page": page.name,
        "images": page.images,
        "masters_bytes": dict(page.before),
        "bytes": dict(page.now),
        "seconds": {
            network.name: {device: round(network.seconds(count), 2) for device, count in page.now.items()}
            for network in NETWORKS
        },
        "devices": {device: [vars(one) for one in some] for device, some in page.shown.items()},
    }
