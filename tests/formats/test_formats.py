"""Picture files: what is read, written and refused; profiles, metadata and orientation."""

import contextlib
import io
import os
import struct
import tracemalloc
import zlib

import imagecodecs
import numpy as np
import pytest
import tifffile
from PIL import Image, ImageCms, ImageOps

from glyptic.base.errors import ExportError, PictureError, PictureTooLarge
from glyptic.formats import FORMATS, Metadata, Output, read_picture
from glyptic.formats.exif import load
from glyptic.formats.writing import encode_picture, write_whole
from tests.conftest import colourful, png_bytes
from tests.oracle.formulas import enc

EXIF_IFD = 0x8769


def samples(depth=8, channels=3, width=60, height=40):
    codes = colourful(width, height)
    planes = np.concatenate([codes, codes[:1]])[:channels]
    plain = np.moveaxis(planes, 0, 2)
    return plain if depth == 16 else (plain >> 8).astype(np.uint8)


def camera_block():
    exif = Image.Exif()
    exif[0x010F], exif[0x0110], exif[0x8298] = "Maker", "Model", "Rights"
    exif.get_ifd(EXIF_IFD).update({0x8827: 200, 0x829A: (1, 125), 0x9003: "2024:03:12 10:20:00"})
    return exif.tobytes().removeprefix(b"Exif\x00\x00")


def file_of(array, kind, **options):
    buffer = io.BytesIO()
    if kind == "TIFF":
        tifffile.imwrite(buffer, array, **options)
    else:
        Image.fromarray(array).save(buffer, kind, **options)
    return buffer.getvalue()


@pytest.mark.parametrize("name", FORMATS)
@pytest.mark.parametrize("depth", [8, 16])
@pytest.mark.parametrize("channels", [3, 4])
def test_what_is_written_is_read_again(name, depth, channels):
    if depth not in FORMATS[name].depths:
        pytest.skip(f"{name} has no {depth} bits")
    array = samples(depth, channels)
    alpha = array[:, :, 3] if channels == 4 else None
    data = encode_picture(array[:, :, :3], alpha, Output(name, depth, 100), Metadata(camera_block()))
    decoded = read_picture(data)
    scale = 257 if depth == 8 else 1
    error = np.abs(np.moveaxis(decoded.codes, 0, 2).astype(int) - array[:, :, :3].astype(int) * scale)
    assert error.max() <= {"jpg": 12 * 257, "avif": 4 * 257}.get(name, 0)
    assert (decoded.alpha is not None) == (channels == 4 and FORMATS[name].has_alpha)
    assert decoded.depth == depth and decoded.metadata.notes == ()
    kept = load(decoded.metadata.exif)
    assert (kept[0x010F], kept[0x8298], kept.get_ifd(EXIF_IFD)[0x8827]) == ("Maker", "Rights", 200)


@pytest.mark.parametrize("name", FORMATS)
def test_the_profile_and_the_metadata_are_embedded_for_others_to_read(name):
    data = encode_picture(samples(), None, Output(name), Metadata(camera_block()))
    if name == "jxl":
        import pillow_jxl  # noqa: F401  (tells Pillow of the format)
    image = Image.open(io.BytesIO(data))
    profile = ImageCms.ImageCmsProfile(io.BytesIO(image.info["icc_profile"]))
    assert "sRGB" in ImageCms.getProfileDescription(profile)
    exif = image.getexif()
    assert exif[0x0110] == "Model" and exif.get_ifd(EXIF_IFD)[0x9003] == "2024:03:12 10:20:00"


@pytest.mark.parametrize("orientation", range(1, 9))
def test_exif_orientation_is_applied_once(orientation):
    exif = Image.Exif()
    exif[0x0112] = orientation
    data = file_of(samples(), "PNG", exif=exif)
    expected = np.asarray(ImageOps.exif_transpose(Image.open(io.BytesIO(data))))
    decoded = read_picture(data)
    assert np.array_equal(np.moveaxis(decoded.codes, 0, 2), expected.astype(np.uint16) * 257)
    assert 0x0112 not in load(decoded.metadata.exif)


@pytest.mark.parametrize(
    ("array", "kind", "options"),
    [
        (samples()[:, :, 0], "PNG", {}), (samples()[:, :, 0], "JPEG", {}), (samples(16)[:, :, 0], "TIFF", {}),
        (samples()[:, :, 0], "TIFF", {"photometric": "minisblack"}),
    ],
)  # fmt: skip
def test_grey_pictures_become_rgb(array, kind, options):
    decoded = read_picture(file_of(array, kind, **options))
    assert np.array_equal(decoded.codes[0], decoded.codes[2]) and np.ptp(decoded.codes) > 0


def test_other_forms_are_read():
    rgb = Image.fromarray(samples())
    for image, kind in (
        (rgb.convert("P"), "PNG"),
        (rgb.convert("CMYK"), "JPEG"),
        (rgb.convert("1"), "PNG"),
        (rgb.convert("LA"), "PNG"),
    ):
        buffer = io.BytesIO()
        image.save(buffer, kind)
        assert read_picture(buffer.getvalue()).codes.shape == (3, 40, 60)
    planar = file_of(np.moveaxis(samples(16), 2, 0), "TIFF", photometric="rgb", planarconfig="separate")
    assert np.array_equal(read_picture(planar).codes, colourful(60, 40))


def test_premultiplied_alpha_is_taken_apart():
    array = np.zeros((4, 4, 4), np.uint8)
    array[:] = (60, 30, 0, 120)
    decoded = read_picture(file_of(array, "TIFF", photometric="rgb", extrasamples=["assocalpha"]))
    assert (decoded.codes[:, 0, 0] // 257).tolist() == [128, 64, 0] and decoded.alpha[0, 0, 0] == 120 * 257


SRGB_PRIMARIES = [0.64, 0.33, 1, 0.3, 0.6, 1, 0.15, 0.06, 1]


def profile(kind="rgb", gamma=None, name=None):
    """A made-up profile: sRGB under another name, or sRGB's primaries (or grey) with a power of its own."""
    if gamma and kind == "gray":
        return imagecodecs.cms_profile("gray", gamma=gamma)
    if gamma:
        return imagecodecs.cms_profile("rgb", whitepoint=[0.3127, 0.329, 1.0], primaries=SRGB_PRIMARIES, gamma=gamma)
    made = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
    return made if name is None else made.replace("sRGB".encode("utf-16-be"), name.encode("utf-16-be"))


def test_a_profile_that_does_as_srgb_is_srgb_whatever_it_is_called():
    decoded = read_picture(file_of(samples(), "PNG", icc_profile=profile(name="wide")))
    assert decoded.metadata.notes == ()
    assert np.array_equal(np.moveaxis(decoded.codes, 0, 2), samples().astype(np.uint16) * 257)


def test_a_linear_profile_is_converted_with_a_note_whatever_it_is_called(monkeypatch):
    monkeypatch.setattr("glyptic.formats.profiles.describe", lambda profile: "sRGB, linear")
    decoded = read_picture(file_of(samples(16), "TIFF", photometric="rgb", iccprofile=profile(gamma=1.0)))
    assert decoded.metadata.notes == ("Converted from sRGB, linear to sRGB on reading.",)
    expected = enc(colourful(60, 40) / 65535)
    assert np.abs(decoded.codes / 65535 - expected).max() < 2e-3


@pytest.mark.parametrize("depth", [8, 16])
def test_the_profile_of_a_grey_picture_counts(depth):
    plain = samples(depth)[:, :, 0]
    decoded = read_picture(file_of(plain, "TIFF", photometric="minisblack", iccprofile=profile("gray", gamma=1.0)))
    assert "Converted from" in decoded.metadata.notes[0]
    assert np.abs(decoded.codes[0] / 65535 - enc(plain / (2**depth - 1))).max() < 2e-3


def test_a_broken_profile_of_a_grey_picture_is_told():
    decoded = read_picture(file_of(samples()[:, :, 0], "PNG", icc_profile=b"nonsense" * 20))
    assert "could not be used" in decoded.metadata.notes[0]


def test_a_broken_profile_is_told_and_the_picture_opened():
    decoded = read_picture(file_of(samples(), "PNG", icc_profile=b"nonsense" * 20))
    assert any("could not be used" in note for note in decoded.metadata.notes)


def bomb(width=100_000, height=100_000):
    def chunk(kind, content):
        return struct.pack(">I", len(content)) + kind + content + struct.pack(">I", zlib.crc32(kind + content))

    header = struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0)
    return (
        b"\x89PNG\r\n\x1a\n"
        + chunk(b"IHDR", header)
        + chunk(b"IDAT", zlib.compress(bytes(10_000)))
        + chunk(b"IEND", b"")
    )


def test_a_bomb_is_refused_by_its_header():
    with pytest.raises(PictureTooLarge, match="megapixels"):
        read_picture(bomb())


@pytest.mark.parametrize("kind", ["PNG", "JPEG", "TIFF"])
@pytest.mark.parametrize("depth", [8, 16])
def test_a_file_cut_short_is_refused_wherever_it_is_cut(kind, depth):
    if kind == "JPEG" and depth == 16:
        pytest.skip("JPEG has 8 bits")
    data = (
        file_of(samples(depth), kind)
        if depth == 8 or kind == "TIFF"
        else encode_picture(samples(16), None, Output("png", 16), Metadata())
    )
    for share in (0.02, 0.3, 0.7, 0.95):
        with pytest.raises(PictureError):
            read_picture(data[: int(len(data) * share)])


@pytest.mark.parametrize(
    "data", [b"", b"hello", b"GIF89a" + bytes(50), b"%PDF-1.7", b"\x89PNG\r\n\x1a\n", b"\xff\xd8\xff", b"II*\x00"]
)
def test_a_file_that_is_no_picture_is_refused_with_a_sentence(data):
    with pytest.raises(PictureError) as caught:
        read_picture(data)
    assert str(caught.value).endswith(".") and "nothing was changed" in str(caught.value).lower()


def mutated(data, rng):
    """A file with bytes changed, cut out, doubled or swapped, mostly near its beginning, where its structure is."""
    data = bytearray(data)
    for _ in range(int(rng.integers(1, 12))):
        at = min(int(rng.integers(8, len(data)) ** (0.5 + rng.random() / 2)), len(data) - 1)
        deed = rng.integers(4)
        if deed == 0:
            data[at] = int(rng.integers(256))
        elif deed == 1:
            del data[at : at + int(rng.integers(1, 40))]
        elif deed == 2:
            data[at:at] = data[at : at + int(rng.integers(1, 40))]
        else:
            data[at : at + 4] = (b"\xff" * 4, bytes(4), b"\x00\x00\x00\x01", b"\x7f\xff\xff\xff")[int(rng.integers(4))]
    return bytes(data)


SEEDS = {
    "png": png_bytes(samples()), "png 16": encode_picture(samples(16), None, Output("png", 16), Metadata(camera_block())),
    "jpeg": encode_picture(samples(), None, Output("jpeg"), Metadata(camera_block())),
    "tiff": encode_picture(samples(16, 4)[:, :, :3], samples(16, 4)[:, :, 3], Output("tiff", 16), Metadata(camera_block())),
    "tiff plain": file_of(samples(16), "TIFF"), "grey": file_of(samples()[:, :, 0], "TIFF", photometric="minisblack"),
}  # fmt: skip


@pytest.mark.parametrize("name", SEEDS)
@pytest.mark.filterwarnings("ignore")
def test_damaged_files_never_raise_anything_else(name):
    rng = np.random.default_rng(list(SEEDS).index(name))
    for _ in range(150):
        with contextlib.suppress(PictureError):
            assert read_picture(mutated(SEEDS[name], rng), 10_000_000).codes.dtype == np.uint16


def test_alpha_is_taken_apart_in_little_room():
    """A valid picture must not need many times its own size (tracemalloc sees what NumPy asks for)."""
    array = np.full((1500, 1500, 4), 30_000, np.uint16)
    data = file_of(array, "TIFF", photometric="rgb", extrasamples=["assocalpha"])
    tracemalloc.start()
    read_picture(data)
    peak = tracemalloc.get_traced_memory()[1]
    tracemalloc.stop()
    assert peak < 4 * array.nbytes


def test_a_pipe_is_no_picture(tmp_path):
    os.mkfifo(tmp_path / "pipe.png")
    with pytest.raises(PictureError, match="pipe"):
        read_picture(tmp_path / "pipe.png")


def test_float_samples_are_taken_as_0_to_1_and_said_to_be():
    plain = samples(16)
    decoded = read_picture(file_of((plain / 65535).astype(np.float32), "TIFF", photometric="rgb"))
    assert np.array_equal(np.moveaxis(decoded.codes, 0, 2), plain) and "floating" in decoded.metadata.notes[0]
    beyond = read_picture(file_of(np.full((4, 4, 3), 1.5, np.float32), "TIFF", photometric="rgb"))
    assert beyond.codes.min() == 65535 and any("clipped" in note for note in beyond.metadata.notes)


def test_samples_of_another_kind_are_refused_by_name():
    with pytest.raises(PictureError, match="8 and 16 bits"):
        read_picture(file_of(samples().astype(np.int32), "TIFF", photometric="rgb"))


@pytest.mark.parametrize(
    ("arguments", "word"),
    [(("gif",), "format"), (("jpeg", 16), "16"), (("png", 12), "depth"), (("jpeg", 8, 0), "quality")],
)
def test_an_output_that_cannot_be_is_refused(arguments, word):
    with pytest.raises(ExportError, match=word):
        Output(*arguments)


def test_nothing_is_left_of_a_write_that_failed(tmp_path):
    with pytest.raises(TypeError):
        write_whole(tmp_path / "out.png", None)
    assert list(tmp_path.iterdir()) == []
