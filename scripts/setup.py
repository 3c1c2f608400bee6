"""Make or repair the virtual environment. Usage: setup.py runtime [dev]. Needs nothing but Python 3.11 or newer."""

import hashlib
import subprocess
import sys
from pathlib import Path

HERE = Path(__file__).resolve().parents[1]
VENV = HERE / ".venv"
PYTHON = VENV / "bin" / "python"
HEALTH = """
import sys
from importlib.metadata import PackageNotFoundError, version
for line in sys.stdin.read().split():
    name, wanted = line.split("==")
    try:
        found = version(name)
    except PackageNotFoundError:
        sys.exit(f"{name} is missing")
    if found != wanted:
        sys.exit(f"{name} is {found}, not {wanted}")
version("glyptic")
"""


def say(text: str) -> None:
    sys.stdout.write(f"glyptic: {text}\n")
    sys.stdout.flush()


def healthy(lock: str) -> bool:
    """Whether every pinned package is there in its version."""
    try:
        return subprocess.run([PYTHON, "-c", HEALTH], input=lock, text=True, capture_output=True).returncode == 0
    except OSError:
        return False


def make_environment() -> None:
    """Make the environment anew where it is missing or broken."""
    try:
        works = subprocess.run([PYTHON, "-m", "pip", "--version"], capture_output=True).returncode == 0
    except OSError:
        works = False
    if works:
        return
    say("making the virtual environment")
    if subprocess.run([sys.executable, "-m", "venv", "--clear", VENV]).returncode:
        sys.exit("glyptic: Python cannot make a virtual environment. As root: apt-get install python3-venv")


PIP = (PYTHON, "-m", "pip", "install", "--quiet", "--disable-pip-version-check")
UV = "uv"
"""Installs the same packages from the same registry in a fifth of the time; where it does not get on, pip does."""


def install(*arguments: str | Path) -> None:
    if uv_is_here():
        quick = [VENV / "bin" / UV, "pip", "install", "--quiet", "--python", PYTHON, *arguments]
        if subprocess.run(quick, stderr=subprocess.DEVNULL).returncode == 0:
            return
    if subprocess.run([*PIP, *arguments]).returncode:
        sys.exit("glyptic: the packages could not be installed; see above. Run the same command again to go on.")


def uv_is_here() -> bool:
    """Whether uv can be used; it is fetched the first time."""
    return (VENV / "bin" / UV).exists() or subprocess.run([*PIP, UV], stderr=subprocess.DEVNULL).returncode == 0


def main(locks: list[str]) -> None:
    if sys.version_info < (3, 11):
        sys.exit("glyptic: Python 3.11 or newer is needed.")
    make_environment()
    for name in locks:
        path = HERE / "requirements" / f"{name}.txt"
        lock = path.read_text()
        mark = VENV / f".{name}-{hashlib.sha256(lock.encode()).hexdigest()[:16]}"
        if not (mark.exists() and healthy(lock)):
            say(f"installing the {name} packages")
            install("-r", path)
            if name == "runtime":
                install("--no-deps", "-e", HERE)
            mark.touch()
    say("compiling what is not compiled yet")
    if subprocess.run([VENV / "bin" / "glyptic", "warm"]).returncode:
        sys.exit("glyptic: the kernels could not be compiled; see above.")


if __name__ == "__main__":
    main(sys.argv[1:] or ["runtime"])
