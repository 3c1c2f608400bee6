"""Copy the front-end libraries from node_modules into the application. Run `npm ci` in this folder first."""

import shutil
from pathlib import Path

HERE = Path(__file__).parent
TARGET = HERE.parent / "src" / "glyptic" / "web" / "static" / "vendor"
MODULES = HERE / "node_modules"
FILES = {
    "bootstrap/dist/css/bootstrap.min.css": "bootstrap.min.css",
    "htmx.org/dist/htmx.min.js": "htmx.min.js",
    "idiomorph/dist/idiomorph.esm.js": "idiomorph.esm.js",
    "sortablejs/modular/sortable.esm.js": "sortable.esm.js",
    "@fontsource-variable/source-sans-3/files/source-sans-3-latin-wght-normal.woff2": "source-sans-3.woff2",
    "@fontsource-variable/source-sans-3/LICENSE": "source-sans-3-LICENSE",
}

TARGET.mkdir(parents=True, exist_ok=True)
for source, name in FILES.items():
    shutil.copyfile(MODULES / source, TARGET / name)
