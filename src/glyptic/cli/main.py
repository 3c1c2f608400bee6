"""`glyptic`: render a stack file, apply a kit, serve the application, keep archives, check, restore, warm."""

from __future__ import annotations

import argparse
import re
import sys
from collections.abc import Sequence

from glyptic import __version__
from glyptic.base.errors import DocumentError, GlypticError
from glyptic.cli import archive, check, kit, render, restore, serve, warm

NEGATIVE = re.compile(r"-[\d.]")


def main(arguments: Sequence[str] | None = None) -> int:
    """Run a command; returns the exit status, 2 for input that cannot be used."""
    parser = argparse.ArgumentParser(prog="glyptic", description="Layers of light for photo retouchers.")
    parser.add_argument("--version", action="version", version=f"Glyptic {__version__}")
    commands = parser.add_subparsers(dest="command", required=True)
    for module in (render, kit, serve, archive, check, restore, warm):
        module.declare(commands)
    options = parser.parse_args(_joined(sys.argv[1:] if arguments is None else arguments))
    try:
        return int(options.run(options) or 0)
    except DocumentError as error:
        for fault in error.faults:
            print(fault, file=sys.stderr)
        return 2
    except GlypticError as error:
        print(error, file=sys.stderr)
        return 2
    except KeyboardInterrupt:
        return 130


def _joined(arguments: Sequence[str]) -> list[str]:
    """Join an option to a value that starts with a minus, as in ``--region -10,-10,50,50``; argparse would not."""
    out: list[str] = []
    for word in arguments:
        if NEGATIVE.match(word) and out and out[-1].startswith("--") and "=" not in out[-1]:
            out[-1] = f"{out[-1]}={word}"
        else:
            out.append(word)
    return out


if __name__ == "__main__":
    sys.exit(main())
