"""`glyptic serve`: where plates are kept, and what a port in use gets."""

import os
import socket
import subprocess
import sys

import platformdirs

from glyptic.cli.main import main
from glyptic.cli.serve import data_folder


def test_the_demo_never_mixes_with_a_users_plates(tmp_path):
    for given in (None, tmp_path):
        own, demo = data_folder(given, demo=False), data_folder(given, demo=True)
        assert own != demo and own not in demo.parents and demo not in own.parents
    assert platformdirs.user_data_path("glyptic") in data_folder(None, demo=False).parents


def test_a_port_in_use_gets_a_sentence(tmp_path, capsys):
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        port = str(taken.getsockname()[1])
        assert main(["serve", "--data", str(tmp_path), "--port", port]) == 2
    assert "--port" in capsys.readouterr().err and not list(tmp_path.iterdir())


def test_a_home_that_cannot_be_written_is_no_hindrance():
    code = "from glyptic.pixels.kept_code import kept_folder; print(kept_folder())"
    environment = {**os.environ, "HOME": "/proc", "XDG_CACHE_HOME": "/proc/cache"}
    result = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, env=environment, check=True)
    assert "/proc" not in result.stdout
