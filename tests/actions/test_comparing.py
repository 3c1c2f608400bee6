"""What the picture is compared with, and proofs: through branches, restarts, archives; seen through the present frame."""

from __future__ import annotations

import io

import numpy as np
import pytest

from glyptic.actions import edit, history, proofs
from glyptic.actions.archive import open_archive, write_archive, write_folder
from glyptic.actions.comparing import Side, apart, side_of
from glyptic.actions.housekeeping import free_again
from glyptic.actions.looking import Looking
from glyptic.actions.open_picture import open_picture
from glyptic.actions.tiles import tile_keys, tile_pixels
from glyptic.actions.workshop import Workshop
from glyptic.base.errors import DocumentError, GlypticError, NotFound, StaleEdit
from glyptic.base.rectangles import Rect
from glyptic.cli.main import main
from glyptic.formats import read_picture
from glyptic.store import Store
from glyptic.store.sweeping import sweep

UP = {"id": "up", "kind": "exposure", "name": "Up", "settings": {"stops": 1}}
DOWN = {"id": "down", "kind": "exposure", "name": "Down", "settings": {"stops": -2}}
WHOLE = Rect(0, 0, 10_000, 10_000)


@pytest.fixture
def plate(shop, photo):
    number = open_picture(shop, photo, "one.png")
    for layer in (UP, DOWN):
        change(shop, number, "add-layer", layer=layer)
    return number


def id_of(shop, plate, name):
    return next(layer.id for layer in shop.current(plate).stack.walk() if layer.name == name)


def change(shop, plate, name, layer=None, layers=None, **arguments):
    """An edit; layers are named by their names."""
    if layer is not None:
        arguments["layer"] = layer if isinstance(layer, dict) else id_of(shop, plate, layer)
    if layers is not None:
        arguments["layers"] = [id_of(shop, plate, one) for one in layers]
    return edit.apply_edit(shop, plate, shop.current(plate).revision, name, arguments)


def pull(shop, plate, name="", note=""):
    return proofs.pull(shop, plate, shop.current(plate).revision, name, note)


def keys(shop, stack, view="finished", against=None):
    return tile_keys(shop, stack, Looking(view, "base", 0, WHOLE, against=against))


def other(shop, plate, kind, **of):
    return side_of(shop, shop.current(plate), Side(kind, **of))


def test_the_other_side_is_what_it_says(shop, plate):
    now = shop.current(plate)
    assert keys(shop, other(shop, plate, "before")) == keys(shop, now.stack, "before")
    change(shop, plate, "set", layer="Down", field="visible", value=False)
    without_down = keys(shop, shop.current(plate).stack)
    assert keys(shop, other(shop, plate, "step", number=now.revision)) == keys(shop, now.stack)
    history.undo(shop, plate, shop.current(plate).revision)
    assert keys(shop, other(shop, plate, "without", layers=(id_of(shop, plate, "Down"),))) == without_down
    assert keys(shop, other(shop, plate, "upto", layers=(id_of(shop, plate, "Up"),))) == without_down
    assert other(shop, plate, "before") is other(shop, plate, "before")


@pytest.mark.parametrize(("kind", "of"), [("proof", {"number": 99}), ("step", {"number": 10**9})])
def test_what_is_not_there_is_not_compared_with(shop, plate, kind, of):
    with pytest.raises(NotFound):
        other(shop, plate, kind, **of)
    with pytest.raises(DocumentError):
        other(shop, plate, "elsewhere")


def test_a_state_with_another_frame_is_seen_through_the_present_one(shop, plate):
    proof = pull(shop, plate)
    width, height = shop.picture(shop.current(plate).asset).canvas
    corners = [[20, 10], [width - 20, 10], [width - 20, height - 10], [20, height - 10]]
    change(shop, plate, "set-frame", frame={"corners": corners, "size": [width - 40, height - 20]})
    current = shop.current(plate)
    assert keys(shop, other(shop, plate, "proof", number=proof.id)) == keys(shop, current.stack)


def test_a_map_of_change_shows_nothing_where_nothing_changed(shop, plate):
    current = shop.current(plate)
    same = np.frombuffer(tile_pixels(shop, keys(shop, current.stack, "change", current.stack)[0][2]), np.uint8)
    quiet = same.reshape(-1, 4)[:, :3]
    assert (quiet.max(1) == quiet.min(1)).all()
    against_base = keys(shop, current.stack, "change")
    inked = np.frombuffer(tile_pixels(shop, against_base[0][2]), np.uint8).reshape(-1, 4)[:, :3].astype(int)
    darker = inked[:, 2] > inked[:, 0] + 20
    assert darker.mean() > 0.9


def test_a_proof_outlives_branches_sweeping_and_a_restart(shop, plate):
    pull(shop, plate, "Bright", "as first seen")
    first = shop.current(plate)
    history.undo(shop, plate, first.revision)
    change(shop, plate, "set", layer="Up", field="settings.stops", value=-1)
    free_again(shop)
    sweep(shop.store, grace=0)
    shop.store.close()
    again = Workshop(Store(shop.store.folder), limit=1_000_000)
    [kept] = proofs.plain_list(again, plate)
    assert (kept.name, kept.note) == ("Bright", "as first seen")
    current = proofs.return_to(again, plate, again.current(plate).revision, kept.id)
    assert current.stack == first.stack and current.sentence == "Returned to proof ‘Bright’"
    assert history.undo(again, plate, current.revision).stack != first.stack
    again.store.close()


def test_a_proof_says_how_it_differs(shop, plate):
    proof = pull(shop, plate)
    assert proofs.compared(shop, shop.current(plate), proof).apart.mean == 0
    change(shop, plate, "remove-layers", layers=["Down"])
    change(shop, plate, "set", layer="Up", field="settings.stops", value=0.5)
    change(shop, plate, "add-layer", layer={"kind": "invert", "name": "Turned"})
    found = proofs.compared(shop, shop.current(plate), proof).apart
    assert found.says == ["‘Turned’ added", "‘Down’ removed", "‘Up’ changed"]
    assert found.mean > 5 and found.most > found.mean and found.where


def test_where_two_states_differ_most_is_named(shop, plate):
    one = shop.current(plate).stack
    width, height = shop.picture(shop.current(plate).asset).canvas
    mask = {
        "start": "closed",
        "parts": [{"kind": "oval", "centre": [width * 0.9, height * 0.9], "radii": [15, 12], "softness": 0}],
    }
    change(shop, plate, "add-layer", layer={**UP, "id": "spot", "mask": mask})
    found = apart(shop, shop.current(plate).stack, one)
    assert found.where == "at the bottom right"
    assert found.at[0] > width / 2 and found.at[1] > height / 2


def test_pulling_is_refused_on_another_state_and_sent_twice_is_kept_once(shop, plate):
    revision = shop.current(plate).revision
    with pytest.raises(StaleEdit):
        proofs.pull(shop, plate, revision - 1, "", "")
    for _ in range(2):
        proofs.pull(shop, plate, revision, "", "", "same")
    assert [one.name for one in proofs.plain_list(shop, plate)] == ["Proof 1"]
    with pytest.raises(DocumentError):
        pull(shop, plate, "x" * 81)


def test_proofs_travel_in_the_archive_and_are_rendered_by_name(shop, plate, tmp_path):
    pull(shop, plate, "Dark")
    bright = proofs.stack_of(shop, plate, pull(shop, plate, "Bright").id)[1]
    change(shop, plate, "set", layer="Up", field="visible", value=False)
    stream = io.BytesIO()
    write_archive(shop, plate, stream)
    again = open_archive(shop, stream, "one.zip")
    assert [one.name for one in proofs.plain_list(shop, again)] == ["Bright", "Dark"]
    assert shop.stack(proofs.plain_list(shop, again)[0].root) == bright
    stack = write_folder(shop, plate, tmp_path / "out")
    assert main(["render", str(stack), str(tmp_path / "p.png"), "--proof", "Bright", "--depth", "16"]) == 0
    codes = read_picture(tmp_path / "p.png").codes
    [(_, _, key)] = [one for one in keys(shop, bright) if one[:2] == (0, 0)]
    tile = np.frombuffer(tile_pixels(shop, key), np.uint8).reshape(-1, 256, 4)[:, :, :3]
    assert np.abs(np.moveaxis(codes[:, :200, :256], 0, 2) / 257 - tile).max() <= 0.51


@pytest.mark.parametrize(
    "listed",
    [None, "{}", '{"format": "glyptic-proofs", "version": 1, "proofs": [{"name": "x", "stack": "../x.json"}]}'],
)
def test_a_list_of_proofs_that_is_not_there_or_is_none_is_refused(shop, plate, tmp_path, listed, capsys):
    stack = write_folder(shop, plate, tmp_path / "out")
    if listed is not None:
        (stack.parent / "proofs.json").write_text(listed)
    assert main(["render", str(stack), str(tmp_path / "p.png"), "--proof", "x"]) == 2
    assert "proof" in capsys.readouterr().err and not (tmp_path / "p.png").exists()


def test_an_archive_with_a_proof_that_is_no_stack_leaves_the_shelf_as_it_was(shop, plate, tmp_path):
    from glyptic.actions.archive import open_stack_file
    from glyptic.actions.shelve import list_plates

    pull(shop, plate, "Dark")
    stack = write_folder(shop, plate, tmp_path / "out")
    (stack.parent / "proof-001.json").write_text("{")
    before = len(list_plates(shop))
    with pytest.raises(GlypticError):
        open_stack_file(shop, stack)
    assert len(list_plates(shop)) == before
