"""No request of an installed version waits for a compiler: what warming has compiled is all there is to compile."""

import os
import subprocess
import sys

from glyptic.actions import warm
from glyptic.pixels.kept_code import meaning

SCRIPT = """
import io, sys
import numpy as np
from numba.core.dispatcher import Dispatcher
from glyptic.actions.warm import warm
from glyptic.base.rectangles import Canvas
from glyptic.document.codec import parse_stack
from glyptic.engine.cache import TileCache
from glyptic.engine.plan import make_plan
from glyptic.engine.reader import Reader
from glyptic.engine.render import Rendering, render
from glyptic.engine.shown import shown_in
from glyptic.engine.views import VIEWS, Dress
from glyptic.engine.vocabulary import VOCABULARY
from glyptic.formats.decoded import Metadata
from glyptic.formats.writing import FORMATS, Output, encode_picture
from PIL import Image
from glyptic.formats import read_picture
from glyptic.formats.icc import of_space
from glyptic.formats.wish import Wish
from glyptic.pixels.spaces import DISPLAY_P3, WIDE
from tests.properties.stacks import StackMaker
from tests.conftest import colourful, picture_of

def compiled():
    found = {}
    for name, module in list(sys.modules.items()):
        if name.startswith("glyptic"):
            for attribute, value in vars(module).items():
                if isinstance(value, Dispatcher):
                    found[f"{value.py_func.__module__}.{attribute}"] = {str(s) for s in value.signatures}
    return found

warm()
pauses = []
warm(lambda: pauses.append(1))
assert len(pauses) > 20
before = compiled()
picture = picture_of(colourful(300, 280))
for seed in range(40):
    plan = make_plan(parse_stack(StackMaker(seed, whole=seed % 2 == 1).stack(8), VOCABULARY), lambda source: picture)
    for level in (0, 2):
        made = render(plan, TileCache(), level, depth=16 if level else 8)
    made = Rendering(plan, TileCache(), 1, exact=True).whole()
    layer = list(plan.below)[-1]
    for view in VIEWS.values():
        node = shown_in(view.node(plan, layer, Dress()), DISPLAY_P3)
        Reader(TileCache(), Canvas(300, 280), 1).read(node, Reader(TileCache(), Canvas(300, 280), 1).bounds)
for name, chosen in FORMATS.items():
    for depth in chosen.depths:
        codes = colourful(70, 50) if depth == 16 else colourful(70, 50) >> 8
        samples = np.moveaxis(codes, 0, 2).astype(f"uint{depth}")
        encode_picture(samples, samples[:, :, 0], Output(name, depth), Metadata())
        encode_picture(samples, None, Output(name, depth), Metadata())
buffer = io.BytesIO()
Image.fromarray((colourful(30, 20) >> 8).astype(np.uint8).transpose(1, 2, 0)).save(buffer, "PNG", icc_profile=of_space(DISPLAY_P3))
read_picture(buffer.getvalue())
read_picture(buffer.getvalue(), wish=Wish(WIDE))
for name, signatures in compiled().items():
    late = signatures - before.get(name, set())
    if late:
        print(name, *late)
"""


def test_warming_compiles_everything():
    done = subprocess.run([sys.executable, "-c", SCRIPT], capture_output=True, text=True, timeout=300, check=False)
    assert done.returncode == 0, done.stderr
    assert done.stdout == ""


def test_only_what_a_kernel_runs_decides_whether_it_is_compiled_again():
    """Formulas and constants count, however deep; other functions of the file, and its place, do not."""

    def made(source):
        names = {"__name__": "glyptic.made_up"}
        exec(source, names)
        return meaning(names["kernel"])

    source = (
        "HALF = 0.5\ndef formula(x): return x * HALF\ndef other(x): return x\ndef kernel(x): return formula(x) + 1\n"
    )
    same = (source.replace("other(x): return x", "other(x): return -x"), "\n\n" + source)
    assert {made(text) for text in same} == {made(source)}
    changed = (
        source.replace("HALF = 0.5", "HALF = 0.25"),
        source.replace("x * HALF", "x + HALF"),
        source.replace("+ 1", "+ 2"),
    )
    assert len({made(text) for text in (source, *changed)}) == 4


def test_compiled_code_that_nobody_uses_goes(tmp_path, monkeypatch):
    monkeypatch.setattr(warm, "KEPT", tmp_path)
    for name in ("a-inuse.py311.1.nbc", "a-unused.py311.1.nbc", "a-recent.py311.nbi"):
        (tmp_path / name).touch()
        if "recent" not in name:
            os.utime(tmp_path / name, (0, 0))
    assert warm.sweep_code({"inuse"}) == 1
    assert sorted(path.name.split(".")[0] for path in tmp_path.iterdir()) == ["a-inuse", "a-recent"]


def test_a_start_after_the_first_compiles_nothing_and_starts_no_compiler():
    """However little of the application is loaded when it is asked."""
    warm.compile_all()
    asked = "from glyptic.actions.warm import is_compiled; print(is_compiled())"
    done = subprocess.run([sys.executable, "-c", asked], capture_output=True, text=True, check=True)
    assert done.stdout.strip() == "True"


DAMAGED = """
import sys
from pathlib import Path
import numpy as np
from glyptic.pixels import kept_code
kept_code.KEPT = Path(sys.argv[1])
from glyptic.pixels.quantise import _codes
_codes(np.ones((1, 2, 2), np.float32), np.float32(255), np.zeros((2, 2, 1), np.uint8))
print(sum(_codes.stats.cache_hits.values()))
"""


def test_damaged_code_is_compiled_again_and_never_run(tmp_path):
    """A byte turned in what is kept, or in its index."""

    def hits():
        command = [sys.executable, "-c", DAMAGED, str(tmp_path)]
        return int(subprocess.run(command, capture_output=True, text=True, check=True).stdout)

    assert [hits(), hits()] == [0, 1]
    for suffix in ("*.nbc", "*.nbi"):
        [path] = [path for path in tmp_path.glob(suffix) if "_codes" in path.name]
        content = bytearray(path.read_bytes())
        content[len(content) // 2] ^= 1
        path.write_bytes(content if suffix == "*.nbc" else content[:20])
        assert [hits(), hits()] == [0, 1]
