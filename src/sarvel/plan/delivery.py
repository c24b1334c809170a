"""How the files of a plan reach browsers: made beforehand, when they are asked for, or by a service elsewhere."""

from __future__ import annotations

import urllib.parse
from collections.abc import Iterator, Mapping
from typing import Literal, TypeAlias

from sarvel.core.address.pattern import PatternError, check_pattern, is_pattern, names_no_format
from sarvel.core.html.template_code import holds_code
from sarvel.core.model import Slot
from sarvel.plan import schema
from sarvel.plan.messages import Problem

Delivery: TypeAlias = Literal["files", "request", "elsewhere"]
"""How files reach browsers: made beforehand, made when first asked for, or made by a service elsewhere."""


def address_of(said: str | None) -> str | None:
    """A URL prefix or pattern as srcset can hold it: white space ends a URL there, and so does a comma at its end."""
    if said is None or holds_code(said):  # code of a template engine is written as it stands
        return said and said.rstrip("/")
    also = "{}," if is_pattern(said) else ""  # a service may want its commas as they are
    return urllib.parse.quote(said if also else said.rstrip("/"), safe=f"/:?#[]@!$&'()*+;=%~{also}")


def delivery_of(site: schema.SiteTable) -> Delivery:
    """How the files of a plan reach browsers: a pattern as address describes a service elsewhere."""
    return "elsewhere" if site.address and is_pattern(site.address) else site.delivery


def is_by_accept(site: schema.SiteTable) -> bool:
    """Whether one address serves all formats of a file."""
    return names_no_format(site.address or "") if delivery_of(site) == "elsewhere" else site.formats_by == "accept"


# Treatments of pixels beyond cropping; a pattern has no field for them.
_BEYOND_CROPS = ("rotate", "mirror", "pad", "matte", "grey")


def delivery_problems(parsed: schema.PlanFile, slots: Mapping[str, Slot]) -> Iterator[Problem]:
    """What does not go together of how files are delivered."""
    site, delivery = parsed.site, delivery_of(parsed.site)
    if delivery == "files" and site.formats_by == "accept":
        how = 'add delivery = "request", or remove it'
        yield Problem(("site", "formats_by"), '"accept" needs a server that chooses, and files are in a folder', how)
    if delivery != "elsewhere":
        return
    try:
        check_pattern(site.address or "")
    except PatternError as error:
        yield Problem(("site", "address"), str(error))
    if site.delivery == "request":
        how = "take one of them out"
        yield Problem(("site", "delivery"), '"request" makes files here, and the pattern in address elsewhere', how)
    if site.formats_by == "accept" and not names_no_format(site.address or ""):
        how = "take {format} and {ext} out of the address, or formats_by"
        yield Problem(("site", "formats_by"), '"accept" gives all formats one address, and the pattern names one', how)
    for name, slot in slots.items():
        asked = [one for one in _BEYOND_CROPS if any(getattr(rule.treatment, one) for rule in slot.crops)]
        for key in asked[:1]:
            how = "take it out, or let Sarvel make the files"
            yield Problem(("slots", name), f"{key} cannot be asked of a service elsewhere, which crops and scales", how)
