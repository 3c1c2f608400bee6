"""Words travel: read from what a file carries, written into all of it alike, and only what may leaves."""

import io
import json
import subprocess

import exiv2
import numpy as np
import pytest
import tifffile
from PIL import Image

from glyptic.actions.captions import file_words, words_of, write_some, write_words
from glyptic.actions.history import undo
from glyptic.actions.open_picture import open_picture
from glyptic.base.errors import DocumentError
from glyptic.cli.main import main
from glyptic.document.words import WORDS
from glyptic.formats import read_picture
from glyptic.formats.decoded import Metadata
from glyptic.formats.words import leaving, words_in
from glyptic.formats.writing import FORMATS, Output, encode_picture
from tests.conftest import colourful

TOLD = {
    "title": "Vase trio „114“", "caption": "Three vases on linen, Käthe's", "creator": "Ana Prieto",
    "copyright": "© 2026 The museum", "rights": "Press use only", "keywords": ["vase", "ländlich, blue"],
}  # fmt: skip
EIGHT = np.moveaxis(colourful(40, 30) >> 8, 0, 2).astype(np.uint8)


def values(**words):
    return WORDS.parse({**TOLD, **words}, "", [])


def photograph():
    """A JPEG with a place, a camera, a caption of its own, and something nobody knows."""
    exif = Image.Exif()
    exif[0x010F], exif[0x010E], exif[0xC4A5] = "Practice", "as it came", b"PrintIM\x000300"
    exif.get_ifd(0x8769)[0x9003] = "2026:01:02 03:04:05"
    exif.get_ifd(0x8825).update({1: "N", 2: (52.0, 30.0, 1.0)})
    buffer = io.BytesIO()
    xmp = (
        '<rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#"><rdf:Description xmlns:own="http://museum.example/ns/" '
        f'xmlns:exif="{exiv2.XmpProperties.ns("exif")}" rdf:about="" own:shelf="B7" exif:GPSLatitude="52,30.0N"/></rdf:RDF>'
    ).encode()
    Image.fromarray(EIGHT).save(buffer, "JPEG", exif=exif, xmp=xmp)
    return buffer.getvalue()


@pytest.fixture
def came():
    return read_picture(photograph()).metadata


def test_a_files_own_words_are_read(came):
    assert words_in(came)["caption"] == "as it came" and words_in(came)["keywords"] == ()
    assert words_in(Metadata()) == WORDS.defaults


@pytest.mark.parametrize("name", [name for name in FORMATS if name != "jxl"])
def test_words_are_in_every_block_and_read_again_from_every_format(came, name):
    told = leaving(came, values())
    again = read_picture(encode_picture(EIGHT, None, Output(name), told)).metadata
    assert words_in(again) == values()
    for blocks in (Metadata(exif=again.exif), Metadata(xmp=again.xmp), Metadata(iptc=again.iptc)):
        if blocks != Metadata():
            found = words_in(blocks)
            assert found["caption"] == TOLD["caption"] and found["creator"] == TOLD["creator"]
    assert b"B7" in again.xmp, "what nobody knows is kept"


def test_the_place_leaves_only_where_it_is_asked_for(came):
    def places(metadata):
        exif = Image.Exif()
        exif.load(b"Exif\0\0" + metadata.exif)
        return bool(exif.get_ifd(0x8825)), b"GPS" in metadata.xmp

    assert places(came) == (True, True)
    assert places(leaving(came, None)) == (False, False)
    assert places(leaving(came, None, place=True)) == (True, True)


def test_rights_alone_or_nothing_leaves(came):
    rights = words_in(leaving(came, values(), "rights"))
    assert {name for name in WORDS.params if rights[name]} == {"creator", "copyright", "rights"}
    assert b"Practice" not in leaving(came, values(), "rights").exif
    assert leaving(came, values(), "none") == Metadata(notes=came.notes)


def test_a_library_that_dies_costs_the_metadata_and_nothing_else(came, monkeypatch):
    def dies(*args, **more):
        raise subprocess.CalledProcessError(-11, "decoder")

    monkeypatch.setattr(subprocess, "run", dies)
    assert leaving(came, values()) == Metadata(notes=came.notes) and words_in(came) == WORDS.defaults


def test_words_are_steps_and_can_be_the_files_again(shop):
    plate = open_picture(shop, photograph(), "one.jpg")
    assert words_of(shop, shop.current(plate))["caption"] == "as it came"
    current = write_words(shop, plate, shop.current(plate).revision, TOLD)
    assert words_of(shop, current) == values()
    back = undo(shop, plate, current.revision)
    assert words_of(shop, back) == file_words(shop, back.asset)
    with pytest.raises(DocumentError):
        write_words(shop, plate, back.revision, {**TOLD, "title": 7})


def test_some_words_are_written_on_many_and_the_rest_stays(shop):
    plates = [open_picture(shop, photograph(), f"{i}.jpg") for i in range(3)]
    write_words(shop, plates[0], shop.current(plates[0]).revision, TOLD)
    write_some(shop, plates, {"copyright": "© 2027"})
    found = [words_of(shop, shop.current(plate)) for plate in plates]
    assert [words["copyright"] for words in found] == ["© 2027"] * 3
    assert [words["caption"] for words in found] == [TOLD["caption"], "as it came", "as it came"]
    with pytest.raises(DocumentError):
        write_some(shop, plates, {"copyright": "x" * 400})
    assert [words_of(shop, shop.current(plate))["copyright"] for plate in plates] == ["© 2027"] * 3


def test_the_command_writes_the_words_of_the_stack_file(tmp_path):
    (tmp_path / "in.jpg").write_bytes(photograph())
    base = {"kind": "picture", "source": "in.jpg"}
    (tmp_path / "s.json").write_text(
        json.dumps({"format": "glyptic-stack", "version": 1, "layers": [base], "words": TOLD})
    )
    out = tmp_path / "out.tif"
    assert main(["render", str(tmp_path / "s.json"), str(out), "--metadata", "rights"]) == 0
    words = words_in(read_picture(out).metadata)
    assert words["creator"] == TOLD["creator"] and not words["title"]
    assert tifffile.TiffFile(out).pages[0].tags["Copyright"].value.encode("latin-1", "ignore")
