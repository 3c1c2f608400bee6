"""Make or repair the virtual environment. Usage: setup.py runtime [dev]. Needs nothing but Python 3.11 or newer."""

import hashlib
import os
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
    return runs(PYTHON, "-c", HEALTH, input=lock, text=True)


def runs(*command: str | Path, **options: object) -> bool:
    """Whether a command can be run and ends well; what it says is not shown."""
    try:
        return subprocess.run(command, capture_output=True, **options).returncode == 0
    except OSError:
        return False


def make_environment() -> None:
    """Make the environment anew where it is missing or broken. It has no pip: most of making one is installing that."""
    if runs(PYTHON, "-c", ""):
        return
    say("making the virtual environment")
    if subprocess.run([sys.executable, "-m", "venv", "--clear", "--without-pip", VENV]).returncode:
        sys.exit("glyptic: Python cannot make a virtual environment. As root: apt-get install python3-venv")


QUIET = ("install", "--quiet", "--disable-pip-version-check")
UV = VENV / "bin" / "uv"
"""Installs the same packages from the same registry in a fifth of the time; where it does not get on, pip does."""
BUNDLED = """
import ensurepip, glob, os
folder = getattr(ensurepip, "_WHEEL_PKG_DIR", None) or os.path.join(os.path.dirname(ensurepip.__file__), "_bundled")
print(max(glob.glob(os.path.join(folder, "pip-*.whl"))))
"""


def uv_is_here() -> bool:
    """Whether uv can be used; it is fetched the first time, by the pip that comes with Python."""
    if UV.exists():
        return True
    found = subprocess.run([sys.executable, "-c", BUNDLED], capture_output=True, text=True)
    pip = {**os.environ, "PYTHONPATH": found.stdout.strip()}
    return found.returncode == 0 and runs(PYTHON, "-m", "pip", *QUIET, "uv", env=pip)


def install(*arguments: str | Path) -> None:
    """Install packages of a lock, which names every one there is to be."""
    if uv_is_here() and runs(UV, "pip", "install", "--quiet", "--python", PYTHON, *arguments):
        return
    if not runs(PYTHON, "-m", "pip", "--version"):
        subprocess.run([PYTHON, "-m", "ensurepip"], stdout=subprocess.DEVNULL)
    if subprocess.run([PYTHON, "-m", "pip", *QUIET, *arguments]).returncode:
        sys.exit("glyptic: the packages could not be installed; see above. Run the same command again to go on.")


def compile_bytecode() -> None:
    """Python's own compiling, by as many processes as there are processors; tests of packages are left out, and what is
    wanted by a few pages only waits until then."""
    left_out = "[/]tests?[/]|/(scipy|skimage|networkx|imageio|cv2|mypy|hypothesis|playwright)/"
    packages = subprocess.run(
        [PYTHON, "-c", "import sysconfig; print(sysconfig.get_path('purelib'))"], capture_output=True
    )
    folder = packages.stdout.decode().strip()
    runs(PYTHON, "-m", "compileall", "-q", "-j", "0", "-x", left_out, folder, HERE / "src")


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
            install("-r", path, *(("-e", HERE) if name == "runtime" else ()))
            compile_bytecode()
        mark.touch()
    say("compiling what is not compiled yet")
    if subprocess.run([VENV / "bin" / "glyptic", "warm"]).returncode:
        sys.exit("glyptic: the kernels could not be compiled; see above.")


if __name__ == "__main__":
    main(sys.argv[1:] or ["runtime"])
