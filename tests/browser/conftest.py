"""The real application in a process of its own, and Debian's Chromium in front of it."""

from __future__ import annotations

import os
import shutil
import signal
import socket
import subprocess
import sys
import urllib.request

import numpy as np
import pytest

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
