"""The two looks: the same tokens with other values, both with contrast enough; and the documents inside the application."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

import glyptic
from tests.oracle.formulas import lin

TOKENS = Path(glyptic.__file__).parent / "web/static/css/common.css"
TEXT = {"ink": 4.5, "ink-2": 4.5, "ink-3": 4.5, "verdigris": 4.5, "garnet": 4.5}
GROUNDS = ("stone-0", "stone-1", "plain", "paper", "paper-2")
NEAR_THE_PICTURE = ("stone-0", "stone-1", "stone-2", "stone-3", "stone-4", "plain")


def tokens(look):
    found = re.findall(r"--([\w-]+): (?:light-dark\((#\w{6}), (#\w{6})\)|(#\w{6}))", TOKENS.read_text())
    return {name: one or (light if look == "light" else dim) for name, light, dim, one in found}


def luminance(colour):
    r, g, b = (lin(int(colour[i : i + 2], 16) / 255) for i in (1, 3, 5))
    return 0.2126 * r + 0.7152 * g + 0.0722 * b


def contrast(a, b):
    """WCAG 2.2, relative contrast."""
    high, low = sorted((luminance(a), luminance(b)), reverse=True)
    return (high + 0.05) / (low + 0.05)


@pytest.mark.parametrize("look", ["light", "dim"])
def test_text_stands_out_on_every_ground(look):
    values = tokens(look)
    poor = [
        (text, ground)
        for text, least in TEXT.items()
        for ground in GROUNDS
        if contrast(values[text], values[ground]) < least
    ]
    assert poor == []
    assert contrast(values["ink"], values["verdigris-2"]) > 4.5 and contrast("#ffffff", values["solid"]) > 4.5
    assert contrast(values["ink-2"], values["stone-2"]) > 4.5


@pytest.mark.parametrize("look", ["light", "dim"])
def test_what_lies_near_the_picture_is_neutral(look):
    values = tokens(look)
    assert all(values[name][1:3] == values[name][3:5] == values[name][5:7] for name in NEAR_THE_PICTURE)


def test_a_look_is_kept_in_a_cookie_and_leads_back_to_the_page_only(client):
    assert b'data-look="system"' in client.get("/").data
    answer = client.post("/look", data={"look": "dim", "back": "/settings"})
    assert answer.headers["Location"] == "/settings"
    assert b'data-look="dim"' in client.get("/").data
    for elsewhere in ("//evil.example", "https://evil.example", "/\\evil.example"):
        assert client.post("/look", data={"look": "light", "back": elsewhere}).headers["Location"] == "/"
    client.post("/look", data={"look": "pink", "back": "/"})
    assert b'data-look="light"' in client.get("/").data


def test_documents_are_read_and_searched_inside(client):
    page = client.get("/help/").get_data(as_text=True)
    assert "<h1" in page and "Working at the bench" in page and "masks.md" in page
    assert (
        "Oklab" in client.get("/help/masks.md").get_data(as_text=True)
        or client.get("/help/kinds.md").status_code == 200
    )
    found = client.get("/help/?q=hold colour").get_data(as_text=True)
    assert "grey.md#" in found or "working.md#" in found
    assert "Nothing there has all of these words" in client.get("/help/?q=zzxqy").get_data(as_text=True)
    assert client.get("/help/adjustments/curves.jpg").mimetype == "image/jpeg"
    for bad in ("/help/../pyproject.toml", "/help/nothing.md", "/help/%2e%2e/README.md", "/help/../../etc/hosts.png"):
        assert client.get(bad).status_code == 404
    assert "&lt;script&gt;" in client.get("/help/?q=<script>").get_data(as_text=True)
