"""Captions and rights, read from blocks of EXIF, XMP and IPTC and written into all three, by exiv2, which keeps what it
does not know. Source: IPTC Photo Metadata Standard 2024 (which words stand where)."""

from __future__ import annotations

import json
import sys
from typing import Any

import exiv2

from glyptic.decoders.carrier import carried_blocks, carrier

PLACES = {
    "title": (("Xmp.dc.title",), ("Iptc.Application2.ObjectName",), ()),
    "caption": (("Xmp.dc.description",), ("Iptc.Application2.Caption",), ("Exif.Image.ImageDescription",)),
    "creator": (("Xmp.dc.creator",), ("Iptc.Application2.Byline",), ("Exif.Image.Artist",)),
    "copyright": (("Xmp.dc.rights",), ("Iptc.Application2.Copyright",), ("Exif.Image.Copyright",)),
    "rights": (("Xmp.xmpRights.UsageTerms",), (), ()),
    "keywords": (("Xmp.dc.subject",), ("Iptc.Application2.Keywords",), ()),
}
"""Where each word stands: in XMP, IPTC and EXIF."""
LONGEST_IPTC = {"title": 64, "caption": 2000, "creator": 32, "copyright": 128, "keywords": 64}
"""Bytes that a dataset of IPTC holds."""
RIGHTS = ("creator", "copyright", "rights")
MANY = ("keywords",)
ALTERNATIVES = ("Xmp.dc.title", "Xmp.dc.description", "Xmp.dc.rights", "Xmp.xmpRights.UsageTerms")
PLACE_STARTS = (
    "Exif.GPSInfo.", "Exif.Image.GPSTag", "Xmp.exif.GPS", "Xmp.iptcExt.Location", "Iptc.Application2.City",
    "Iptc.Application2.SubLocation", "Iptc.Application2.ProvinceState", "Iptc.Application2.CountryCode",
    "Iptc.Application2.CountryName", "Iptc.Application2.LocationCode", "Iptc.Application2.LocationName",
)  # fmt: skip
PLACE_NAMES = (".City", ".State", ".Country", ".Location", ".CountryCode")
"""What tells where a picture was taken: how keys begin, and what XMP calls it whatever the schema."""
OF_THE_FILE = (
    "Exif.Image.Orientation", "Xmp.tiff.Orientation", "Xmp.tiff.ImageWidth", "Xmp.tiff.ImageLength", "Exif.Thumbnail.",
    "Xmp.xmp.Thumbnails", "Xmp.exif.PixelXDimension", "Xmp.exif.PixelYDimension", "Xmp.exif.ColorSpace",
    "Exif.Photo.PixelXDimension", "Exif.Photo.PixelYDimension", "Exif.Photo.ColorSpace", "Exif.Iop.",
)  # fmt: skip
"""What was true of the file that came, and is not of the one that goes."""


def _plain(value: Any) -> str:
    text = str(value.toString()).strip("\0 ")
    if text.startswith('lang="') and '" ' in text:
        text = text.split('" ', 1)[1].split(", lang=", 1)[0]
    return text


def _listed(data: Any, key: str) -> list[str]:
    """The texts of a datum that may hold several."""
    found: list[str] = []
    for datum in data:
        if datum.key() != key:
            continue
        value = datum.value()
        count = value.count() if key.startswith("Xmp.") and key not in ALTERNATIVES else 1
        found += [str(value.toString(i)).strip() for i in range(count)] if count > 1 else [_plain(value)]
    return [text for text in found if text]


def read(image: Any) -> dict[str, Any]:
    """The words of an image: XMP's first, then IPTC's, then EXIF's."""
    sets = (image.xmpData(), image.iptcData(), image.exifData())
    words: dict[str, Any] = {}
    for name, places in PLACES.items():
        found: list[str] = []
        for data, keys in zip(sets, places, strict=True):
            found = found or [text for key in keys for text in _listed(data, key)]
        words[name] = found if name in MANY else "; ".join(found) if name == "creator" else (found[0] if found else "")
    return words


def _drop(data: Any, starts: tuple[str, ...], ends: tuple[str, ...] = ()) -> None:
    keys = {datum.key() for datum in data}
    for key in {key for key in keys if key.startswith(starts) or (ends and key.endswith(ends))}:
        while (at := data.findKey(_key(data, key))) != data.end():
            data.erase(at)


def _key(data: Any, key: str) -> Any:
    return {"X": exiv2.XmpKey, "I": exiv2.IptcKey, "E": exiv2.ExifKey}[key[0]](key)


def write(image: Any, words: dict[str, Any]) -> None:
    """Put words into all three, so that they agree; one that is empty is taken out everywhere."""
    xmp, iptc, exif = image.xmpData(), image.iptcData(), image.exifData()
    for name, (in_xmp, in_iptc, in_exif) in PLACES.items():
        values = [text for text in (words[name] if name in MANY else [words[name]]) if text]
        for data, keys in ((xmp, in_xmp), (iptc, in_iptc), (exif, in_exif)):
            _drop(data, keys) if keys else None
        if not values:
            continue
        for key in in_xmp:
            _put_xmp(xmp, key, values, name)
        for key in in_iptc:
            for text in values:
                cut = text.encode()[: LONGEST_IPTC[name]].decode("utf-8", "ignore")
                iptc.add(exiv2.IptcKey(key), exiv2.StringValue(cut))
        for key in in_exif:
            exif[key] = "; ".join(values)
    if iptc.count():
        iptc["Iptc.Envelope.CharacterSet"] = "\x1b%G"


def _put_xmp(xmp: Any, key: str, values: list[str], name: str) -> None:
    if key in ALTERNATIVES:
        value = exiv2.LangAltValue()
        value.read(f"lang=x-default {values[0]}")
    else:
        value = exiv2.XmpArrayValue(exiv2.TypeId.xmpBag if name in MANY else exiv2.TypeId.xmpSeq)
        for text in values:
            value.read(text)
    xmp.add(exiv2.XmpKey(key), value)


def leave(image: Any, which: str, place: bool) -> None:
    """Take out what is not to leave. which: all, rights or none; place: whether where it was taken may leave."""
    sets = (image.xmpData(), image.iptcData(), image.exifData())
    for data in sets:
        _drop(data, OF_THE_FILE)
        if not place:
            _drop(data, PLACE_STARTS, PLACE_NAMES)
    if which == "all":
        return
    words = read(image)
    for data in sets:
        data.clear()
    if which == "rights":
        write(image, {name: words[name] if name in RIGHTS else ([] if name in MANY else "") for name in PLACES})


def main() -> None:
    """A request in JSON on standard input: exif, xmp, iptc in base 64; words to be written, or null; which may leave,
    or null; place. The answer: the blocks as they are then, and the words."""
    request = json.loads(sys.stdin.read())
    exiv2.LogMsg.setLevel(exiv2.LogMsg.Level.mute)
    image = exiv2.ImageFactory.open(carrier(request))
    image.readMetadata()
    if request["words"] is not None:
        write(image, request["words"])
    if request["leave"] is not None:
        leave(image, request["leave"], request["place"])
    words = read(image)
    image.writeMetadata()
    stream = image.io()
    stream.open()
    data = bytes(stream.mmap())
    sys.stdout.write(json.dumps({**carried_blocks(data), "words": words}))


if __name__ == "__main__":
    main()
