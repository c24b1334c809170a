"""The page on which a person decides what each master is about; it needs no server, and no other file.

It shows one master at a time, and its crops as they would be. `subjects.js` places crops by the rule of core/crop/place.py.
"""

from __future__ import annotations

import base64
import hashlib
import io
import json
from collections.abc import Iterator, Sequence
from importlib.resources import files

import numpy as np
from PIL import Image

from sarvel.core.crop.place import Box
from sarvel.core.edition.compose import Crop
from sarvel.core.model import ONLY_CROP, Slot
from sarvel.core.pixels.resample import Pixels, pixels_from_light, reduce_pixels
from sarvel.encode.decode import read_pixels
from sarvel.errors import MasterError
from sarvel.pipeline.subjects import SubjectTask, each_looked_at
from sarvel.plan.read import Plan
from sarvel.plan.subjects_file import ImportedRow
from sarvel.tools.subjects.gather import Proof

_LONGER = 960  # px of the longer side of a picture in the page
_QUALITY = 55  # of WebP: enough to decide what a picture is about


def is_to_decide(proof: Proof) -> bool:
    """Tells whether a crop of a master leaves something out, while neither plan nor metadata name its subject."""
    return proof.crops_some and proof.named_by not in ("plan", "file")


def picture_of(pixels: Pixels, longer: int = _LONGER) -> Pixels:
    """A picture whose longer side has so many px at most."""
    height, width = pixels.shape[:2]
    scale = min(1.0, longer / max(width, height))
    size = max(1, round(width * scale)), max(1, round(height * scale))
    return pixels_from_light(reduce_pixels(pixels, Box(0, 0, width, height), *size))


def pictures_of(masters: Sequence[SubjectTask], workers: int) -> Iterator[tuple[SubjectTask, str | MasterError]]:
    """Pictures of masters, as addresses that hold them; or why one cannot be shown.

    Args:
        workers: processes at most, >= 1.
    """
    return each_looked_at(_pictured, masters, workers)


def _pictured(task: SubjectTask) -> tuple[SubjectTask, str | MasterError]:
    try:
        return task, _address_of(picture_of(read_pixels(task.file, task.key, task.digest)))
    except MasterError as error:
        return task, error


def master_as_json(proof: Proof, picture: str, plan: Plan) -> dict[str, object]:
    """A master as the page's script has it.

    Args:
        picture: its address.
    """
    key = proof.master.key
    rows = plan.subjects.rows.get(key, ()) if plan.subjects else ()
    return {
        "key": key,
        "width": proof.master.width,
        "height": proof.master.height,
        "picture": picture,
        "unsure": proof.unsure,
        "sure": None if proof.found is None else round(proof.found.sure, 2),
        "guesses": [box.edges for box in proof.choices or (proof.boxes[:3] if proof.unsure else ())],
        "named": [box.edges for box in proof.boxes] if rows or not proof.unsure else [],
        "rows": [_row_as_json(key, row) for row in rows],
        "listed": key in plan.masters,
        "crops": _crops(proof),
    }


def as_page(masters: Sequence[dict[str, object]], elsewhere: int, plan: Plan) -> bytes:
    """The page.

    Args:
        masters: those to decide on, the unsure ones first.
        elsewhere: how many others there are.
    """
    from jinja2 import Environment

    shown = {str(one["key"]) for one in masters}
    rows = plan.subjects.rows if plan.subjects else {}
    kept = [_row_as_json(key, row) for key, some in rows.items() if key not in shown for row in some]
    data = json.dumps({"masters": masters, "kept": kept}).replace("<", "\\u003c")
    place = files("sarvel.tools.subjects")
    template = Environment(autoescape=True, trim_blocks=True, lstrip_blocks=True).from_string(
        place.joinpath("subjects.html").read_text(encoding="utf-8")
    )
    return template.render(
        data=data,
        digest=hashlib.blake2b(data.encode(), digest_size=8).hexdigest(),
        count=len(masters),
        elsewhere=elsewhere,
        file=plan.subjects.file.name if plan.subjects else "subjects.csv",
        is_named=plan.subjects is not None,
        script=place.joinpath("subjects.js").read_text(encoding="utf-8"),
    ).encode()


def _crops(proof: Proof) -> list[dict[str, object]]:
    """The crops of a master, each once: those of several slots that look the same have one entry with all their names."""
    found: dict[str, tuple[list[str], dict[str, object]]] = {}
    for slot, crop in proof.rows:
        said = _crop_as_json(crop)
        found.setdefault(json.dumps(said), ([], said))[0].append(_name(slot, crop))
    return [{"name": ", ".join(names), **said} for names, said in found.values()]


def _name(slot: Slot, crop: Crop) -> str:
    return f"{slot.name} · {crop.rule.name}" if crop.rule.name and crop.rule.name != ONLY_CROP else slot.name


def _crop_as_json(crop: Crop) -> dict[str, object]:
    rule, treatment = crop.rule, crop.rule.treatment
    fixed = crop.by_hand or treatment.pad
    return {
        "ratio": round(crop.box.width / crop.box.height, 6),
        "zoom": rule.zoom,
        "lean": list(rule.subject_at),
        "turn": treatment.rotate,
        "mirror": treatment.mirror,
        "back": treatment.pad or treatment.matte,
        "grey": treatment.grey,
        "fixed": [round(edge, 2) for edge in crop.box.edges] if fixed else None,
    }


def _row_as_json(key: str, row: ImportedRow) -> dict[str, object]:
    """A row as it is in the file of subjects."""
    left, top, right, bottom = row.box.edges
    is_point = left == right and top == bottom
    place = {"x": left, "y": top} if is_point else {"left": left, "top": top, "right": right, "bottom": bottom}
    return {"file": key, **place, **({} if row.sure is None else {"sure": row.sure})}


def _address_of(pixels: Pixels) -> str:
    """A picture as an address that holds it."""
    file = io.BytesIO()
    Image.fromarray(np.ascontiguousarray(pixels)).save(file, "webp", quality=_QUALITY, method=4)
    return f"data:image/webp;base64,{base64.b64encode(file.getvalue()).decode()}"
