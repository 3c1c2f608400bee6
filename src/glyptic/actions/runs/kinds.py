"""What a run can do to a plate: lay a kit on it, copy another plate's layers onto it, write deliveries of it.

Each kind says what it needs (`begin`), hands what is dear to a runner as plain data (`task`), and keeps what came of it
(`finish`): once, however often it is begun, for a step goes under a name of its own and a file is written whole.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any, ClassVar

from glyptic.actions import copying, made_at_rest
from glyptic.actions.edit import keep, kept_already
from glyptic.actions.history import undo as step_back
from glyptic.actions.kits.adding import ARGUMENTS, kept_kit, put_kit
from glyptic.actions.kits.flags import finds
from glyptic.actions.kits.looking import Found, Look, find_for, look_of
from glyptic.actions.open_picture import keep_asset
from glyptic.actions.runs.deliveries import Deliver, Delivered, Named, deliver, file_names, job_of, kept_deliveries
from glyptic.actions.shelve import some_plates
from glyptic.actions.shoots import list_shoots
from glyptic.actions.workshop import Current, Workshop
from glyptic.base.errors import DocumentError, Fault, NotFound, PictureError
from glyptic.document.edits.edit import Edited
from glyptic.document.tree import without
from glyptic.params import Schema, Whole
from glyptic.store.plates import plate_of, revision_named
from glyptic.store.shelf import Wanted
from glyptic.store.tables import now

Plain = dict[str, Any]


@dataclass(frozen=True)
class Item:
    """One plate of a run: its numbers, and what the run is to do with it."""

    run: int
    id: int
    plate: int
    settings: Plain
    plain: Plain
    made: Plain

    @property
    def token(self) -> str:
        """What its step is called, so that it is kept once."""
        return f"run {self.run} {self.id}"


@dataclass(frozen=True)
class Task:
    """Something for a runner: plain data, and what makes an outcome of it."""

    item: int
    work: Callable[[Any], Any] | None = None
    job: Any = None


def do(task: Task) -> Any:
    """Do a task wherever this is."""
    return None if task.work is None else task.work(task.job)


@dataclass(frozen=True)
class Result:
    """What came of an item: its sentence, and what was made, as plain data. Raised failures are the run's."""

    says: str
    made: Plain


class RunKind(ABC):
    """A kind of run. name: as the store has it."""

    name: ClassVar[str]

    def is_dear(self, shop: Workshop, settings: Plain) -> bool:
        """Whether a run's tasks are worth a process of their own."""
        return False

    @abstractmethod
    def begin(
        self, shop: Workshop, plates: Sequence[int], settings: Plain
    ) -> tuple[str, Plain, list[tuple[int, Plain]]]:
        """(title, settings, (plate, plain) of each item) of a run that may begin; raises DocumentError or NotFound."""

    def task(self, shop: Workshop, item: Item) -> Task:
        """What of an item a runner does; raises GlypticError where it cannot be done."""
        return Task(item.id)

    @abstractmethod
    def finish(self, shop: Workshop, item: Item, outcome: Any) -> Result:
        """Keep what came of it; raises GlypticError where nothing did."""

    @abstractmethod
    def undo(self, shop: Workshop, item: Item) -> None:
        """Take back what was made of an item."""


def _stepped(shop: Workshop, item: Item, edit: Callable[[Current], Edited]) -> Result:
    """A step on a plate, once; what it added is remembered."""
    with shop.lock(item.plate):
        current = shop.current(item.plate)
        before = {layer.id for layer in current.stack.walk()}
        if kept_already(shop, item.plate, item.token):
            return _of_before(shop, item)
        made = edit(current)
        after = keep(shop, current, made, item.token)
    added = [layer.id for layer in (*after.stack.layers, *after.stack.sheet_layers) if layer.id not in before]
    return Result(made.sentence, {"revision": after.revision, "layers": added})


def _of_before(shop: Workshop, item: Item) -> Result:
    """The step that was kept when the server was killed before it could say so."""
    with shop.store.session() as session:
        kept = revision_named(session, plate_of(session, item.plate), item.token)
        if kept is None:
            raise NotFound("That step is not kept.")
        return Result(kept.sentence, {"revision": kept.id, "layers": [kept.chosen]})


def take_back(shop: Workshop, item: Item, what: str) -> None:
    """Undo a step where it is the plate's newest; else a new step that takes out what it added."""
    with shop.lock(item.plate):
        current = shop.current(item.plate)
        if current.revision == item.made.get("revision"):
            step_back(shop, item.plate, current.revision)
            return
        there = [layer for layer in item.made.get("layers", []) if current.stack.find(layer) is not None]
        if there:
            keep(shop, current, Edited(without(current.stack, there), f"{what} taken out again", current.stack.base.id))


class KitRun(RunKind):
    """A kit laid on each plate at a strength."""

    name = "kit"

    def is_dear(self, shop: Workshop, settings: Plain) -> bool:
        return finds(kept_kit(shop, int(settings["kit"])))

    def begin(
        self, shop: Workshop, plates: Sequence[int], settings: Plain
    ) -> tuple[str, Plain, list[tuple[int, Plain]]]:
        faults: list[Fault] = []
        asked = ARGUMENTS.parse(settings, "", faults)
        if asked is None:
            raise DocumentError(faults)
        kit = kept_kit(shop, int(asked["kit"]))
        at = f" at {asked['strength'] * 100:.0f} %" if asked["strength"] < 1 else ""
        return f"Kit ‘{kit.name}’{at}", {**ARGUMENTS.plain(asked), "name": kit.name}, [(plate, {}) for plate in plates]

    def _asked(self, item: Item) -> Plain:
        return {name: value for name, value in item.settings.items() if name in ARGUMENTS.params}

    def task(self, shop: Workshop, item: Item) -> Task:
        look: Look | None = look_of(shop, shop.current(item.plate).stack, self._asked(item))
        return Task(item.id, find_for, look) if look is not None else Task(item.id)

    def finish(self, shop: Workshop, item: Item, outcome: Found | None) -> Result:
        told = None
        if outcome is not None:
            if outcome.trouble:
                raise PictureError(outcome.trouble)
            if outcome.backdrop:
                base = shop.current(item.plate).stack.base.source
                shop.backdrops.put(base, (keep_asset(shop, outcome.backdrop, "backdrop.png"), ""))
            told = outcome.notes
        done = _stepped(shop, item, lambda current: put_kit(shop, current.stack, self._asked(item), told))
        return Result(done.says, {**done.made, LOOK: True}) if told else done

    def undo(self, shop: Workshop, item: Item) -> None:
        take_back(shop, item, f"Kit ‘{item.settings['name']}’")


class LayersRun(RunKind):
    """The layers of a plate copied onto each other one."""

    name = "layers"
    FIELDS: ClassVar[Schema] = Schema({"from": Whole(label="Plate", low=1, high=2**53)})

    def begin(
        self, shop: Workshop, plates: Sequence[int], settings: Plain
    ) -> tuple[str, Plain, list[tuple[int, Plain]]]:
        faults: list[Fault] = []
        asked = self.FIELDS.parse(settings, "", faults)
        if asked is None:
            raise DocumentError(faults)
        giver = shop.current(int(asked["from"]))
        ids = [layer.id for layer in giver.stack.layers[1:]]
        if not ids:
            raise DocumentError([Fault("from", f"has no layers to be copied: ‘{giver.name}’ is as it was opened")])
        copied = copying.copied(shop, giver.plate_id, ids)
        plain = {"from": giver.plate_id, "name": giver.name, "copied": copied}
        return f"Layers of ‘{giver.name}’", plain, [(plate, {}) for plate in plates if plate != giver.plate_id]

    def finish(self, shop: Workshop, item: Item, outcome: None) -> Result:
        def edit(current: Current) -> Edited:
            made = copying.pasted(shop, current.stack, item.settings["copied"], None)
            return Edited(made.stack, f"Layers of ‘{item.settings['name']}’: {made.sentence}", made.choose)

        return _stepped(shop, item, edit)

    def undo(self, shop: Workshop, item: Item) -> None:
        take_back(shop, item, f"Layers of ‘{item.settings['name']}’")


def _codes(shop: Workshop, item: int) -> Path:
    """Where what was made of a picture at rest waits for whoever writes its delivery, and removes it."""
    return shop.store.folder / f".codes-{item}.npy"


class DeliveryRun(RunKind):
    """Deliveries of each plate written into a folder of the run."""

    name = "deliver"

    def is_dear(self, shop: Workshop, settings: Plain) -> bool:
        return True

    def begin(
        self, shop: Workshop, plates: Sequence[int], settings: Plain
    ) -> tuple[str, Plain, list[tuple[int, Plain]]]:
        wanted = settings.get("deliveries")
        every = {one["name"]: one for one in kept_deliveries(shop)}
        names = [name for name in wanted if name in every] if isinstance(wanted, list) else []
        if not names:
            raise DocumentError([Fault("deliveries", "must name one or more of those that are kept")])
        cards = {card.id: card for card in some_plates(shop, Wanted())}
        shoots = {shoot.id: shoot.name for shoot in list_shoots(shop)}
        there = [cards[plate] for plate in plates if plate in cards]
        named = [Named(card.name, shoots.get(card.shoot or 0, ""), card.taken_at) for card in there]
        items = [
            (card.id, {"delivery": name, "file": f"{name}/{file}" if len(names) > 1 else file})
            for name in names
            for card, file in zip(there, file_names(every[name], named, now()), strict=True)
        ]
        kept = {name: dict(every[name]) for name in names}
        return f"Deliveries: {', '.join(names)}", {"deliveries": kept}, items

    def task(self, shop: Workshop, item: Item) -> Task:
        delivery = item.settings["deliveries"][item.plain["delivery"]]
        out = deliveries_folder(shop, item.run) / item.plain["file"]
        stack = shop.current(item.plate).stack
        job: Deliver = job_of(shop, stack, delivery, out, made_at_rest.written(shop, stack, _codes(shop, item.id)))
        return Task(item.id, deliver, job)

    def finish(self, shop: Workshop, item: Item, outcome: Delivered) -> Result:
        _codes(shop, item.id).unlink(missing_ok=True)
        if outcome.trouble:
            raise PictureError(outcome.trouble)
        return Result(f"{item.plain['file']}, {outcome.size / 1e6:.1f} MB", {"file": item.plain["file"]})

    def undo(self, shop: Workshop, item: Item) -> None:
        (deliveries_folder(shop, item.run) / item.plain["file"]).unlink(missing_ok=True)


LOOK = "look"
"""What of an item's `made` says that somebody should look at it: what a kit found there may be wrong."""
DELIVERIES = "deliveries"
"""The folder of the data folder that holds the files of runs."""


def deliveries_folder(shop: Workshop, run: int) -> Any:
    """Where the files of a run are written."""
    return shop.store.folder / DELIVERIES / f"run-{run}"


KINDS: dict[str, RunKind] = {kind.name: kind for kind in (KitRun(), LayersRun(), DeliveryRun())}
