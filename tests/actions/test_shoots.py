"""The shelf: found by words, shoot and marks, in each order, a stretch at a time; shoots let go and made again."""

import io
from datetime import datetime

import numpy as np
import pytest
from PIL import Image

from glyptic.actions import shelve, shoots
from glyptic.actions.open_picture import open_picture
from glyptic.base.errors import DocumentError, NotFound
from glyptic.store import Store
from glyptic.store.shelf import NO_SHOOT, ORDERS, Wanted
from tests.conftest import png_bytes


def photograph(width=30, height=20, taken=None, shade=0):
    exif = Image.Exif()
    if taken:
        exif.get_ifd(0x8769)[0x9003] = taken
    stream = io.BytesIO()
    Image.new("RGB", (width, height), (shade, 90, 90)).save(stream, "JPEG", exif=exif)
    return stream.getvalue()


@pytest.fixture
def plates(shop):
    """Three plates, opened in this order."""
    return [
        open_picture(shop, photograph(30, 20, "2026:05:02 10:00:00", 1), "b.jpg", "bowl"),
        open_picture(shop, photograph(60, 40, "2026:05:01 10:00:00", 2), "a.jpg", "Amphora"),
        open_picture(shop, photograph(10, 10, None, 3), "c.jpg", "Cup"),
    ]


def found(shop, **wanted):
    return [card.name for card in shelve.some_plates(shop, Wanted(**wanted))]


def test_plates_stand_in_each_order_and_are_found_by_every_word(shop, plates):
    orders = {order: found(shop, order=order) for order in ORDERS}
    assert orders == {
        "worked": ["Cup", "Amphora", "bowl"],
        "name": ["Amphora", "bowl", "Cup"],
        "taken": ["Amphora", "bowl", "Cup"],
        "size": ["Amphora", "bowl", "Cup"],
    }
    shelve.describe(shop, plates[0], "  for the\nspring catalogue ")
    assert found(shop, words=("SPRING", "bow")) == ["bowl"] and found(shop, words=("bow", "cup")) == []
    assert found(shop, words=("%",)) == []
    [card] = shelve.some_plates(shop, Wanted(words=("bowl",)))
    assert card.note == "for the spring catalogue" and card.taken_at == datetime(2026, 5, 2, 10)
    numbers = shelve.numbers_of(shop, Wanted(order="name"))
    assert [card.id for card in shelve.some_plates(shop, Wanted(order="name"), 1, 1)] == numbers[1:2] == [plates[0]]


def test_marks_are_given_taken_and_found_together(shop, plates):
    shelve.mark(shop, plates[:2], 1, True)
    shelve.mark(shop, plates[1:], 4, True)
    assert set(found(shop, marks=1)) == {"bowl", "Amphora"} and found(shop, marks=5) == ["Amphora"]
    shelve.mark(shop, plates, 1, False)
    assert found(shop, marks=1) == [] and set(found(shop, marks=4)) == {"Amphora", "Cup"}
    with pytest.raises(DocumentError):
        shelve.mark(shop, plates, 3, True)
    shelve.marks_of(shop).write({"mark1": "", "mark4": "chosen"})
    assert shelve.mark_names(shop) == [(2, "with the client"), (4, "done"), (8, "chosen")]


def test_a_shoot_holds_its_plates_until_it_is_let_go_and_can_be_made_again(shop, plates):
    shoot = shoots.make_shoot(shop, " Spring ", plates[:2])
    assert [(one.name, one.count) for one in shoots.list_shoots(shop)] == [("Spring", 2)]
    assert set(found(shop, shoot=shoot)) == {"bowl", "Amphora"} and found(shop, shoot=NO_SHOOT) == ["Cup"]
    copy = shelve.duplicate(shop, plates[0])
    assert "bowl copy" in found(shop, shoot=shoot), "a copy stands beside what it is a copy of"
    shelve.remove(shop, plates[1], copy)
    name, held = shoots.dissolve(shop, shoot)
    assert found(shop, shoot=NO_SHOOT) == ["Cup", "bowl"]
    with pytest.raises(NotFound):
        shoots.gather(shop, plates, shoot)
    again = shoots.make_shoot(shop, name, held)
    shelve.put_back(shop, plates[1], copy)
    assert set(found(shop, shoot=again)) == {"bowl", "bowl copy", "Amphora"}
    shoots.gather(shop, [plates[0]], NO_SHOOT)
    assert "bowl" in found(shop, shoot=NO_SHOOT)
    with pytest.raises(DocumentError):
        shoots.rename_shoot(shop, again, "  ")


def test_a_folder_of_before_learns_when_its_pictures_were_taken(tmp_path):
    from sqlalchemy import text

    from glyptic.actions.workshop import Workshop
    from glyptic.store.migrations.versions.v0007_colour import COLUMNS

    store = Store(tmp_path / "data")
    open_picture(Workshop(store), photograph(30, 20, "2026:05:02 10:00:00"), "b.jpg")
    with store.engine.begin() as connection:
        for statement in (
            "DROP INDEX ix_plate_shoot_id", "ALTER TABLE plate DROP COLUMN shoot_id", "ALTER TABLE plate DROP COLUMN note",
            "ALTER TABLE plate DROP COLUMN marks", "ALTER TABLE asset DROP COLUMN taken_at", "DROP TABLE shoot",
            "DROP TABLE run_item", "DROP TABLE run", *(f"ALTER TABLE asset DROP COLUMN {name}" for name, *_ in COLUMNS),
            "UPDATE alembic_version SET version_num = '0004'",
        ):  # fmt: skip
            connection.execute(text(statement))
    store.close()
    store = Store(tmp_path / "data")
    [card] = shelve.list_plates(Workshop(store))
    assert card.taken_at == datetime(2026, 5, 2, 10) and (card.note, card.marks, card.shoot) == ("", 0, None)
    store.close()


def test_a_picture_that_says_nonsense_of_its_time_says_nothing(shop):
    number = open_picture(shop, photograph(9, 9, "yesterday"), "y.jpg")
    assert shelve.list_plates(shop)[0].id == number and shelve.list_plates(shop)[0].taken_at is None
    assert open_picture(shop, png_bytes(np.zeros((4, 4, 3), np.uint8)), "z.png")
