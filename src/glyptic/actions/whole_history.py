"""A plate's whole history in its archive: every state of its log, with the pieces they are made of.

`log.json` lists the states as the store has them, by the digests of their documents; `log/objects.jsonl` holds the
pieces, one to a line, each under its digest, which is checked; pictures lie beside, under names of their own."""

from __future__ import annotations

import base64
import json
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import select
from sqlalchemy.dialects.sqlite import insert

from glyptic.actions.open_picture import keep_asset
from glyptic.actions.workshop import Workshop
from glyptic.base.errors import DocumentError, Fault, NotFound, PictureError
from glyptic.store.objects import fetch, is_what_it_says
from glyptic.store.plates import plate_of
from glyptic.store.sweeping import Reached
from glyptic.store.tables import Object, Plate, Revision

LOG_FILE, OBJECTS_FILE = "log.json", "log/objects.jsonl"
FORMAT, VERSION = "glyptic-log", 1
MOST_STATES, MOST_OBJECTS = 200_000, 5_000_000
BATCH = 500
LONGEST_SENTENCE = 2000
Beside = Callable[[str], bytes]


@dataclass(frozen=True)
class History:
    """The states of a plate's log, the oldest first, as plain data; the keys of the pieces they are made of, and the
    pictures these refer to."""

    plain: dict[str, Any]
    objects: list[bytes]
    assets: list[str]


def history_of(workshop: Workshop, plate_id: int) -> History:
    """The whole log of a plate."""
    reached = Reached()
    with workshop.store.session() as session:
        plate = plate_of(session, plate_id)
        rows = session.scalars(select(Revision).where(Revision.plate_id == plate_id).order_by(Revision.id)).all()
        places = {row.id: place for place, row in enumerate(rows)}
        reached.mark(session, dict.fromkeys(row.root for row in rows))
        states = [
            {
                "root": row.root.hex(), "sentence": row.sentence, "chosen": row.chosen, "at": row.at.isoformat(),
                "after": places.get(row.parent_id or -1), "next": places.get(row.next_id or -1),
            }
            for row in rows
        ]  # fmt: skip
        about = {"name": plate.name, "note": plate.note, "marks": plate.marks, "made": plate.created_at.isoformat()}
        plain = {
            "format": FORMAT, "version": VERSION, "plate": about, "head": places[plate.head_id or rows[-1].id],
            "states": states,
        }  # fmt: skip
    return History(plain, sorted(reached.objects), sorted(reached.assets))


def object_lines(workshop: Workshop, keys: list[bytes]) -> Iterator[bytes]:
    """The pieces under keys, one to a line: text as it is, anything else in base 64."""
    with workshop.store.session() as session:
        for start in range(0, len(keys), BATCH):
            for key, content in sorted(fetch(session, keys[start : start + BATCH]).items()):
                try:
                    told = {"key": key.hex(), "text": content.decode("ascii")}
                except UnicodeDecodeError:
                    told = {"key": key.hex(), "bytes": base64.b64encode(content).decode()}
                yield json.dumps(told).encode() + b"\n"


def _refused(why: str) -> DocumentError:
    return DocumentError([Fault(LOG_FILE, f"{why}; nothing was put on the shelf")])


def read_log(text: bytes) -> dict[str, Any]:
    """The plain data of a log; raises DocumentError for one that is none."""
    try:
        plain = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise _refused(f"is not JSON ({error})") from None
    if not isinstance(plain, dict) or plain.get("format") != FORMAT or plain.get("version") != VERSION:
        raise _refused("is no log that this Glyptic can read")
    states = plain.get("states")
    if not isinstance(states, list) or not 0 < len(states) <= MOST_STATES:
        raise _refused(f"must hold 1 to {MOST_STATES} states")
    for place, state in enumerate(states):
        if not _is_state(state, place, len(states)):
            raise _refused(f"holds a state that is none, number {place + 1}")
    if not _is_place(plain.get("head"), len(states)) or plain["head"] is None:
        raise _refused("does not say which state is the current one")
    if not isinstance(plain.get("pictures"), dict) or not isinstance(plain.get("plate"), dict):
        raise _refused("does not name its pictures")
    return plain


def _is_place(place: object, count: int) -> bool:
    return place is None or (isinstance(place, int) and not isinstance(place, bool) and 0 <= place < count)


def _is_state(state: object, place: int, count: int) -> bool:
    if not isinstance(state, dict):
        return False
    texts = all(isinstance(state.get(name), str) for name in ("root", "sentence", "chosen", "at"))
    after, following = state.get("after"), state.get("next")
    ordered = (after is None or (_is_place(after, count) and after < place)) and (
        following is None or (_is_place(following, count) and following > place)
    )
    return texts and ordered and len(state["root"]) == 32 and len(state["sentence"]) <= LONGEST_SENTENCE


def _time(text: str) -> datetime:
    try:
        return datetime.fromisoformat(text).replace(tzinfo=None)
    except ValueError:
        raise _refused(f"holds {text[:40]!r} where a time should stand") from None


def take_history_in(workshop: Workshop, plate_id: int, plain: dict[str, Any], beside: Beside) -> None:
    """Give a plate that was just put on the shelf the history that came with it; its one state is then the last of it,
    if it is not that already. Raises DocumentError or PictureError; the plate is to be taken away then."""
    for asset, name in plain["pictures"].items():
        if keep_asset(workshop, beside(str(name)), str(name)) != asset:
            raise PictureError(f"{str(name)[:80]} is not the picture that the history was made with.")
    objects = _objects(beside(OBJECTS_FILE))
    roots = [bytes.fromhex(state["root"]) for state in plain["states"]]
    with workshop.store.writing() as session:
        for start in range(0, len(objects), BATCH):
            session.execute(insert(Object).on_conflict_do_nothing(), objects[start : start + BATCH])
        try:
            reached = Reached()
            reached.mark(session, dict.fromkeys(roots))
            fetch(session, sorted(reached.objects))
        except (NotFound, ValueError, KeyError, TypeError, AttributeError) as error:
            raise _refused("names pieces that did not come with it") from error
        _put_states(session, plate_of(session, plate_id), roots, plain)
    workshop.check(roots[plain["head"]])


def _objects(text: bytes) -> list[dict[str, bytes]]:
    """The pieces of their file; each must be what its digest says."""
    found: list[dict[str, bytes]] = []
    for line in text.splitlines():
        try:
            told = json.loads(line)
            content = told["text"].encode() if "text" in told else base64.b64decode(told["bytes"], validate=True)
            key = bytes.fromhex(told["key"])
        except (ValueError, KeyError, TypeError, AttributeError, RecursionError) as error:
            raise _refused(f"goes with pieces of which number {len(found) + 1} is damaged") from error
        if len(found) == MOST_OBJECTS or not is_what_it_says(key, content):
            raise _refused(f"goes with pieces of which number {len(found) + 1} is not what it says")
        found.append({"hash": key, "content": content})
    return found


def _put_states(session: Any, plate: Plate, roots: list[bytes], plain: dict[str, Any]) -> None:
    first = session.get(Revision, plate.head_id)
    ids: list[int] = []
    for state, root in zip(plain["states"], roots, strict=True):
        after = None if state["after"] is None else ids[state["after"]]
        row = Revision(
            plate_id=plate.id, parent_id=after, root=root, sentence=state["sentence"], chosen=state["chosen"],
            at=_time(state["at"]),
        )  # fmt: skip
        session.add(row)
        session.flush()
        ids.append(row.id)
    for state, number in zip(plain["states"], ids, strict=True):
        if state["next"] is not None:
            session.get(Revision, number).next_id = ids[state["next"]]
    head = ids[plain["head"]]
    opened = first.root
    session.delete(first)
    if roots[plain["head"]] != opened:
        said = "Opened with its stack"
        last = Revision(plate_id=plate.id, parent_id=head, root=opened, sentence=said, chosen=plate.chosen)
        session.add(last)
        session.flush()
        session.get(Revision, head).next_id, head = last.id, last.id
    plate.head_id = head
    plate.chosen = session.get(Revision, head).chosen
    about = plain["plate"]
    plate.name = str(about.get("name") or plate.name)[:120]
    plate.note = str(about.get("note") or "")[:1000]
    plate.marks = int(about["marks"]) & 0xFF if isinstance(about.get("marks"), int) else 0
