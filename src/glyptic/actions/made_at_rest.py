"""What was made at rest, handed on: to an export here, and to a process that writes a delivery."""

from __future__ import annotations

from contextlib import suppress
from pathlib import Path

import numpy as np

from glyptic.actions.workshop import Workshop
from glyptic.base.rectangles import TILE
from glyptic.document.values import Stack
from glyptic.engine.bands import Kept
from glyptic.engine.cache import TileCache
from glyptic.engine.exact import code_key
from glyptic.engine.nodes import Node
from glyptic.engine.plan import Plan
from glyptic.engine.reader import Reader
from glyptic.pixels.quantise import Samples


def from_cache(codes: TileCache) -> Kept:
    """Gives the codes of tiles that are kept in memory."""
    return lambda reader, node, tx, ty: codes.peek(code_key(reader.key(node, tx, ty)))


def written(workshop: Workshop, stack: Stack, path: Path) -> str:
    """Write the codes of every full-size pixel of the finished picture to a file, for whoever takes them from there;
    its path, or '' where not all of them are kept, or they cannot be written."""
    plan = workshop.plan(stack)
    reader, give = plan.reader(workshop.tiles, 0), from_cache(workshop.codes)
    tiles = [give(reader, plan.finished, *at) for at in reader.bounds.tiles()]
    here = [codes for codes in tiles if codes is not None]
    if len(here) < len(tiles):
        return ""
    across = -(-reader.bounds.w // TILE)
    head = {"descr": "<u2", "fortran_order": False, "shape": (reader.bounds.h, reader.bounds.w, 3)}
    try:
        with path.open("wb") as file:
            np.lib.format.write_array_header_1_0(file, head)
            for first in range(0, len(here), across):
                file.write(np.concatenate(here[first : first + across], axis=1).astype("<u2").tobytes())
    except OSError:
        with suppress(OSError):
            path.unlink(missing_ok=True)
        return ""
    return str(path)


def taken(name: str, plan: Plan) -> Kept | None:
    """Gives the codes of tiles out of a file that `written` made, which is removed; None where there is none, or it is
    of another picture."""
    try:
        whole = np.load(name, mmap_mode="r") if name else None
    except (OSError, ValueError):
        return None
    finally:
        if name:
            with suppress(OSError):
                Path(name).unlink(missing_ok=True)
    bounds = plan.outer.at(0)
    if whole is None or whole.shape != (bounds.h, bounds.w, 3) or whole.dtype != np.uint16:
        return None

    def give(reader: Reader, node: Node, tx: int, ty: int) -> Samples | None:
        at = reader.tile_rect(tx, ty)
        return np.array(whole[at.y : at.bottom, at.x : at.right]) if node is plan.finished else None

    return give
