"""`glyptic`: render a stack file, serve the application, warm the kernels."""

from __future__ import annotations

import argparse
import sys
from collections.abc import Sequence

from glyptic.base.errors import DocumentError, GlypticError
from glyptic.cli import render, serve, warm


def main(arguments: Sequence[str] | None = None) -> int:
    """Run a command; returns the exit status, 2 for input that cannot be used."""
    parser = argparse.ArgumentParser(prog="glyptic", description="Layers of light for photo retouchers.")
    commands = parser.add_subparsers(dest="command", required=True)
    for module in (render, serve, warm):
        module.declare(commands)
    options = parser.parse_args(arguments)
    try:
        options.run(options)
    except DocumentError as error:
        for fault in error.faults:
            print(fault, file=sys.stderr)
        return 2
    except GlypticError as error:
        print(error, file=sys.stderr)
        return 2
    except KeyboardInterrupt:
        return 130
    return 0


if __name__ == "__main__":
    sys.exit(main())
