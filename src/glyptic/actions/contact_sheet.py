"""The contact sheet: chosen proofs side by side on one page."""

from __future__ import annotations

from collections.abc import Sequence

from glyptic.actions.proofs import plain_list
from glyptic.actions.workshop import Workshop
from glyptic.base.errors import DocumentError, Fault, NotFound
from glyptic.engine.render import render
from glyptic.engine.shown import shown_in
from glyptic.formats.jpeg import encode_small
from glyptic.formats.printed import Shown, contact_pdf, contact_png
from glyptic.pixels.spaces import SRGB

SIDE, QUALITY = 1600, 90
MOST = 60
MAKERS = {"png": (contact_png, "image/png"), "pdf": (contact_pdf, "application/pdf")}
"""How a sheet is written, and what it is sent as."""


def contact_sheet(workshop: Workshop, plate_id: int, chosen: Sequence[int], kind: str) -> tuple[bytes, str]:
    """(the file, its media type) of a sheet of proofs, in the order they were pulled. Raises DocumentError, or NotFound
    for a proof that is not there."""
    if kind not in MAKERS:
        raise DocumentError([Fault("format", f"must be one of {', '.join(MAKERS)}")])
    known = {one.id: one for one in plain_list(workshop, plate_id)}
    if not chosen or len(chosen) > MOST:
        raise DocumentError([Fault("proofs", f"must be chosen for the sheet, one to {MOST} of them")])
    if any(number not in known for number in chosen):
        raise NotFound("One of these proofs is not this plate's; open the list of proofs again.")
    current = workshop.current(plate_id)
    pictures = []
    for number in sorted(set(chosen)):
        proof = known[number]
        workshop.stops.check()
        workshop.check(proof.root)
        plan = workshop.plan(workshop.stack(proof.root))
        level, node = plan.outer.level_within(SIDE), shown_in(plan.finished, SRGB)
        jpeg = encode_small(render(plan, workshop.tiles, level, node=node).colour, QUALITY)
        when = proof.at.strftime("%d %B %Y, %H:%M")
        pictures.append(Shown(jpeg, proof.name, tuple(line for line in (proof.note, when) if line)))
    make, media_type = MAKERS[kind]
    count = f"{len(pictures)} proof{'' if len(pictures) == 1 else 's'}"
    return make(current.name, count, pictures), media_type
