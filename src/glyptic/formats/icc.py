"""Writing colour profiles (ICC.1:2022, version 4): those of the working spaces, from the spaces themselves, and those a
table of inks is measured for."""

from __future__ import annotations

import struct
from functools import cache
from hashlib import md5

import numpy as np
from numpy.typing import NDArray

from glyptic.pixels.spaces import WHITE, Matrix, Space, xyz_of

D50 = np.array([0.9642, 1.0, 0.8249])
"""The white of the profile connection space, as the standard rounds it."""
BRADFORD = np.array([[0.8951, 0.2664, -0.1614], [-0.7502, 1.7135, 0.0367], [0.0389, -0.0685, 1.0296]])
VERSION = 0x04400000
HEADER = 128
CURVE = (2.4, 1 / 1.055, 0.055 / 1.055, 1 / 12.92, 0.04045)
"""g, a, b, c, d of the parametric curve of type 3 that is the transfer function (IEC 61966-2-1)."""
MADE = (2026, 11, 1, 0, 0, 0)
RIGHTS = "No rights reserved."


def adapted(white: Matrix) -> Matrix:
    """XYZ under a white to XYZ under D50 (Bradford), as annex E of the standard has it."""
    cones = (BRADFORD @ D50) / (BRADFORD @ white)
    return np.asarray(np.linalg.inv(BRADFORD) @ np.diag(cones) @ BRADFORD)


def fixed(values: NDArray[np.float64]) -> bytes:
    """s15Fixed16Numbers."""
    return np.round(np.asarray(values, np.float64) * 65536).astype(">i4").tobytes()


def words(text: str) -> bytes:
    """A multi-localised text of one language."""
    coded = text.encode("utf-16-be")
    return b"mluc" + struct.pack(">III2s2sII", 0, 1, 12, b"en", b"GB", len(coded), 28) + coded


def xyz(values: Matrix) -> bytes:
    return b"XYZ \0\0\0\0" + fixed(values)


def profile(kind: bytes, colours: bytes, connects: bytes, title: str, tags: dict[bytes, bytes]) -> bytes:
    """A profile's bytes. kind: as b"mntr"; colours, connects: the device's and the connection space, as b"RGB "."""
    every = {b"desc": words(title), b"cprt": words(RIGHTS), b"wtpt": xyz(D50), **tags}
    at, table, content = HEADER + 4 + 12 * len(every), b"", b""
    placed: dict[bytes, int] = {}
    for name, data in every.items():
        if data not in placed:
            placed[data] = at + len(content)
            content += data + b"\0" * (-len(data) % 4)
        table += struct.pack(">4sII", name, placed[data], len(data))
    size = at + len(content)
    head = struct.pack(
        ">I4sI4s4s4s6H4s4sI4s4s8sI12s4s16s28s", size, b"", VERSION, kind, colours, connects, *MADE, b"acsp", b"", 0,
        b"", b"", b"", 1, fixed(D50), b"", b"", b"",
    )  # fmt: skip
    whole = head + struct.pack(">I", len(every)) + table + content
    return whole[:84] + md5(whole, usedforsecurity=False).digest() + whole[100:]


@cache
def of_space(space: Space) -> bytes:
    """The profile of a working space: its primaries under D50, and the curve all of them have."""
    to_d50 = adapted(xyz_of(*WHITE))
    columns = (to_d50 @ space.to_xyz).T
    curve = b"para\0\0\0\0" + struct.pack(">HH", 3, 0) + fixed(np.array(CURVE))
    tags = {b"chad": b"sf32\0\0\0\0" + fixed(to_d50.ravel())}
    tags |= {name: xyz(column) for name, column in zip((b"rXYZ", b"gXYZ", b"bXYZ"), columns, strict=True)}
    tags |= dict.fromkeys((b"rTRC", b"gTRC", b"bTRC"), curve)
    return profile(b"mntr", b"RGB ", b"XYZ ", space.title, tags)
