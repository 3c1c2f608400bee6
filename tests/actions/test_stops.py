"""What is stopped is not kept; what is sent twice is kept once."""

import pytest

from glyptic.actions import edit
from glyptic.actions.open_picture import open_picture
from glyptic.base.errors import Stopped

ADD = {"layer": {"kind": "exposure", "name": "Light"}, "after": None}


@pytest.fixture
def plate(shop, photo):
    return open_picture(shop, photo, "one.png")


def test_what_was_stopped_changes_nothing(shop, plate):
    before = shop.current(plate)
    shop.stops.stop("one")
    with shop.stops.under("one"), pytest.raises(Stopped, match="Nothing was changed"):
        edit.apply_edit(shop, plate, before.revision, "add-layer", ADD)
    assert shop.current(plate).revision == before.revision
    with shop.stops.under("two"):
        assert len(edit.apply_edit(shop, plate, before.revision, "add-layer", ADD).stack.layers) == 2


def test_an_edit_that_is_sent_twice_is_kept_once(shop, plate):
    before, number = shop.current(plate).revision, "the same"
    for _ in range(3):
        current = edit.apply_edit(shop, plate, before, "add-layer", ADD, number)
        assert len(current.stack.layers) == 2
