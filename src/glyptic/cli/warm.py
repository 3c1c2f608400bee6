"""`glyptic warm`: compile every kernel once, so that no request waits for a compiler."""

from __future__ import annotations

import argparse
from typing import Any


def declare(commands: Any) -> None:
    parser = commands.add_parser("warm", help="compile the kernels (part of the installation)")
    parser.set_defaults(run=run)


def run(options: argparse.Namespace) -> None:
    from glyptic.actions.warm import compile_all

    compile_all()
