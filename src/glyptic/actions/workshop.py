"""The workshop: the store, the caches and the locks that the use cases share."""

from __future__ import annotations

import logging
from collections import Counter
from collections.abc import Callable, Hashable
from dataclasses import dataclass, field
from threading import Lock, RLock
from typing import Any

from sqlalchemy.orm import Session

from glyptic.actions.budget import Budget
from glyptic.actions.looking import InHand, Order
from glyptic.actions.recent import Recent
from glyptic.actions.stops import Stops
from glyptic.actions.turns import Turns
from glyptic.base.errors import Damaged, DocumentError, GlypticError, NotFound
from glyptic.document.kits import Kit
from glyptic.document.values import Stack
from glyptic.engine.cache import TileCache
from glyptic.engine.gate import check_keys, check_reach, check_sources
from glyptic.engine.paintings import Chains
from glyptic.engine.plan import Plan, make_plan
from glyptic.engine.pool import Ahead
from glyptic.formats import DEFAULT_LIMIT
from glyptic.formats.wish import Wish
from glyptic.params import Values
from glyptic.pixels.counts import Counts
from glyptic.pixels.pyramid import Picture
from glyptic.store import Store
from glyptic.store.assets import levels_of
from glyptic.store.faults import explained
from glyptic.store.plates import lineage, plate_of, root_of
from glyptic.store.tables import Plate, Revision

GREY_SPACE = "srgb"
"""The space in which pictures are read whose colours do not count."""
TROUBLE = (
    "The newest state of this plate cannot be drawn. You see the last one that can; nothing was lost, and the log has "
    "every step. Go on from here, or put right what is wrong and open the plate again"
)


@dataclass(frozen=True)
class Current:
    """A plate's current state.

    head: the state that is the newest to the log. It is `revision`, unless that cannot be drawn: then `trouble` says
    why, and this is the last one before it that can.
    """

    plate_id: int
    name: str
    revision: int
    root: bytes
    stack: Stack
    chosen: str
    asset: str
    before: bytes | None
    after: bytes | None
    """The roots undo and redo lead to."""
    head: int
    trouble: str = ""
    sentence: str = ""
    """What the step that led here did."""


def _in_words(error: GlypticError | None) -> str:
    """What is wrong, without the names of fields, which say nothing at the bench."""
    if isinstance(error, DocumentError):
        return "; ".join(fault.message for fault in error.faults)
    return str(error or "")


HEAVY = 32 * 2**20
"""Bytes that the nodes of a plan may remember and still be used for the next: they remember every level looked at."""


@dataclass
class Workshop:
    """What one running application has: a store, caches, a lock for each plate.

    limit: pixels a picture may have. budget: what is kept in memory. orders: what the tile keys given out stand for.
    in_hand: strokes being drawn, by plate and the page's own number. sides: what states are compared with.
    """

    store: Store
    limit: int = DEFAULT_LIMIT
    budget: Budget = field(default_factory=Budget)
    tiles: TileCache = field(init=False)
    shown: TileCache = field(init=False)
    codes: TileCache = field(init=False)
    scratch: TileCache = field(init=False)
    stacks: Recent[bytes, Stack] = field(default_factory=lambda: Recent(64))
    pictures: Recent[str, Picture] = field(default_factory=lambda: Recent(16))
    plans: Recent[tuple[int, int], tuple[Stack, Plan]] = field(init=False)
    chains: Chains = field(init=False)
    orders: Recent[bytes, Order] = field(default_factory=lambda: Recent(20_000))
    counts: Recent[bytes, dict[str, Counts]] = field(default_factory=lambda: Recent(64))
    admitted: Recent[int, Stack] = field(default_factory=lambda: Recent(64))
    sound: Recent[bytes, bool] = field(default_factory=lambda: Recent(4096))
    in_hand: Recent[tuple[int, str], InHand] = field(init=False)
    sides: Recent[tuple[bytes, Hashable], Stack] = field(default_factory=lambda: Recent(32))
    backdrops: Recent[str, tuple[str, str]] = field(default_factory=lambda: Recent(256))
    """What was found to be the backdrop of a picture: a grey picture, and what is to be said of a poor find."""
    words: Recent[str, Values] = field(default_factory=lambda: Recent(64))
    """The words that picture files came with."""
    kits: Recent[bytes, Kit] = field(default_factory=lambda: Recent(64))
    """Kits by the digest of their content."""
    subjects: Recent[bytes, Any] = field(default_factory=lambda: Recent(1))
    """What checks look at, of the state that was checked last."""
    stops: Stops = field(default_factory=Stops)
    turns: Turns = field(default_factory=Turns)
    ahead: Ahead = field(default_factory=Ahead)
    """Tiles that are made before they are asked for."""
    tried: Recent[tuple[bytes, str, str], Any] = field(default_factory=lambda: Recent(4))
    """What edits came to that are shown before they are kept, by the state's root, their names and their arguments."""
    edits: Counter[int] = field(default_factory=Counter)
    """How often each plate was changed since the start: what looks at one stops when that goes on."""
    _locks: dict[int, RLock] = field(default_factory=dict)
    _guard: Lock = field(default_factory=Lock)

    def __post_init__(self) -> None:
        budget = self.budget
        self.tiles = TileCache(budget.tiles, self.store.tiles.get, tables=budget.tables)
        self.shown = TileCache(budget.shown)
        self.codes = TileCache(budget.codes)
        self.scratch = TileCache(budget.scratch, self.store.tiles.get)
        self.newest: Recent[Any, tuple[Stack, Plan]] = Recent(8)
        self.plans = Recent(32, budget.keys // 2, lambda kept: kept[1].weight)
        self.chains = Chains(budget.keys // 2)
        self.in_hand = Recent(8, budget.hand, lambda hand: hand.bytes)

    @property
    def held(self) -> dict[str, tuple[int, int]]:
        """(bytes held, bytes allowed) of each part that is kept."""
        half = self.budget.keys // 2
        return {
            "tiles": (self.tiles.bytes, self.budget.tiles),
            "tables": (self.tiles.table_bytes, self.budget.tables),
            "shown": (self.shown.bytes, self.budget.shown),
            "codes": (self.codes.bytes, self.budget.codes),
            "scratch": (self.scratch.bytes, self.budget.scratch),
            "plans": (self.plans.bytes, half),
            "paintings": (self.chains.bytes, half),
            "hand": (self.in_hand.bytes, self.budget.hand),
        }

    def lock(self, plate_id: int) -> RLock:
        """Edits of one plate happen one after the other."""
        with self._guard:
            return self._locks.setdefault(plate_id, RLock())

    def picture(self, asset: str, space: str = GREY_SPACE, reading: Values | None = None) -> Picture:
        """A picture in a working space. What is grey, or asked for its size only, may come in any."""
        wish = Wish.of(space, reading)
        return self.pictures.get_or(levels_of(asset, wish), lambda: self.store.assets.picture(asset, wish))

    def pictures_of(self, stack: Stack) -> Callable[..., Picture]:
        """Gives the pictures that a stack refers to, in its working space."""

        def given(source: str, reading: Values | None = None) -> Picture:
            return self.picture(source, stack.working_space, reading)

        return given

    def base_of(self, stack: Stack) -> Picture:
        """The base picture of a stack."""
        return self.pictures_of(stack)(*stack.base.picture)

    def stack(self, root: bytes) -> Stack:
        found = self.stacks.get(root)
        if found is None:
            with self.store.session() as session:
                found = self.stacks.put(root, self.store.objects.get(session, root))
        return found

    def plan(self, stack: Stack, working_on: str = "", finer: int = 0) -> Plan:
        """The plan of a stack (the same stack value gives the same plan); what is below the layer being worked
        on is kept in tiles. finer: see `make_plan`."""
        key = (id(stack), finer)
        found = self.plans.get(key)
        if found is None or found[0] is not stack:
            made = make_plan(stack, self.pictures_of(stack), self.chains, self._newest(stack, finer), finer=finer)
            found = self.plans.put(key, (stack, made))
            self.newest.put((id(stack.base), finer), (stack, made))
        plan = found[1]
        plan.work_on(working_on)
        return plan

    def _newest(self, stack: Stack, finer: int) -> Plan | None:
        """The plan made last of the same base, so that what is the same is not made again; None where it has come to
        remember too much."""
        found = self.newest.get((id(stack.base), finer))
        return found[1] if found and found[0].base is stack.base and found[1].weight < HEAVY else None

    def admit(self, stack: Stack) -> None:
        """Raises DocumentError for a state that could not be drawn (the gate of everything that is to be kept)."""
        if self.admitted.get(id(stack)) is stack:
            return
        check_reach(stack)
        check_sources(stack, self.pictures_of(stack))
        check_keys(self.plan(stack))
        self.admitted.put(id(stack), stack)

    def took(self, root: bytes, stack: Stack) -> None:
        """Remember a state that was admitted and kept."""
        self.stacks.put(root, stack)
        self.sound.put(root, True)

    def check(self, root: bytes) -> None:
        """Raises a GlypticError, in words, for a state that is kept but cannot be drawn."""
        if self.sound.get(root):
            return
        try:
            self.admit(self.stack(root))
        except GlypticError:
            raise
        except Exception as error:
            logging.getLogger(__name__).exception("A state that is kept cannot be drawn.")
            raise explained(error) or Damaged(f"It holds something Glyptic cannot draw ({error}).") from error
        self.sound.put(root, True)

    def current(self, plate_id: int) -> Current:
        """The state a plate is in, or the last one before it that can be drawn; raises NotFound, or what is wrong where
        none can."""
        with self.store.session() as session:
            plate = plate_of(session, plate_id)
            shown, first_wrong = None, None
            for shown in lineage(session, plate):
                try:
                    self.check(shown.root)
                    break
                except GlypticError as error:
                    first_wrong = first_wrong or error
            else:
                raise first_wrong or NotFound("That plate has no state that is kept; restore the data folder.")
            return self._shown(session, plate, shown, _in_words(first_wrong))

    def _shown(self, session: Session, plate: Plate, shown: Revision, wrong: str) -> Current:
        before, after = root_of(session, shown.parent_id), root_of(session, shown.next_id)
        stack = self.stack(shown.root)
        chosen = plate.chosen if stack.holds(plate.chosen) else stack.layers[-1].id
        trouble = f"{TROUBLE} ({wrong.rstrip('.')})." if wrong else ""
        head = plate.head_id or shown.id
        return Current(
            plate.id, plate.name, shown.id, shown.root, stack, chosen, plate.asset_hash, before, after, head, trouble,
            shown.sentence,
        )  # fmt: skip
