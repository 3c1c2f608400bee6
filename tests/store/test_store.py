"""What lasts: objects stored once, revisions that branch, a log without end, pictures by content."""

import contextlib
import random
from dataclasses import replace

import pytest
from alembic.config import Config
from alembic.script import ScriptDirectory
from sqlalchemy import func, select

from glyptic.actions import edit, history, shelve
from glyptic.actions.keeping import keep_after
from glyptic.actions.open_picture import open_picture
from glyptic.actions.paint import keep_stroke
from glyptic.actions.workshop import Workshop
from glyptic.base.errors import NotFound, StaleEdit
from glyptic.store import Store, plates
from glyptic.store.assets import content_hash
from glyptic.store.migrating import MIGRATIONS, newest_version
from glyptic.store.objects import Objects
from glyptic.store.tables import Object, Revision
from tests.conftest import stack_of
from tests.properties.stacks import StackMaker

STROKE = {"to": 1, "size": 30, "hardness": 0, "opacity": 0.5, "flow": 0.5, "points": [[10, 10, 0.5], [90, 60, 1]]}


@pytest.fixture
def plate(shop, photo):
    return open_picture(shop, photo, "one.png")


def change(shop, plate, name, **arguments):
    return edit.apply_edit(shop, plate, shop.current(plate).revision, name, arguments)


def reopened(shop):
    """The same folder as the next start of the application finds it."""
    shop.store.close()
    shop.store = Store(shop.store.folder)
    return Workshop(shop.store, shop.limit)


def with_grey(shop, plate):
    return change(shop, plate, "add-layer", layer={"kind": "grey", "id": "g"}).chosen


def count(shop, table):
    with shop.store.session() as session:
        return session.scalar(select(func.count()).select_from(table))


@pytest.mark.parametrize("seed", range(12))
def test_any_stack_comes_back_as_it_was(shop, plate, seed):
    from glyptic.document.codec import parse_stack
    from glyptic.engine.vocabulary import VOCABULARY

    stack = parse_stack(StackMaker(seed).stack(8), VOCABULARY)
    with shop.store.writing() as session:
        root = shop.store.objects.put(session, stack)
    with shop.store.session() as session:
        again = Objects().get(session, root)
    assert again == stack
    for mine, theirs in zip(strokes_of(stack), strokes_of(again), strict=True):
        assert mine.digest == theirs.digest == replace(theirs).digest


def strokes_of(stack):
    for layer in stack.walk():
        yield from layer.strokes
        for part in layer.mask.parts if layer.mask else ():
            yield from part.strokes


def test_a_store_knows_its_newest_migration_without_asking(shop, monkeypatch):
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    assert newest_version() == ScriptDirectory.from_config(config).get_current_head()
    monkeypatch.setattr("alembic.command.upgrade", lambda *a: pytest.fail("there was nothing to do"))
    reopened(shop)


def test_everything_survives_the_end_of_the_process(shop, plate):
    grey = with_grey(shop, plate)
    for _ in range(130):
        last = change(shop, plate, "add-stroke", layer=grey, target="grey", stroke=STROKE)
    again = reopened(shop).current(plate)
    assert again.stack == last.stack and len(again.stack.find(grey).strokes) == 130


def test_a_stroke_more_stores_a_handful_of_objects(shop, plate):
    grey = with_grey(shop, plate)
    for n in range(70):
        before = count(shop, Object)
        stroke = {**STROKE, "points": [[n, 5], [n + 20, 50]]}
        change(shop, plate, "add-stroke", layer=grey, target="grey", stroke=stroke)
        assert count(shop, Object) - before <= 4


def test_undo_and_redo_move_a_pointer_and_store_nothing(shop, plate):
    states = [shop.current(plate)]
    for opacity in (0.9, 0.5, 0.1):
        if not states[1:]:
            states.append(change(shop, plate, "add-layer", layer={"kind": "exposure", "id": "x"}))
        states.append(change(shop, plate, "set", layer=states[1].chosen, field="opacity", value=opacity))
    stored = count(shop, Object), count(shop, Revision)
    for state in reversed(states[:-1]):
        assert history.undo(shop, plate, shop.current(plate).revision).stack == state.stack
    for state in states[1:]:
        assert history.redo(shop, plate, shop.current(plate).revision).stack == state.stack
    assert (count(shop, Object), count(shop, Revision)) == stored


def test_an_edit_after_undo_starts_a_branch_and_the_old_one_is_kept(shop, plate):
    first = with_grey(shop, plate)
    change(shop, plate, "set", layer=first, field="opacity", value=0.2)
    left = shop.current(plate)
    history.undo(shop, plate, left.revision)
    change(shop, plate, "set", layer=first, field="opacity", value=0.7)
    log = history.read_log(shop, plate)[0]
    assert [entry.where for entry in log] == ["now", "aside", "past", "past"]
    back = history.go_to(shop, plate, left.revision)
    assert back.stack.find(first).opacity == 0.2
    history.undo(shop, plate, back.revision)
    assert history.redo(shop, plate, shop.current(plate).revision).revision == left.revision


def test_an_edit_that_changes_nothing_leaves_no_step(shop, plate):
    grey = with_grey(shop, plate)
    before = shop.current(plate).revision
    assert change(shop, plate, "set", layer=grey, field="opacity", value=1).revision == before


def test_a_stale_edit_is_refused_and_nothing_is_lost(shop, plate):
    old = shop.current(plate).revision
    current = change(shop, plate, "add-layer", layer={"kind": "exposure"})
    with pytest.raises(StaleEdit):
        edit.apply_edit(shop, plate, old, "add-layer", {"layer": {"kind": "levels"}})
    assert shop.current(plate).revision == current.revision


def test_the_same_file_is_kept_once(shop, plate, photo):
    open_picture(shop, photo, "two.png")
    assert len(list((shop.store.folder / "assets").rglob(content_hash(photo)))) == 1


def test_what_was_rolled_back_is_not_taken_to_be_stored(shop, plate):
    """Another plate that shares a part with it would lose that part."""
    stack = stack_of({"kind": "grey", "id": "g", "strokes": [STROKE]})
    with contextlib.suppress(ZeroDivisionError), shop.store.writing() as session:
        shop.store.objects.put(session, stack)
        raise ZeroDivisionError
    with shop.store.writing() as session:
        root = shop.store.objects.put(session, stack)
    with shop.store.session() as session:
        assert Objects().get(session, root) == stack


def test_a_head_that_moved_meanwhile_is_never_passed_over(shop, plate):
    """Compare and swap: also where two servers, or two threads without a lock, read the same current state."""
    seen = shop.current(plate)
    change(shop, plate, "add-layer", layer={"kind": "exposure"})
    with pytest.raises(StaleEdit):
        keep_after(shop, seen, seen.stack, "late", "base")
    assert [layer.kind for layer in shop.current(plate).stack.layers] == ["picture", "exposure"]


def test_a_stroke_sent_twice_is_kept_once(shop, plate):
    grey = with_grey(shop, plate)
    for _ in range(3):
        current = keep_stroke(shop, plate, grey, "grey", STROKE, "a-name")
    keep_stroke(shop, plate, grey, "grey", STROKE, "another")
    assert len(current.stack.find(grey).strokes) == 1
    assert len(shop.current(plate).stack.find(grey).strokes) == 2


def test_the_log_says_the_same_however_it_is_turned(shop, plate):
    """Each page of the log against the definition, on a tree of random undos, redos and jumps."""
    rng = random.Random(7)
    grey = with_grey(shop, plate)
    for n in range(60):
        shop_now = shop.current(plate)
        deed = rng.choice(["edit", "edit", "undo", "redo", "go"])
        if deed == "edit":
            change(shop, plate, "set", layer=grey, field="opacity", value=n / 100) if shop_now.stack.find(
                grey
            ) else None
        elif deed == "go":
            history.go_to(shop, plate, rng.choice(history.read_log(shop, plate)[0]).id)
        else:
            getattr(history, deed)(shop, plate, shop_now.revision)
    with shop.store.session() as session:
        rows = {r.id: r for r in session.scalars(select(Revision).where(Revision.plate_id == plate))}
        head = plates.plate_of(session, plate).head_id
        past, ahead = set(walk(rows, head, "parent_id")), set(walk(rows, head, "next_id"))
        found = [
            e for before in (None, 40, 20) for e in plates.log_of(session, plates.plate_of(session, plate), before, 20)
        ]
    for entry in found:
        expected = (
            "now" if entry.id == head else "past" if entry.id in past else "ahead" if entry.id in ahead else "aside"
        )
        assert entry.where == expected


def walk(rows, at, along):
    while at is not None:
        yield at
        at = getattr(rows[at], along)


def test_the_shelf(shop, plate, photo):
    other = shelve.duplicate(shop, plate)
    shelve.rename(shop, other, "  Second ")
    assert [card.name for card in shelve.list_plates(shop)] == ["Second", "one"]
    shelve.remove(shop, other)
    assert [card.id for card in shelve.list_plates(shop)] == [plate]
    with pytest.raises(NotFound):
        shop.current(other)
    shelve.put_back(shop, other)
    assert shop.current(other).stack == shop.current(plate).stack


def test_a_missing_picture_file_is_told(shop):
    with pytest.raises(NotFound, match="missing"):
        shop.store.assets.read("0" * 64)
