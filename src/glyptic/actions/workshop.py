"""The workshop: the store, the caches and the locks that the use cases share."""

from __future__ import annotations

from dataclasses import dataclass, field
from threading import Lock, RLock

from glyptic.actions.looking import InHand, Order
from glyptic.actions.recent import Recent
from glyptic.document.values import Stack
from glyptic.engine.cache import TileCache
from glyptic.engine.paintings import Chains
from glyptic.engine.plan import Plan, make_plan
from glyptic.formats import DEFAULT_LIMIT
from glyptic.pixels.counts import Counts
from glyptic.pixels.pyramid import Picture
from glyptic.store import Store
from glyptic.store.plates import head_of, plate_of, root_of

BUDGET = 768 * 2**20


@dataclass(frozen=True)
class Current:
    """A plate's current state."""

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


@dataclass
class Workshop:
    """What one running application has: a store, caches, a lock for each plate.

    limit: pixels a picture may have. orders: what the tile keys given out stand for. in_hand: strokes being drawn, by
    plate and the page's own number.
    """

    store: Store
    limit: int = DEFAULT_LIMIT
    tiles: TileCache = field(init=False)
    shown: TileCache = field(default_factory=lambda: TileCache(256 * 2**20))
    stacks: Recent[bytes, Stack] = field(default_factory=lambda: Recent(64))
    pictures: Recent[str, Picture] = field(default_factory=lambda: Recent(16))
    plans: Recent[int, tuple[Stack, Plan]] = field(default_factory=lambda: Recent(32))
    chains: Chains = field(default_factory=Chains)
    orders: Recent[bytes, Order] = field(default_factory=lambda: Recent(20_000))
    counts: Recent[bytes, dict[str, Counts]] = field(default_factory=lambda: Recent(64))
    in_hand: Recent[tuple[int, str], InHand] = field(default_factory=lambda: Recent(8))
    _locks: dict[int, RLock] = field(default_factory=dict)
    _guard: Lock = field(default_factory=Lock)

    def __post_init__(self) -> None:
        self.tiles = TileCache(BUDGET, self.store.tiles.get)

    def lock(self, plate_id: int) -> RLock:
        """Edits of one plate happen one after the other."""
        with self._guard:
            return self._locks.setdefault(plate_id, RLock())

    def picture(self, asset: str) -> Picture:
        return self.pictures.get_or(asset, lambda: self.store.assets.picture(asset))

    def stack(self, root: bytes) -> Stack:
        found = self.stacks.get(root)
        if found is None:
            with self.store.session() as session:
                found = self.stacks.put(root, self.store.objects.get(session, root))
        return found

    def plan(self, stack: Stack, working_on: str = "") -> Plan:
        """The plan of a stack (the same stack value gives the same plan); what is below the layer being worked
        on is kept in tiles."""
        found = self.plans.get(id(stack))
        if found is None or found[0] is not stack:
            found = self.plans.put(id(stack), (stack, make_plan(stack, self.picture, self.chains)))
        plan = found[1]
        if working_on in plan.below:
            plan.below[working_on].kept = True
        return plan

    def current(self, plate_id: int) -> Current:
        """The state a plate is in; raises NotFound."""
        with self.store.session() as session:
            plate = plate_of(session, plate_id)
            head = head_of(session, plate)
            before, after = root_of(session, head.parent_id), root_of(session, head.next_id)
            name, chosen, asset = plate.name, plate.chosen, plate.asset_hash
            revision, root = head.id, head.root
        stack = self.stack(root)
        if stack.find(chosen) is None:
            chosen = stack.layers[-1].id
        return Current(plate_id, name, revision, root, stack, chosen, asset, before, after)
