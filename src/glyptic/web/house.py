"""The settings page: the pen, what the data folder keeps and holds."""

from __future__ import annotations

from flask import Blueprint, render_template, request

from glyptic.actions.housekeeping import empty_bin_now, free_again, holdings
from glyptic.params import Param, Text
from glyptic.store.settings import SETTINGS
from glyptic.web.context import workshop
from glyptic.web.filters import bytes_words

blueprint = Blueprint("house", __name__, url_prefix="/settings")


def _page(template: str, said: str = "") -> str:
    shop = workshop()
    return render_template(
        template, declared=SETTINGS.params, values=shop.store.settings.read(), holdings=holdings(shop),
        folder=shop.store.folder, backups=shop.store.backups.all(), said=said,
    )  # fmt: skip


def _typed(param: Param, sent: str) -> float | str:
    """A text, or a number as it was typed, or what was typed instead; the declaration says what is wrong with that."""
    if isinstance(param, Text):
        return sent.strip()
    try:
        return float(sent)
    except ValueError:
        return sent


@blueprint.get("")
def settings() -> str:
    return _page("settings/page.html")


@blueprint.post("")
def change() -> str:
    """Keep the settings of the data folder; every field is checked by its declaration."""
    plain: dict[str, object] = {}
    for name, param in SETTINGS.params.items():
        plain[name] = _typed(param, request.form.get(name, ""))
    workshop().store.settings.write(plain)
    return _page("settings/house.html", "Kept.")


@blueprint.post("/free")
def free() -> str:
    """Let go of what can be made again."""
    return _page("settings/house.html", f"{bytes_words(free_again(workshop()))} freed. Nothing of any plate is lost.")


@blueprint.post("/bin")
def empty() -> str:
    """Empty the bin now."""
    plates, swept = empty_bin_now(workshop())
    gone = f"{plates} {'plate' if plates == 1 else 'plates'}, {swept.assets} picture files"
    return _page("settings/house.html", f"The bin is empty: {gone} are gone for good.")


@blueprint.post("/backup")
def backup() -> str:
    """Make a copy of the database now."""
    made = workshop().store.backups.make("asked")
    return _page("settings/house.html", f"Copied: {made.path.name}.")
