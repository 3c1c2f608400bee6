"""Whose turn it is."""

from threading import Thread

from glyptic.actions.turns import Turns


def test_who_gives_way_goes_on_when_nobody_comes_first():
    turns, done = Turns(), []
    with turns.first():
        with turns.first():
            second = Thread(target=lambda: done.append(turns.give_way(60)))
            second.start()
        done.append("first")
    second.join()
    assert done == ["first", True]


def test_nobody_gives_way_for_ever():
    turns = Turns()
    with turns.first():
        assert not turns.give_way(0)
    assert turns.give_way(0)
