"""Make the faces of PDFs from the web font (run `npm ci` in vendor first; needs the brotli module).

The web font comes in a file for each script, all weights in one; a PDF wants one file for a weight.
"""

import sys
from pathlib import Path
from tempfile import TemporaryDirectory

from fontTools.merge import Merger
from fontTools.ttLib import TTFont
from fontTools.varLib.instancer import instantiateVariableFont

ROOT = Path(__file__).resolve().parents[1]
FILES = ROOT / "vendor" / "node_modules" / "@fontsource-variable" / "source-sans-3" / "files"
TARGET = ROOT / "src" / "glyptic" / "formats" / "fonts"
SCRIPTS = ("latin", "latin-ext", "greek", "cyrillic")
WEIGHTS = (400, 650)

TARGET.mkdir(exist_ok=True)
for weight in WEIGHTS:
    with TemporaryDirectory() as made:
        parts = []
        for script in SCRIPTS:
            font = instantiateVariableFont(
                TTFont(FILES / f"source-sans-3-{script}-wght-normal.woff2"), {"wght": weight}
            )
            font.flavor = None
            for table in ("GSUB", "GPOS", "GDEF", "STAT"):
                if table in font:
                    del font[table]
            path = Path(made) / f"{script}.ttf"
            font.save(path)
            parts.append(str(path))
        merged = Merger().merge(parts)
        merged.save(TARGET / f"source-sans-3-{weight}.ttf")
        sys.stdout.write(f"{weight}: {len(merged.getBestCmap())} characters\n")
