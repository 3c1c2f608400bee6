"""Newer formats, raw files and hostile ones: each decoded in a process of its own, or by a library that takes care."""

import io

import imagecodecs
import numpy as np
import pillow_heif
import pytest
import tifffile
from PIL import Image

from glyptic.adjust.white_balance import light_of
from glyptic.base.errors import PictureError, PictureTooLarge
from glyptic.demo.practice_camera import HEADROOM, LIGHT, raw_of
from glyptic.document.reading import DEVELOPMENT
from glyptic.formats import read_picture
from glyptic.formats.icc import of_space
from glyptic.formats.raw import looked_at
from glyptic.formats.reading import limits_of
from glyptic.formats.source import Source
from glyptic.formats.wish import Wish
from glyptic.pixels.spaces import DISPLAY_P3, SRGB, WIDE, carried
from glyptic.pixels.transfer import linear
from tests.conftest import colourful

EIGHT = np.moveaxis(colourful(64, 48) >> 8, 0, 2).astype(np.uint8)
SIXTEEN = np.moveaxis(colourful(64, 48), 0, 2)


def by_pillow(kind, **more):
    buffer = io.BytesIO()
    Image.fromarray(EIGHT).save(buffer, kind, **more)
    return buffer.getvalue()


def heif(**more):
    buffer = io.BytesIO()
    held = pillow_heif.from_pillow(Image.fromarray(EIGHT))
    held.save(buffer, quality=-1, chroma=444, matrix_coefficients=0, **more)
    return buffer.getvalue()


FILES = {
    "webp": lambda: by_pillow("WEBP", lossless=True, icc_profile=of_space(DISPLAY_P3)),
    "avif": lambda: by_pillow("AVIF", quality=100, subsampling="4:4:4", icc_profile=of_space(DISPLAY_P3)),
    "heif": heif,
    "jxl": lambda: imagecodecs.jpegxl_encode(EIGHT, lossless=True),
}


@pytest.mark.parametrize("name", FILES)
def test_newer_formats_are_read_with_their_profiles(name):
    decoded = read_picture(FILES[name]())
    assert decoded.codes.shape == (3, 48, 64) and decoded.depth == 8
    off = np.abs(np.moveaxis(decoded.codes, 0, 2) // 257 - EIGHT.astype(int))
    assert off.max() <= (5 if name in ("avif", "heif") else 0)
    assert decoded.space is (DISPLAY_P3 if name in ("webp", "avif") else SRGB)


def test_more_than_8_bits_of_avif_and_jpeg_xl_are_kept():
    ten = imagecodecs.avif_encode(
        SIXTEEN >> 6, level=100, bitspersample=10, primaries=12, transfer=13, matrix=0, pixelformat="444"
    )
    decoded = read_picture(ten)
    assert decoded.depth == 16 and decoded.space is DISPLAY_P3
    assert np.abs(np.moveaxis(decoded.codes, 0, 2).astype(int) - SIXTEEN).max() <= 64
    linear_light = read_picture(imagecodecs.jpegxl_encode(SIXTEEN, lossless=True))
    assert linear_light.depth == 16 and "Converted from" in linear_light.metadata.notes[0]


def test_pages_of_a_tiff_are_counted_and_chosen_and_small_copies_left_out():
    buffer = io.BytesIO()
    with tifffile.TiffWriter(buffer) as made:
        made.write(EIGHT, photometric="rgb")
        made.write(EIGHT[::4, ::4], photometric="rgb", subfiletype=1)
        made.write(SIXTEEN[::2], photometric="rgb")
    first, second = (read_picture(buffer.getvalue(), wish=Wish(page=page)) for page in (1, 2))
    assert first.pages == second.pages == 2
    assert first.codes.shape == (3, 48, 64) and second.codes.shape == (3, 24, 64) and second.depth == 16
    with pytest.raises(PictureError, match="2 pictures"):
        read_picture(buffer.getvalue(), wish=Wish(page=3))


@pytest.mark.parametrize(
    "more", [{"bigtiff": True}, {"tile": (16, 16)}, {"compression": "zstd"}, {"compression": "lzw"}]
)
def test_tiffs_of_every_make_are_read(more):
    buffer = io.BytesIO()
    tifffile.imwrite(buffer, SIXTEEN, photometric="rgb", **more)
    assert np.array_equal(np.moveaxis(read_picture(buffer.getvalue()).codes, 0, 2), SIXTEEN)


SCENE = np.repeat(np.repeat(EIGHT, 4, 0), 4, 1)


def development(**settings):
    return DEVELOPMENT.parse(settings, "", [])


def light_seen(decoded):
    return linear(np.clip(carried(decoded.codes / 65535, decoded.space, SRGB), 0, 1))


def test_a_raw_file_is_developed_as_the_camera_set_it_into_wide():
    decoded = read_picture(raw_of(SCENE))
    assert decoded.space is WIDE and decoded.depth == 16 and decoded.format == "raw"
    mean, wanted = light_seen(decoded).mean((1, 2)), linear(SCENE / 255).mean((0, 1))
    assert mean / wanted == pytest.approx([HEADROOM] * 3, rel=0.03), "the colours of the scene, with room for lights"


def test_exposure_and_light_are_chosen_before_anything_is_rounded():
    raw = raw_of(SCENE)
    as_shot, brighter = (read_picture(raw, wish=Wish(development=development(exposure=e))) for e in (0, 0.8))
    ratio = light_seen(brighter).mean() / light_seen(as_shot).mean()
    assert ratio == pytest.approx(2**0.8, rel=0.04)
    same = development(light="chosen", temperature=LIGHT[0], tint=LIGHT[1])
    chosen = read_picture(raw, wish=Wish(development=same))
    assert np.abs(chosen.codes.astype(int) - as_shot.codes).mean() < 65535 * 2e-3
    warmer = light_seen(read_picture(raw, wish=Wish(development=development(light="chosen", temperature=7000))))
    balance = warmer.mean((1, 2)) / light_seen(as_shot).mean((1, 2))
    assert balance[0] > 1.1 and balance[2] < 0.95


def test_the_light_the_camera_set_is_told():
    picture, told = looked_at(Source(raw_of(SCENE)), DEVELOPMENT.defaults, limits_of(10**7))
    assert told == pytest.approx(LIGHT, rel=0.02) and picture.samples.shape[:2] == (96, 128)
    assert light_of(0.5, 0.5, 0.5, SRGB)[0] == pytest.approx(6504, abs=30)


def test_a_picture_too_large_is_refused_before_it_is_decoded():
    for make in (FILES["avif"], FILES["heif"], FILES["jxl"], lambda: raw_of(SCENE)):
        with pytest.raises(PictureTooLarge, match="megapixels"):
            read_picture(make(), limit=1000)


@pytest.mark.parametrize("name", [*FILES, "raw"])
def test_damaged_files_get_a_sentence_whatever_the_decoder_does(name):
    data = raw_of(SCENE) if name == "raw" else FILES[name]()
    rng = np.random.default_rng(3)
    broken = bytearray(data)
    for at in rng.integers(16, len(data), 60):
        broken[at] = rng.integers(256)
    for content in (data[: len(data) // 2], bytes(broken)):
        try:
            assert read_picture(content, 10**6).codes.dtype == np.uint16
        except PictureError as error:
            assert "nothing was changed" in str(error).lower()
