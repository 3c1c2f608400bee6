"""Writing from bands and reading into room that may lie on disk: the same files, however the rows came."""

import io

import numpy as np
import pytest
import tifffile
from PIL import Image

from glyptic.formats import FORMATS, Metadata, Output, Sheet, read_picture
from glyptic.formats import room as rooms
from glyptic.formats.sheet import in_order, strips
from glyptic.formats.writing import encode_picture, write_picture
from tests.conftest import colourful

WIDTH, HEIGHT = 130, 301


def samples(depth, channels=3):
    planes = np.concatenate([colourful(WIDTH, HEIGHT), colourful(WIDTH, HEIGHT, 6)[:1]])[:channels]
    plain = np.moveaxis(planes, 0, 2)
    return plain if depth == 16 else (plain >> 8).astype(np.uint8)


def cut(array, heights):
    """The rows of an array in bands of the heights given, over and over."""
    top = 0
    while top < len(array):
        for height in heights:
            yield array[top : top + height]
            top += height


@pytest.mark.parametrize("heights", [(1,), (64,), (7, 130), (500,), (256, 45)])
@pytest.mark.parametrize("rows", [1, 64, 100, 999])
def test_strips_are_the_bands_cut_anew(heights, rows):
    array = samples(8)
    found = list(strips(cut(array, heights), rows))
    assert np.array_equal(np.concatenate(found), array)
    assert {len(strip) for strip in found[:-1]} <= {rows} and 0 < len(found[-1]) <= rows


def test_work_done_at_once_comes_in_order_and_an_error_comes_through():
    assert list(in_order(lambda n: int(n[0]) ** 2, (np.array([n]) for n in range(50)))) == [n * n for n in range(50)]
    with pytest.raises(ZeroDivisionError):
        list(in_order(lambda n: 1 // int(n[0]), (np.array([n]) for n in (3, 2, 1, 0, 1))))


@pytest.mark.parametrize("name", FORMATS)
@pytest.mark.parametrize("depth", [8, 16])
@pytest.mark.parametrize("channels", [3, 4])
def test_a_file_is_the_same_however_its_bands_were_cut(tmp_path, name, depth, channels):
    if depth not in FORMATS[name].depths or (channels == 4 and not FORMATS[name].has_alpha):
        pytest.skip(f"{name} has no such samples")
    array, output = samples(depth, channels), Output(name, depth)
    whole = encode_picture(array[:, :, :3], array[:, :, 3] if channels == 4 else None, output, Metadata())
    sheet = Sheet(WIDTH, HEIGHT, channels, depth)
    for heights in ((256, 45), (5, 90, 64)):
        write_picture(tmp_path / "out", sheet, cut(array, heights), output, Metadata())
        assert (tmp_path / "out").read_bytes() == whole


@pytest.mark.parametrize("depth", [8, 16])
@pytest.mark.parametrize("channels", [3, 4])
def test_others_read_what_was_written_in_strips(depth, channels):
    array = samples(depth, channels)
    alpha = array[:, :, 3] if channels == 4 else None
    tiff = encode_picture(array[:, :, :3], alpha, Output("tiff", depth), Metadata())
    assert np.array_equal(tifffile.imread(io.BytesIO(tiff)), array)
    png = encode_picture(array[:, :, :3], alpha, Output("png", depth), Metadata())
    seen = np.asarray(Image.open(io.BytesIO(png)))
    assert np.array_equal(seen, array if depth == 8 else (array >> 8).astype(np.uint8))
    assert len(png) < array.nbytes


def test_an_error_on_the_way_leaves_no_file(tmp_path):
    def broken():
        yield samples(8)[:100]
        raise RuntimeError("the rendering failed")

    for name in FORMATS:
        with pytest.raises(RuntimeError, match="rendering"):
            write_picture(tmp_path / "out", Sheet(WIDTH, HEIGHT, 3, 8), broken(), Output(name), Metadata())
        assert list(tmp_path.iterdir()) == []


@pytest.mark.parametrize("orientation", [1, 6, 3])
@pytest.mark.parametrize("kind", ["TIFF", "PNG"])
def test_what_lies_on_disk_is_what_lies_in_memory(tmp_path, monkeypatch, kind, orientation):
    exif = Image.Exif()
    exif[0x0112] = orientation
    path = tmp_path / "picture"
    Image.fromarray(samples(8, 4)).save(path, kind, exif=exif)
    in_memory = read_picture(path.read_bytes())
    monkeypatch.setattr(rooms, "SPILLED_FROM", 1)
    on_disk = read_picture(path)
    rooms.let_go(on_disk.codes)
    assert np.array_equal(on_disk.codes, in_memory.codes) and np.array_equal(on_disk.alpha, in_memory.alpha)
    assert on_disk.codes.shape == ((3, WIDTH, HEIGHT) if orientation == 6 else (3, HEIGHT, WIDTH))


@pytest.mark.parametrize(("width", "height"), [(130, 2600), (65000, 37), (8, 8), (17, 257)])
def test_a_jpeg_of_strips_shows_what_one_coded_in_a_piece_does(tmp_path, width, height):
    array = np.random.default_rng(3).integers(0, 256, (height, width, 3), np.uint8)
    write_picture(tmp_path / "out", Sheet(width, height, 3, 8), cut(array, (90, 7)), Output("jpeg", 8, 85), Metadata())
    piece = io.BytesIO()
    Image.fromarray(array).save(piece, "JPEG", quality=85, subsampling=0)
    assert np.array_equal(Image.open(tmp_path / "out"), Image.open(piece))
