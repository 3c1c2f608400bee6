"""The application without a browser, and how it is asked."""

import io

import pytest

from glyptic.web.factory import create_app

LOOKING = {"view": "finished", "layer": "base", "level": 0, "rect": [0, 0, 512, 512]}


@pytest.fixture
def client(shop):
    app = create_app(shop)
    app.config["WTF_CSRF_ENABLED"] = False
    return app.test_client()


@pytest.fixture
def plate(client, photo):
    return upload(client, photo).get_json()["plate"]


def upload(client, data, name="one.png"):
    form = {"picture": (io.BytesIO(data), name)}
    return client.post("/plates", data=form, headers={"Accept": "application/json"})


def post(client, path, **body):
    return client.post(path, json=body, headers={"Accept": "application/json"})


def revision(client, plate):
    return post(client, f"/plates/{plate}/keys", looking=LOOKING).get_json()["revision"]


def add(client, plate, kind="exposure", **more):
    body = {"revision": revision(client, plate), "kind": kind, "start": "open", "looking": LOOKING, **more}
    return post(client, f"/plates/{plate}/layers", **body)
