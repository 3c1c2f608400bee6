"""A request in JSON on standard input; on standard output one line of JSON, and the samples in the file it names.

Request: decoder, path, out, most (pixels), longest (side), asked (what the decoder takes besides). Answer: shape,
dtype, and what came along, bytes in base 64; or `refused`, a sentence; or `large`, the width and height that were too
much.
"""

from __future__ import annotations

import base64
import json
import resource
import sys
from importlib import import_module

from glyptic.decoders.found import Refused, TooLarge

DECODERS = ("heif", "jxl", "avif", "raw")
MOST_MEMORY = 6 * 2**30
MOST_SECONDS = 300


def limit() -> None:
    """No more memory, time or processes than a picture takes; no dump of memory where it fails."""
    resource.setrlimit(resource.RLIMIT_AS, (MOST_MEMORY, MOST_MEMORY))
    resource.setrlimit(resource.RLIMIT_CPU, (MOST_SECONDS, MOST_SECONDS))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))


def answer(request: dict[str, object]) -> dict[str, object]:
    """Decode; whatever goes wrong is told in a sentence."""
    if request["decoder"] not in DECODERS:
        raise Refused("There is no such decoder.")
    decoder = import_module(f"glyptic.decoders.{request['decoder']}")

    def fits(width: int, height: int) -> None:
        if width * height > int(str(request["most"])) or max(width, height) > int(str(request["longest"])):
            raise TooLarge(width, height)

    found = decoder.read(str(request["path"]), fits, request["asked"])
    found.samples.tofile(str(request["out"]))
    plain: dict[str, object] = {"shape": found.samples.shape, "dtype": found.samples.dtype.name}
    for name, value in vars(found).items():
        if name != "samples":
            plain[name] = base64.b64encode(value).decode() if isinstance(value, bytes) else value
    return plain


def main() -> None:
    request = json.loads(sys.stdin.read())
    limit()
    try:
        told = answer(request)
    except TooLarge as error:
        told = {"large": error.args}
    except Refused as error:
        told = {"refused": str(error)}
    except MemoryError:
        told = {"refused": "Decoding it takes more memory than a picture may."}
    except Exception as error:
        told = {"refused": "The file is damaged or cut short.", "why": f"{type(error).__name__}: {error}"}
    sys.stdout.write(json.dumps(told))


if __name__ == "__main__":
    main()
