"""No kernel reads or writes beyond its arrays: compiled with the compiler's own checks, random stacks are drawn."""

import os
import subprocess
import sys

SCRIPT = """
from glyptic.document.codec import parse_stack
from glyptic.engine.cache import TileCache
from glyptic.engine.plan import make_plan
from glyptic.engine.render import Rendering
from glyptic.engine.vocabulary import VOCABULARY
from tests.properties.stacks import StackMaker
from tests.properties.test_against_whole import picture_of

for seed in range(5):
    for what in ("", "isolated", "whole", "framed"):
        maker = StackMaker(seed, isolated=what == "isolated", whole=what == "whole", framed=what == "framed")
        base, stack, laid = maker.base(), maker.stack(), maker.laid()
        pictures = {"base.png": picture_of(base, b"base"), "laid.png": picture_of(laid, b"laid")}
        plan = make_plan(parse_stack(stack, VOCABULARY), pictures.__getitem__)
        for level, exact in ((0, False), (2, False), (2, True)):
            Rendering(plan, TileCache(), level, depth=16, exact=exact).whole()
print("drawn")
"""


def test_no_kernel_goes_beyond_its_arrays(tmp_path):
    checked = {**os.environ, "NUMBA_BOUNDSCHECK": "1", "XDG_CACHE_HOME": str(tmp_path)}
    done = subprocess.run([sys.executable, "-c", SCRIPT], check=False, env=checked, capture_output=True, text=True)
    assert done.stdout == "drawn\n", done.stderr[-2000:]
