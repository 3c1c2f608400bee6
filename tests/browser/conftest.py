"""The real application in a process of its own, and Debian's Chromium in front of it."""

from __future__ import annotations

import os
import re
import shutil
import signal
import socket
import subprocess
import sys
import urllib.request
from dataclasses import dataclass

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from glyptic.actions.workshop import Workshop
from glyptic.store import Store
from tests.conftest import png_bytes

FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]
FIRST_LAUNCH = 120_000
PATIENCE = 20_000
"""Milliseconds after which a page that does not come to rest is at fault."""
expect.set_options(timeout=PATIENCE)


@pytest.fixture(scope="session")
def browser_type_launch_args():
    chromium = shutil.which("chromium")
    if chromium is None:
        pytest.fail("Debian's chromium is missing; `make test` installs it", pytrace=False)
    return {"executable_path": chromium, "args": FLAGS, "timeout": FIRST_LAUNCH}


@pytest.fixture(scope="session")
def browser_context_args():
    return {"viewport": {"width": 1280, "height": 800}, "accept_downloads": True}


class Application:
    """`glyptic serve` over a data folder; can be killed and started again at the same address."""

    def __init__(self, folder) -> None:
        self.folder = folder
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            self.port = probe.getsockname()[1]
        self.url = f"http://127.0.0.1:{self.port}"
        self.start()

    def start(self) -> None:
        command = [sys.executable, "-m", "glyptic.cli.main", "serve", "--data", self.folder, "--port", str(self.port)]
        self.process = subprocess.Popen(
            command, stdout=subprocess.PIPE, text=True, env={**os.environ, "PYTHONUNBUFFERED": "1"}
        )
        said = self.process.stdout.readline()
        assert self.url in said, said
        while True:
            try:
                urllib.request.urlopen(self.url, timeout=30).read()
            except ConnectionRefusedError:
                continue
            except urllib.error.URLError as error:
                if not isinstance(error.reason, ConnectionRefusedError):
                    raise
                continue
            return

    def kill(self) -> None:
        """End it as a power cut would."""
        self.process.send_signal(signal.SIGKILL)
        self.process.wait()


@pytest.fixture(scope="session")
def application(tmp_path_factory):
    running = Application(tmp_path_factory.mktemp("served"))
    yield running
    running.kill()


@pytest.fixture(scope="session")
def photograph(tmp_path_factory):
    """A picture file of 1500 x 1000 pixels with a bright spot and soft gradients."""
    y, x = np.mgrid[0:1000, 0:1500]
    light = 0.25 + 0.4 * np.exp(-((x - 900) ** 2 + (y - 450) ** 2) / 200_000)
    rgb = np.stack([light * 1.05, light, light * 0.85 + 0.05 * np.sin(x / 90)], -1)
    path = tmp_path_factory.mktemp("pictures") / "A studio photograph with a rather long name.png"
    path.write_bytes(png_bytes((np.clip(rgb, 0, 1) * 255).astype(np.uint8)))
    return path


@dataclass
class Bench:
    """The page of a plate, and the hand that works on it."""

    page: Page
    application: object

    @property
    def plate(self) -> int:
        return int(re.search(r"/plates/(\d+)/", self.page.url)[1])

    def current(self):
        """The plate's state as another process reads it from the data folder."""
        store = Store(self.application.folder / "shelf", looked_at=True)
        try:
            return Workshop(store).current(self.plate)
        finally:
            store.close()

    def settle(self):
        """Wait until nothing is under way."""
        self.page.wait_for_selector("body:not([data-busy])")

    def drawn(self):
        """Wait until every point of the stroke in the hand has its pixels on screen."""
        self.page.wait_for_selector("body[data-drawn]")

    def add(self, kind, start="open", leaf="settings"):
        """Add a layer as a hand does, and open a leaf of its desk."""
        self.page.locator("#stage").focus()
        self.page.keyboard.press("a")
        self.page.locator(f'#add [data-start="{start}"]').click()
        self.page.locator(f'[data-add="{kind}"]:visible').first.click()
        expect(self.page.locator(f'#desk[data-kind="{kind}"]')).to_be_visible()
        self.settle()
        if leaf:
            self.leaf(leaf)

    def leaf(self, name):
        """Open a leaf of the desk."""
        self.page.locator(f'#desk [role="tab"][data-leaf="{name}"]').click()

    def way(self, name):
        """Take a way to a mask."""
        self.leaf("mask")
        self.page.locator(f'#desk [data-way="{name}"]').click()
        self.settle()

    @property
    def zoom(self):
        """What the zoom says."""
        return self.page.locator("#zoom").input_value()

    def on_stage(self, x, y):
        """Page coordinates of a share of the stage."""
        box = self.page.locator("#stage").bounding_box()
        return box["x"] + x * box["width"], box["y"] + y * box["height"]

    def drag(self, *places, steps=12):
        mouse = self.page.mouse
        mouse.move(*self.on_stage(*places[0]))
        mouse.down()
        for place in places[1:]:
            mouse.move(*self.on_stage(*place), steps=steps)
        mouse.up()
        self.settle()

    def spot(self, x, y, of=""):
        """The colour on screen at a share of the stage, [r, g, b]; or on a canvas that is named."""
        return self.page.evaluate(
            """([x, y, of]) => {
                const other = document.querySelector('#other');
                const flicked = !other.hidden && getComputedStyle(other).clipPath === 'none';
                const canvas = of ? document.querySelector(of) : flicked ? other : document.querySelector('#canvas');
                const copy = new OffscreenCanvas(1, 1).getContext('2d');
                copy.drawImage(canvas, -Math.round(x * canvas.width), -Math.round(y * canvas.height));
                return [...copy.getImageData(0, 0, 1, 1).data].slice(0, 3);
            }""",
            [x, y, of],
        )

    def opacity_on_desk(self):
        return self.page.locator('#desk input.number[data-field="opacity"]')


def put_on_the_shelf(page, application, photograph):
    """Open a picture as the shelf's page does, without drawing that page; the plate's number."""
    token = re.search(r'name="csrf-token" content="([^"]+)"', page.request.get(application.url).text())[1]
    sent = {"name": photograph.name, "mimeType": "image/png", "buffer": photograph.read_bytes()}
    answer = page.request.post(f"{application.url}/plates", headers={"X-CSRFToken": token}, multipart={"picture": sent})
    return answer.json()["plate"]


@pytest.fixture
def bench(page: Page, application, photograph):
    problems = []
    page.set_default_timeout(PATIENCE)
    page.on("pageerror", lambda error: problems.append(str(error)))
    page.on(
        "console", lambda message: problems.append(message.text) if "Content Security Policy" in message.text else None
    )
    page.goto(f"{application.url}/plates/{put_on_the_shelf(page, application, photograph)}/")
    page.wait_for_selector("body[data-ready]")
    made = Bench(page, application)
    made.settle()
    yield made
    assert problems == []
