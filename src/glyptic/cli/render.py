"""`glyptic render`: a stack file to a picture file."""

from __future__ import annotations

import argparse
import sys
from dataclasses import replace
from pathlib import Path
from typing import Any

from glyptic.base.errors import DocumentError, Fault
from glyptic.base.rectangles import Rect
from glyptic.cli.delivering import declare_delivery, delivery_of, kind_of
from glyptic.cli.options import whole
from glyptic.document.delivery import OWN
from glyptic.engine.heap import share_one_heap

DEEPEST_LEVEL = 20


def declare(commands: Any) -> None:
    parser = commands.add_parser("render", help="render a stack file to a picture file, by its ending")
    parser.add_argument("stack", type=Path, metavar="STACK.json")
    parser.add_argument("out", type=Path, metavar="OUT.png|.tif|.jpg|.webp|.avif|.jxl")
    parser.add_argument("--region", metavar="X,Y,W,H", help="full-size pixels of what comes out; clipped to it")
    parser.add_argument("--level", default="0", metavar="N", help="render at 1/2^N of the size")
    parser.add_argument("--exact", action="store_true", help="with --level: of what is made at full size, the mean")
    parser.add_argument(
        "--ground", default="ffffff", metavar="RRGGBB", help="what a picture with alpha is laid over in a JPEG"
    )
    parser.add_argument("--until", metavar="LAYER_ID", help="stop after this layer")
    parser.add_argument("--proof", metavar="NAME", help="a proof of that name, from the list that was saved beside it")
    parser.add_argument("--no-frame", action="store_true", help="the picture without its frame and the layers over it")
    parser.add_argument("--limit", default="100", metavar="MP", help="megapixels a picture may have")
    declare_delivery(parser, formats=False)
    parser.set_defaults(run=run)


def _region(text: str | None, faults: list[Fault]) -> Rect | None:
    if text is None:
        return None
    try:
        x, y, w, h = (int(part) for part in text.split(","))
    except ValueError:
        faults.append(Fault("region", f"must be X,Y,W,H in whole pixels, not {text!r}"))
        return None
    if w <= 0 or h <= 0:
        faults.append(Fault("region", "holds no pixel of the picture"))
        return None
    return Rect(x, y, w, h)


def run(options: argparse.Namespace) -> None:
    """Check every option, render, write."""
    from glyptic.actions.delivery import write_delivery
    from glyptic.actions.finished import Finished
    from glyptic.actions.render_file import came_in, open_stack_file, proof_beside, rendering
    from glyptic.formats.writing import SUFFIXES, ground_of

    share_one_heap()
    faults: list[Fault] = []
    level = whole(options.level, "level", 0, DEEPEST_LEVEL, faults)
    limit = whole(options.limit, "limit", 1, 100_000, faults)
    region = _region(options.region, faults)
    if not kind_of(options.out):
        faults.append(Fault("output", f"The ending must be one of {SUFFIXES}, not {options.out.suffix or 'nothing'}."))
    if not options.out.resolve().parent.is_dir():
        faults.append(Fault("output", f"the folder {options.out.parent} does not exist"))
    ground = _ground(options.ground, ground_of, faults)
    try:
        stack = options.stack if options.proof is None else proof_beside(options.stack, options.proof)
        opened = open_stack_file(stack, limit * 1_000_000)
    except DocumentError as error:
        delivery_of(options, kind_of(options.out), faults)
        raise DocumentError([*error.faults, *faults]) from error
    came = came_in(opened)
    delivery = delivery_of(options, kind_of(options.out), faults, came.path)
    if faults or delivery is None:
        raise DocumentError(faults)
    for note in opened.base.metadata.notes:
        print(f"note: {note}", file=sys.stderr)
    wanted = rendering(opened, level, region, 8, options.until, not options.no_frame)
    finished = Finished(wanted.plan, delivery.values["border"], level, region, options.exact)
    metadata, words = opened.base.metadata, opened.stack.notes.words
    source = came if delivery.values["profile"] == OWN else None
    write_delivery(options.out, finished, replace(delivery, ground=ground), metadata, words, source=source)


def _ground(text: str, read: Any, faults: list[Fault]) -> tuple[float, float, float]:
    from glyptic.base.errors import ExportError
    from glyptic.formats.writing import WHITE

    try:
        found: tuple[float, float, float] = read(text)
    except ExportError as error:
        faults.append(Fault("output", str(error)))
        return WHITE
    return found
