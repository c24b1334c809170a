"""The template tag for pictures that only the database knows: {% sarvel "card" entry.file alt=entry.words %}."""

import functools

from django.conf import settings
from django.template import Library

import sarvel

register = Library()


@functools.cache
def _plan() -> sarvel.LoadedPlan:
    return sarvel.load(settings.BASE_DIR / "sarvel.toml")


@register.simple_tag(name="sarvel")
def picture(slot: str, master: str, **attributes: str) -> str:
    """The markup of a picture; `sarvel render` made its files."""
    return _plan().picture(slot, master, **attributes)
