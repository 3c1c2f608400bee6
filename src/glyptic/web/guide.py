"""The documents, readable inside the application: the docs folder rendered, with a search."""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import cache
from pathlib import Path

from flask import Blueprint, render_template, request, send_from_directory
from markdown_it import MarkdownIt
from markupsafe import Markup
from werkzeug.wrappers import Response

import glyptic
from glyptic.base.errors import NotFound

FOLDER = Path(glyptic.__file__).resolve().parents[2] / "docs"
"""Where the documents lie beside the code; a copy of the code alone has none."""
START = "working.md"
PICTURES = (".png", ".jpg", ".svg")
SNIPPET = 220
MARKS = re.compile(r"[`*|]+|-{3,}|!?\[|\]\([^)]*\)")
"""What is written for the eye of a renderer only."""
MOST_FOUND = 40
blueprint = Blueprint("guide", __name__, url_prefix="/help")


@dataclass(frozen=True)
class Section:
    """A stretch of a document under one heading. page: its path; anchor: where it begins there."""

    page: str
    document: str
    heading: str
    anchor: str
    text: str


def _title(text: str, path: Path) -> str:
    found = re.search(r"^#\s+(.+)$", text, re.MULTILINE)
    return found[1] if found else path.stem


@cache
def documents() -> dict[str, tuple[str, str]]:
    """(title, text) of every document by its path, in the order a newcomer reads them."""
    paths = sorted(
        FOLDER.rglob("*.md"), key=lambda path: (len(path.relative_to(FOLDER).parts), path.name != START, path)
    )
    found = {}
    for path in paths:
        text = path.read_text(encoding="utf-8")
        found[path.relative_to(FOLDER).as_posix()] = (_title(text, path), text)
    return found


def anchor_of(heading: str) -> str:
    """The anchor of a heading."""
    return re.sub(r"[^a-z0-9]+", "-", heading.lower()).strip("-")


@cache
def sections() -> list[Section]:
    """Every section of every document."""
    found = []
    for page, (title, text) in documents().items():
        parts = re.split(r"^(#{1,4}\s+.+)$", text, flags=re.MULTILINE)
        for heading, body in zip(parts[1::2], parts[2::2], strict=True):
            words = heading.lstrip("# ").strip()
            plain = MARKS.sub(" ", body)
            found.append(Section(page, title, words, anchor_of(words), re.sub(r"\s+", " ", plain).strip()))
    return found


def search(asked: str) -> list[tuple[Section, str]]:
    """The sections that hold every word asked for, those with them in their heading first, each with a snippet."""
    words = asked.lower().split()
    if not words:
        return []
    found = [one for one in sections() if all(word in f"{one.heading} {one.text}".lower() for word in words)]
    found.sort(key=lambda one: -sum(word in one.heading.lower() for word in words))
    return [(one, _snippet(one.text, words[0])) for one in found[:MOST_FOUND]]


def _snippet(text: str, word: str) -> str:
    at = max(0, text.lower().find(word) - SNIPPET // 3)
    return f"{'… ' if at else ''}{text[at : at + SNIPPET]}{' …' if at + SNIPPET < len(text) else ''}"


def rendered(text: str) -> Markup:
    """A document as HTML; nothing in it is taken for HTML of its own."""
    reader = MarkdownIt("commonmark", {"html": False}).enable("table")
    tokens = reader.parse(text)
    for opening, inside in zip(tokens, tokens[1:], strict=False):
        if opening.type == "heading_open":
            opening.attrSet("id", anchor_of(inside.content))
    return Markup(reader.renderer.render(tokens, reader.options, {}))  # noqa: S704  our own documents, HTML switched off


def _page(**shown: object) -> str:
    return render_template("guide/page.html", pages=documents(), asked=request.args.get("q", "")[:200], **shown)


@blueprint.get("/")
def index() -> str:
    """What a newcomer needs next, beside the list of all documents; ?q= searches them."""
    asked = request.args.get("q", "")[:200]
    if asked:
        return _page(found=search(asked), title=f"‘{asked}’")
    return _document(START) if START in documents() else _page(title="Help")


@blueprint.get("/<path:name>")
def document(name: str) -> str | Response:
    """A document, or a picture in one."""
    if name.endswith(PICTURES):
        return send_from_directory(FOLDER, name)
    page = f"{name}README.md" if name.endswith("/") else name
    if page not in documents():
        raise NotFound("There is no such document. All of them are listed on the page Help.")
    return _document(page)


def _document(page: str) -> str:
    title, text = documents()[page]
    return _page(title=title, html=rendered(text), page=page)
